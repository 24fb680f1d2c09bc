// npm run screenshots: makes docs/screenshots from the demo term, at 1280×800, through the real interface.
import { mkdtempSync, mkdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { launchChromium } from './chromium.mjs'
import { startBuiltServer } from './built-server.mjs'
import { openDemo } from './open-demo.mjs'
import { checkPicture } from './pictures.mjs'
import { buildWhenStale, root } from './setup.mjs'
import { startCaptioning } from './stand-ins.mjs'

await buildWhenStale()
const out = join(root, 'docs/screenshots')
mkdirSync(out, { recursive: true })
const data = mkdtempSync(join(tmpdir(), 'thaw-shots-'))
const KEY = 'a-key-for-screenshots'
const captioning = await startCaptioning({ data: join(data, 'captioning'), pace: 1 })
const server = await startBuiltServer({ data, key: KEY, demo: true, settings: captioning.settings })
const { origin, courseSite } = server
const author = await launchChromium()
const student = await launchChromium()
const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms))
const aria = (target, role, name) => target.waitForSelector(`::-p-aria([name="${name}"][role="${role}"])`)

try {
  const page = await author.newPage()
  const shoot = async (target, name) => {
    await checkPicture(target, name)
    await target.screenshot({ path: join(out, `${name}.png`) })
    console.log(name)
  }
  await page.goto(origin)
  await page.waitForSelector('::-p-text(Start my own)')
  await pause(600)
  await shoot(page, 'welcome')
  await openDemo(page, `${origin}/#key=${KEY}`)
  await page.waitForSelector('.card')
  // The stills on the cards are made by jobs; wait until none is under way.
  await page.waitForFunction(
    () => document.querySelectorAll('.still[style]').length >= 7 && !document.querySelector('header .count'),
    { timeout: 120_000 },
  )
  await pause(800)
  await shoot(page, 'term')
  await (await aria(page, 'button', 'New lecture')).click()
  await pause(700)
  await shoot(page, 'new-lecture')

  const desk = async (path, name, before) => {
    await page.goto(origin + path)
    await page.waitForSelector('.lane.sound canvas')
    await pause(1200)
    await before?.()
    await pause(600)
    await shoot(page, name)
  }
  await desk('/lecture/flow?step=tidied', 'desk-tidy', async () => {
    await page.click('.seam:nth-of-type(6) .fold').catch(() => page.click('.seam .fold'))
    for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight')
  })
  const tab = async (name) => (await aria(page, 'tab', name)).click()
  await desk('/lecture/balance?step=tidied', 'desk-lay-over', async () => {
    for (let i = 0; i < 9; i++) await page.keyboard.press('ArrowRight')
    await tab('Lay over')
    await (await aria(page, 'button', 'Draw')).click()
    await (await aria(page, 'button', 'Ellipse')).click()
    const { x, y, width, height } = await (await page.$('.picture .frame')).boundingBox()
    await page.mouse.move(x + 0.46 * width, y + 0.3 * height)
    await page.mouse.down()
    await page.mouse.move(x + 0.64 * width, y + 0.62 * height, { steps: 6 })
    await page.mouse.up()
    await (await aria(page, 'button', 'Text')).click()
    const text = await aria(page, 'textbox', 'Text')
    await text.click({ count: 3 })
    await text.type('Gain above, loss below')
    await pause(900)
  })
  await desk('/lecture/flow?step=captioned', 'desk-captions', async () => {
    await (await page.$$('.cue .words'))[1]?.click()
  })
  await desk('/lecture/crystals?step=asked', 'desk-questions', async () => {
    await page.click('.list button')
  })
  await desk('/lecture/isotopes?step=released', 'desk-release')
  await page.goto(`${origin}/finishes`)
  await (await aria(page, 'button', 'New finish')).click()
  const called = await aria(page, 'textbox', 'Name of the finish')
  await called.click({ count: 3 })
  await called.type('Glaciers, this autumn')
  await pause(900)
  await shoot(page, 'finishes')

  await page.goto(`${origin}/courses`)
  await aria(page, 'button', 'Edit PS 340')
  await pause(600)
  await shoot(page, 'courses')

  await page.goto(`${origin}/words/ps201`)
  const list = join(data, 'words.csv')
  writeFileSync(
    list,
    'Word,Heard as\nablation,oblation\naccumulation,\nbasal sliding,basil sliding\nfirn,fern; furn\nmoulin,mulling\n',
  )
  await (await page.waitForSelector('input[type=file]')).uploadFile(list)
  await aria(page, 'textbox', 'Word moulin')
  await (await aria(page, 'button', 'Look for them')).click()
  await pause(1500)
  await shoot(page, 'words')

  const press = async (name) => (await aria(page, 'button', name)).click()
  const serve = (fault) =>
    fetch(`${captioning.address}/fault`, { method: 'POST', body: new URLSearchParams({ fault }), redirect: 'manual' })
  const key = /Key for programs[^<]*<code>([^<]+)/.exec(await (await fetch(captioning.address)).text())[1]
  for (const [lecture, fault] of [
    ['balance', 'none'],
    ['flow', 'wrong'],
    ['glacier', 'late'],
  ]) {
    await serve(fault)
    await page.goto(`${origin}/lecture/${lecture}?step=captioned`)
    await press('More')
    await pause(700)
    await (await aria(page, 'menuitem', 'Order captions')).click()
    await pause(900)
    const field = await page.$('[aria-label="Key of the account"]')
    await field?.type(key)
    if (field) await press('Connect')
    await aria(page, 'textbox', 'Notes for those who type')
    await pause(600)
    await page.evaluate(() => [...document.querySelectorAll('.el-dialog .el-button--primary')].at(-1).click())
    await pause(6000)
  }
  await page.goto(`${origin}/orders/ps201`)
  await pause(3000)
  await shoot(page, 'orders')

  await page.goto(`${origin}/lecture/glacier/results`)
  await page.waitForSelector('.stills img', { timeout: 60_000 })
  await pause(1500)
  await shoot(page, 'results')
  await page.goto(`${origin}/lecture/glacier/marking`)
  for (const points of ['2', '1']) {
    await page.waitForSelector('form input[role=spinbutton]')
    const lines = await page.$$('form input[role=spinbutton]')
    await lines[0].click({ count: 3 })
    await page.keyboard.type(points)
    await lines[1].click({ count: 3 })
    await page.keyboard.type('1.5')
    const comment = await aria(page, 'textbox', 'Comment for the student')
    await comment.click()
    await page.keyboard.type(points === '2' ? 'Yes. Say where both are equal, too.' : 'What does the line mean?')
    if (points === '1') break
    await page.keyboard.down('Control')
    await page.keyboard.press('Enter')
    await page.keyboard.up('Control')
    await pause(900)
  }
  await pause(900)
  await shoot(page, 'marking')

  await page.goto(`${origin}/record?lecture=meltwater`)
  await (await page.waitForSelector('.el-switch')).click()
  const ceiling = await aria(page, 'switch', 'Ceiling microphone')
  // The switch itself is not drawn; what is around it is.
  await (await ceiling.evaluateHandle((e) => e.closest('.el-switch'))).click()
  await pause(1500)
  await (await aria(page, 'combobox', 'Pausing')).click()
  await pause(500)
  await (await aria(page, 'option', 'truly stops')).click()
  await pause(500)
  await (await aria(page, 'button', 'Announce …')).click()
  await (await aria(page, 'button', 'Announce it')).evaluate((e) => e.scrollIntoView({ block: 'center' }))
  await pause(500)
  await (await aria(page, 'button', 'Announce it')).click()
  await aria(page, 'button', 'Change …')
  const site = await student.newPage()
  await site.goto(`${courseSite}/`)
  await site.select('#who', 's05')
  await Promise.all([site.waitForNavigation(), site.click('main button')])
  await site.goto(`${courseSite}/courses/ps201`)
  await shoot(site, 'course-site')
  await (await aria(site, 'link', await page.$eval('aside h1', (e) => e.textContent))).click()
  await (await aria(page, 'button', 'Start recording')).click()
  const watching = await (await site.waitForSelector('iframe')).contentFrame()
  await watching.waitForFunction(() => document.querySelector('video')?.currentTime > 2, { timeout: 60_000 })
  await shoot(site, 'player-live')
  // Nobody else needs the machine then: what is lost for want of it is no part of recording.
  await site.goto('about:blank')
  await page.waitForFunction(
    () =>
      !document.querySelector('[role=timer]')?.textContent?.includes('0:0') &&
      !document.body.innerText.includes('% of frames lost'),
    { timeout: 90_000 },
  )
  await shoot(page, 'recording')
  await (await aria(page, 'button', 'Mark this')).click()
  await (await aria(page, 'button', 'Pause')).click()
  await pause(1000)
  await (await aria(page, 'button', 'Go on')).click()
  await pause(9000)
  await (await aria(page, 'button', 'Stop')).click()
  await aria(page, 'button', 'Keep it')
  await pause(800)
  await (await aria(page, 'button', 'Keep it')).click()
  await page.waitForSelector('.joint', { timeout: 60_000 })

  // Somebody who has not answered yet sees the question as it is asked.
  for (let i = 1; i <= 24; i++) {
    await site.goto(`${courseSite}/`)
    await site.evaluate(() => document.querySelector('form[action$="sign-out"]')?.submit())
    await site.waitForSelector('#who')
    await site.select('#who', `s${String(i).padStart(2, '0')}`)
    await Promise.all([site.waitForNavigation(), site.click('main button')])
    await site.goto(`${courseSite}/courses/ps201/items/place-glacier`)
    const frame = await (await site.waitForSelector('iframe')).contentFrame()
    const mark = await frame.waitForSelector('.mark')
    if (!(await mark.evaluate((m) => m.getAttribute('aria-label'))).includes('not answered')) continue
    await frame.waitForFunction(() => document.querySelector('video').readyState >= 1)
    await frame.evaluate(() => {
      document.querySelector('video').currentTime = 15
    })
    await pause(400)
    await (await aria(frame, 'button', 'Play')).click()
    await pause(2000)
    // What stands under the pointer on the line.
    const line = await (await frame.$('.timeline input')).boundingBox()
    await site.mouse.move(line.x + 0.72 * line.width, line.y + line.height / 2)
    await pause(500)
    await shoot(site, 'player')
    await site.mouse.move(line.x, 20)
    await mark.click()
    await frame.waitForSelector('[role=dialog]')
    await pause(500)
    await shoot(site, 'player-question')
    break
  }
} finally {
  await author.close()
  await student.close()
  await server.stop()
  captioning.stop()
  rmSync(data, { recursive: true, force: true })
}
