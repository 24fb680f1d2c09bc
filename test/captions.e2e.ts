/** Captions that students see: switched on with one press wherever that is said, in several languages, and at once. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle, Frame } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { plainText, tokens } from '../core/captions/text'
import type { WatchView } from '../core/packages/watch-view'
import { lengthy } from './at-length'
import { byRole, person, sees, type Person } from './person'
import { AUTHOR_KEY } from './serve'
import { stored, storedDocument } from './stored'
import { violations } from './violations'
import { letPass } from './at-rest'
import { served } from './served'

const origin = served.origin
const courseSite = served.courseSite
const folder = mkdtempSync(join(tmpdir(), 'thaw-captions-'))
let author: Person
let student: Person
/** What the server tells the student's player, the last time. */
let view: WatchView

beforeAll(async () => {
  author = await person({ devices: false })
  student = await person({ devices: false })
  student.page.on('response', (response) => {
    if (/\/api\/watch\/[^/]+$/.test(response.url()))
      void response.json().then(
        (data) => (view = data as WatchView),
        () => undefined,
      )
  })
  await student.go(`${courseSite}/`)
  await student.page.select('#who', 's05')
  await student.click('button', 'Sign in')
  await student.see('My courses')
})
afterAll(async () => {
  await author.leave()
  await student.leave()
  rmSync(folder, { recursive: true, force: true })
})

async function watch(): Promise<Frame> {
  await student.go(`${courseSite}/courses/ps201`)
  await student.click('link', 'Mass balance')
  const frame = await (await student.page.waitForSelector('iframe'))?.contentFrame()
  if (!frame) throw new Error('the player did not open')
  await byRole(frame, 'button', 'Play')
  return frame
}
const desk = async () => {
  await author.go(`${origin}/lecture/balance?step=captioned`)
  await author.page.waitForSelector('.cues .words', { timeout: 60_000 })
}
/** Takes a language from its list, as a hand does: by its first letters. */
async function chooseLanguage(field: string, letters: string, option: string): Promise<void> {
  await author.click('combobox', field)
  await author.page.keyboard.type(letters)
  await author.page.waitForFunction(
    (wanted) =>
      [...document.querySelectorAll('.el-select-dropdown__item.is-hovering')].some(
        (e) => e.textContent?.trim() === wanted,
      ),
    {},
    option,
  )
  await author.page.keyboard.press('Enter')
}
const track = async (name = 'captions') =>
  (await storedDocument(author.page, 'balance', name as 'captions'))?.document ?? null

test('published without captions is said on the term, where one press shows them to students', async () => {
  await author.go(origin)
  await author.see('The term')
  await author.page.waitForSelector('[title="Published without its captions, which are checked"]', { timeout: 60_000 })
  expect(await (await watch()).$$('.caption')).toHaveLength(0)
  expect(view.captions).toEqual([])
  await author.click('button', 'Switch captions on for Mass balance')
  await author.see('Students see it at once.')
  await author.type('Author key', AUTHOR_KEY)
  await author.click('button', 'Sign in')
  await author.see('Captions of “Mass balance” are on.')
  expect((await track())!.state).toBe('on')
  const before = view.version
  const player = await watch()
  await sees(player, 'Transcript')
  expect(view.captions.map((c) => [c.role, c.language])).toEqual([['captions', 'en']])
  const { url } = view.captions[0]!
  expect((await fetch(origin + url)).headers.get('content-type')).toBe('text/vtt; charset=utf-8')
  for (const wrong of [url.replace('place-balance', 'place-glacier'), url.replace(/[^/]+$/, 'captions-de')])
    expect((await fetch(origin + wrong)).status).toBeGreaterThanOrEqual(400)
  // The films are the same ones.
  expect(view.version).toBe(before)
})

test('a translation has words and a history of its own, and students choose it', async () => {
  await desk()
  await author.see('Students see these captions.')
  await author.click('button', 'Another track')
  await chooseLanguage('Language of the track', 'French', 'French fr')
  await author.click('button', 'Begin it')
  await author.see('The lecture is published, and students do not see these captions: they are a draft.')
  const spoken = (await track())!
  await expect.poll(async () => (await track('captions-translation-fr'))?.cues.length).toBe(spoken.cues.length)
  await author.page.click('.cues .words')
  const field = await author.page.waitForSelector('.cues textarea')
  await field?.click({ count: 3 })
  await author.page.keyboard.down('Control')
  await author.page.keyboard.press('a')
  await author.page.keyboard.up('Control')
  await field?.type('Le bilan d’un glacier')
  await author.page.keyboard.press('Tab')
  await expect.poll(async () => (await track('captions-translation-fr'))!.cues[0]!.text).toBe('Le bilan d’un glacier')
  expect((await track())!.cues).toEqual(spoken.cues)
  await author.click('button', 'Switch them on')
  await author.see('Students see these captions.')
  const player = await watch()
  expect(view.captions.map((c) => [c.role, c.language])).toEqual([
    ['captions', 'en'],
    ['translation', 'fr'],
  ])
  const choice = await byRole(player, 'combobox', 'Language of the captions')
  await choice.select('1')
  await sees(player, 'Le bilan d’un glacier')
  // What was chosen is chosen the next time.
  await sees(await watch(), 'Le bilan d’un glacier')
  await author.click('button', 'Undo')
  await expect.poll(async () => (await track('captions-translation-fr'))!.state).toBe('draft')
  await author.see('Of captions, students see an earlier state than what stands here.')
  await author.click('button', 'Show students what stands here')
  await author.see('The lecture is published, and students do not see these captions: they are a draft.')
  await watch()
  expect(view.captions.map((c) => c.language)).toEqual(['en'])
  await author.click('button', 'Delete this track')
  await author.click('button', 'Delete them')
  await expect.poll(() => track('captions-translation-fr')).toBeNull()
  expect((await track())!.cues).toEqual(spoken.cues)
})

lengthy('what is hard to read is listed by kind, for what it is read on, and mended', async () => {
  await desk()
  const before = (await track())!
  const words = async () => (await track())!.cues.flatMap((c) => tokens(c.text))
  await author.page.click('.problems summary')
  await author.choose('Measures for', 'small screens 32 a line, 17 a second, 1–6 s')
  await author.see('for small screens')
  await author.click('button', 'Mend all: a line too long')
  await author.see('mended.')
  const said = await words()
  expect(said).toEqual(before.cues.flatMap((c) => tokens(c.text)))
  const lines = (await track())!.cues.flatMap((c) => plainText(c.text).split('\n'))
  expect(Math.max(...lines.map((l) => l.length))).toBeLessThanOrEqual(32)
  expect((await track())!.cues.length).toBeGreaterThan(before.cues.length)
  // One of a kind is mended where it stands.
  await author.page.click('.problems .go')
  const mend = await author.page.waitForSelector('.problem .el-button')
  await mend?.click()
  await expect.poll(async () => (await track())!.cues).not.toEqual(before.cues)
  for (let n = 0; n < 2; n++) await author.click('button', 'Undo')
  await expect.poll(async () => (await track())!.cues).toEqual(before.cues)
  await author.choose('Measures for', 'lectures 42 a line, 20 a second, 1–7 s')
})

lengthy('words are found and replaced in a whole course, seen before, and taken back at once', async () => {
  await desk()
  const before = (await track())!
  const text = async () => (await track())!.cues.map((c) => plainText(c.text)).join(' ')
  await author.click('button', 'Find and replace')
  await author.type('Find', 'long stakes')
  await author.type('Replace by', 'tall poles')
  await author.see('Found 1 time in 1 lecture.')
  await author.click('radio', 'All of PS 201')
  await author.see('Mass balance, English captions')
  await author.click('button', 'Replace 1 time')
  await author.see('Replaced 1 time in 1 lecture.')
  expect(await text()).toContain('We drill tall poles into')
  await author.see('Not found.')
  await author.click('button', 'Take it back')
  await author.see('Taken back.')
  await expect.poll(async () => (await track())!.cues).toEqual(before.cues)
  await author.click('button', 'Close')
})

lengthy('a word that is corrected once is offered for the whole course, and kept in its word list', async () => {
  await desk()
  const before = (await track())!
  const at = before.cues.findIndex((c) => /\ba\s+glacier\b/.test(plainText(c.text)))
  await (await author.page.$$('.cues .words'))[at]!.click()
  const field = await author.page.waitForSelector('.cues textarea')
  await field?.evaluate((e) => {
    e.value = e.value.replace('glacier', 'Glacier')
    e.dispatchEvent(new Event('input'))
    e.dispatchEvent(new Event('change'))
  })
  await author.see('“glacier” is “Glacier”; wrong')
  await author.click('button', 'Keep in the word list')
  await author.see('In the word list')
  await author.click('button', 'See and replace')
  await author.see('What a glacier is, English captions')
  await author.page.keyboard.press('Escape')
  await author.click('button', 'Undo')
  await expect.poll(async () => (await track())!.cues).toEqual(before.cues)

  await author.go(origin)
  await author.click('button', 'Settings of PS 201')
  await author.see('1 word of the subject')
  await author.click('link', 'Word list')
  await author.find('textbox', 'Word Glacier')
  const file = join(folder, 'words.csv')
  writeFileSync(file, 'Word,Heard as\nfirn,fern\n')
  const input = (await author.page.waitForSelector('input[type=file]')) as ElementHandle<HTMLInputElement>
  await input.uploadFile(file)
  await author.see('Took 1 word from “words.csv”.')
  expect((await stored<{ words: object[] }>(author.page, 'words'))[0]?.words).toHaveLength(2)
  await author.click('button', 'Look for them')
  await author.click('button', 'Replace “glacier”')
  await author.see('None is left.')
  expect((await track())!.cues.some((c) => /\bglacier\b/.test(c.text))).toBe(false)
  await author.click('button', 'Take it back')
  await author.see('Taken back.')
  expect((await track())!.cues).toEqual(before.cues)
  await author.page.waitForFunction(() => !document.querySelector('.is-loading'))
  expect(await violations(author.page)).toEqual([])
  await author.click('button', 'Delete Glacier')
  await expect.poll(async () => (await stored<{ words: object[] }>(author.page, 'words'))[0]?.words).toHaveLength(1)
})

lengthy('the script is laid along what is said, and where both part a person decides', async () => {
  await desk()
  const before = (await track())!
  const said = before.cues.flatMap((c) => tokens(c.text))
  const never = 'and all of this was never said by anybody here'
  // Eight words are missing in the script, nine stand in it that nobody says.
  const script = [...said.slice(0, 12), ...said.slice(20, 40), ...never.split(' '), ...said.slice(40)]
  await author.pick('More', 'From a script')
  await author.type('Script', script.join(' '))
  await author.click('button', 'Lay it along what is said')
  await author.see('In 2 places script and speech part:')
  await author.see('Said, not in the script')
  await author.click('checkbox', 'Put it into the captions')
  await author.click('button', 'Take the script')
  const words = async () => (await track())!.cues.flatMap((c) => tokens(c.text))
  await expect.poll(words).toEqual(said)
  const starts = (cues: typeof before.cues) => cues.flatMap((c) => (c.words ?? []).map((w) => w.from))
  const [was, is] = [starts(before.cues), starts((await track())!.cues)]
  expect(is.filter((t, i) => Math.abs(t - was[i]!) < 0.3).length / is.length).toBeGreaterThan(0.95)
  expect((await track())!.state).toBe('draft')
  await author.click('button', 'Undo')
  await expect.poll(async () => (await track())!.cues).toEqual(before.cues)
})

test('captions are gone through by the keyboard alone: confirmed, timed, parted, named, placed and mended', async () => {
  await desk()
  const before = (await track())!
  const { keyboard } = author.page
  const press = async (keys: string) => {
    const all = keys.split('+')
    for (const key of all.slice(0, -1)) await keyboard.down(key as 'Alt')
    await keyboard.press(all.at(-1) as 'Enter')
    for (const key of all.slice(0, -1)) await keyboard.up(key as 'Alt')
  }
  const cues = async () => (await track())!.cues
  const open = () => author.page.$eval('.cue.open', (e) => (e as HTMLElement).dataset.cue)
  const opened = (id: string) =>
    author.page.waitForFunction(
      (wanted) => document.activeElement?.closest<HTMLElement>('.cue.open')?.dataset.cue === wanted,
      {},
      id,
    )
  await author.click('button', 'Go through them one by one')
  await opened(before.cues[0]!.id)
  await press('Enter')
  await opened(before.cues[1]!.id)
  await author.see(`1 of ${before.cues.length} cues gone through`)
  expect((await cues()).map((c) => c.checked)).toEqual(before.cues.map((_, i) => (i === 0 ? true : undefined)))

  // Its times, a frame at a time: the one before gives way.
  const [first, second] = before.cues
  await press('Alt+Comma')
  await expect.poll(async () => (await cues())[1]!.from).toBeLessThan(second!.from)
  const now = await cues()
  expect(now[0]!.to).toBeLessThanOrEqual(now[1]!.from + 1e-6)
  expect(now[0]!.from).toBe(first!.from)
  await press('Alt+Period')
  await press('Alt+Shift+Period')
  await expect.poll(async () => (await cues())[1]!.to).toBeGreaterThan(second!.to)

  // Italics around a word, and who speaks.
  await press('Control+Home')
  await press('Shift+Control+ArrowRight')
  await press('Control+i')
  await expect.poll(async () => (await cues())[1]!.text).toMatch(/^<i>\S+ ?<\/i>/)
  await press('Alt+s')
  await keyboard.type('Guest')
  await press('Enter')
  await expect.poll(async () => (await cues())[1]!.text).toMatch(/^<v Guest><i>/)
  await author.choose('Stands at', 'top')
  await expect.poll(async () => (await cues())[1]!.settings).toBe('line:0')
  await author.page.waitForSelector('.frame .caption.top')
  expect(await author.page.$eval('.frame .caption', (e) => e.textContent)).toMatch(/^\s*Guest: /)

  // Played again and again, and from there to the next and back.
  await author.page.focus('.cue.open textarea')
  await press('Alt+l')
  await author.find('button', 'Play it again and again')
  await author.page.waitForFunction(() => document.querySelector('[aria-label="Pause"]'))
  const until = Date.now() + 1000 * (second!.to - second!.from) + 2500
  let latest = 0
  while (Date.now() < until) {
    latest = Math.max(
      latest,
      await author.page.$eval('.times ~ .quiet', (e) =>
        (e.textContent ?? '')
          .replace('recorded', '')
          .trim()
          .split(':')
          .reduce((sum, part) => 60 * sum + Number(part), 0),
      ),
    )
    await letPass(0.1)
  }
  expect(latest).toBeLessThan(second!.to + 1)
  expect(await open()).toBe(second!.id)
  await press('Alt+l')
  await press('Alt+p')
  await press('Alt+ArrowDown')
  await opened(before.cues[2]!.id)
  await press('Alt+ArrowUp')
  await opened(second!.id)

  // What is split has the tags on both sides, and is joined again.
  await press('Control+End')
  await press('Control+ArrowLeft')
  await press('Control+Enter')
  await expect.poll(async () => (await cues()).length).toBe(before.cues.length + 1)
  expect((await cues()).slice(1, 3).every((c) => c.text.startsWith('<v Guest>'))).toBe(true)
  await press('Alt+j')
  await expect.poll(async () => (await cues()).length).toBe(before.cues.length)
  await press('Alt+n')
  await author.page.waitForFunction(
    (id) => document.querySelector<HTMLElement>('.cue.open')?.dataset.cue !== id,
    {},
    second!.id,
  )
  await author.page.waitForFunction(() => document.activeElement?.matches('.cue.open textarea'))
  expect(await author.page.$$('.cue.open .problem')).not.toHaveLength(0)
  const count = await author.page.$$eval('.problem', (all) => all.length)
  await press('Alt+m')
  await author.page.waitForFunction((n) => document.querySelectorAll('.problem').length < n, {}, count)
  await author.page.waitForFunction(() => document.activeElement?.matches('.cue.open textarea'))

  // Students see and read it as it is.
  await desk()
  await author.see(`1 of ${before.cues.length} cues gone through`)
  await author.click('button', 'Show students what stands here')
  await author.see('Students see these captions.')
  const player = await watch()
  await player.waitForFunction(() =>
    [...document.querySelectorAll('.transcript b')].some((e) => e.textContent === 'Guest: '),
  )
  await (await player.$$('.transcript .cue button'))[1]?.click()
  await player.waitForSelector('.caption.top .i')
  await author.page.click('.history summary')
  await author.click('button', 'State: On for students')
  await expect.poll(cues).toEqual(before.cues)
  await author.click('button', 'Show students what stands here')
  await author.see('Students see these captions.')
})

lengthy('an edge of a caption is pulled on the time line, and what is written there too', async () => {
  await desk()
  const before = (await track())!
  const cue = before.cues[1]!
  await author.page.click(`.cues [data-cue="${cue.id}"] .words`)
  const grip = await author.page.waitForSelector(`.lane.captions .grip[aria-label^="End of"]`)
  await grip?.focus()
  await author.page.keyboard.press('ArrowRight')
  await expect.poll(async () => (await track())!.cues[1]!.to).toBeGreaterThan(cue.to)
  await author.click('button', 'Undo')
  await expect.poll(async () => (await track())!.cues).toEqual(before.cues)
})

lengthy('capitals and full stops are proposed where the recogniser gave none, and taken one by one', async () => {
  await desk()
  const before = (await track())!
  const small = before.cues.map((c) =>
    plainText(c.text)
      .toLowerCase()
      .replace(/[.,;:!?]/g, ''),
  )
  await author.pick('More', 'Capitals and full stops')
  await author.see('There is nothing to propose')
  await author.click('button', 'Close')
  const file = join(folder, 'small.vtt')
  const stamp = (t: number) => new Date(1000 * t).toISOString().slice(11, 23)
  writeFileSync(
    file,
    `WEBVTT\n\n${before.cues.map((c, i) => `${stamp(c.from)} --> ${stamp(c.to)}\n${small[i]}\n`).join('\n')}`,
  )
  const input = (await author.page.waitForSelector('.sheet input[type=file]')) as ElementHandle<HTMLInputElement>
  await input.uploadFile(file)
  await author.see(`Read ${before.cues.length} cues`)
  await author.pick('More', 'Capitals and full stops')
  // What comes without the times of words was written by a person.
  await author.see('There is nothing to propose')
  await author.click('button', 'Close')
  await author.click('button', 'Undo')
  await expect.poll(async () => (await track())!.cues).toEqual(before.cues)
})

test('what is said is read, printed and saved as a text, with the slides', async () => {
  await desk()
  await author.pick('More', 'Text to read and print')
  const iframe = await author.page.waitForSelector('iframe[title="The text"]')
  const page = (await iframe?.contentFrame())!
  await page.waitForFunction(
    () => document.querySelectorAll('p').length > 2 && document.querySelectorAll('img').length > 0,
  )
  const text = await page.evaluate(() => document.body.innerText.replace(/\s+/g, ' '))
  const said = (await track())!.cues.flatMap((c) => tokens(c.text))
  expect(text).toContain(said.slice(0, 6).join(' '))
  expect(await page.$$eval('time', (all) => all.length)).toBeGreaterThan(1)
  await author.click('checkbox', 'Times')
  await author.page.waitForFunction(() =>
    document.querySelector<HTMLIFrameElement>('iframe[title="The text"]')?.contentDocument?.querySelector('p'),
  )
  expect(await violations(author.page)).toEqual([])
  await author.click('button', 'Close')
})

lengthy('where the course says so, what is checked is on; the release says what is not', async () => {
  await desk()
  await author.click('radio', 'Draft')
  await author.see('The lecture is published, and students do not see these captions: they are a draft.')
  await watch()
  expect(view.captions).toEqual([])
  await author.go(`${origin}/lecture/balance?step=released`)
  await author.see('Captions are a draft and not on: students do not see them.')
  await author.find('button', 'Switch them on')
  await author.go(origin)
  await author.click('button', 'Settings of PS 201')
  await chooseLanguage('Language of the course', 'British', 'British English en-GB')
  await author.click('checkbox', 'Checked captions go on by themselves')
  await author.click('button', 'Done')
  await desk()
  await author.click('radio', 'Checked')
  await author.see('Students see these captions.')
  expect((await track())!.state).toBe('on')
  await watch()
  expect(view.captions).toHaveLength(1)
})

lengthy('captions are ordered of a service, come back as checked, and what speaks against them is held', async () => {
  const service = served.captioning
  const key = /Key for programs[^<]*<code>([^<]+)/.exec(await (await fetch(service)).text())?.[1] ?? ''
  await author.go(origin)
  await author.click('button', 'Pick several')
  for (const title of ['Mass balance', 'Reading a slope'])
    await (await author.page.waitForSelector(`::-p-xpath(//a[@role="checkbox"][.//span[text()="${title}"]])`))?.click()
  await author.click('button', 'Order captions …')
  await author.find('textbox', 'Address of the service')
  const field = '[aria-label="Address of the service"]'
  await expect.poll(() => author.page.$eval(field, (e) => (e as HTMLInputElement).value)).toBe(service)
  await author.type('Key of the account', 'a-wrong-one')
  await author.click('button', 'Connect')
  await author.see('The captioning service does not take the key.')
  await author.type('Key of the account', key)
  await author.click('button', 'Connect')
  await author.see('Account A practice account')
  await author.see('It has no sound yet.')
  expect(await violations(author.page)).toEqual([])
  const before = (await track())!
  await author.type('Notes for those who type', 'Stakes are poles.')
  await author.click('button', 'Order for €1.40')
  await author.see('Ordered for 1 lecture.')
  await author.click('link', 'Orders of the course')
  await author.see('1 order, ')
  await author.see('joined on', 120_000)
  await author.see('€1.40 in all')
  expect(await violations(author.page)).toEqual([])
  const joined = (await track())!
  expect(joined).toMatchObject({ source: 'service', state: 'on' })
  expect(joined.cues).toHaveLength(before.cues.length)
  expect(joined.cues.every((c) => c.checked)).toBe(true)
  expect(await (await fetch(service)).text()).toContain('“Stakes are poles.”')

  // Those of another lecture are held; the captions stay as they were.
  await fetch(`${service}/fault`, { method: 'POST', body: new URLSearchParams({ fault: 'wrong' }), redirect: 'manual' })
  await desk()
  await author.click('button', 'Undo')
  await expect.poll(async () => (await track())!.cues).toEqual(before.cues)
  await author.pick('More', 'Order captions')
  await author.click('button', 'Order for €1.40')
  await author.click('button', 'Close')
  await author.see('Captions are ordered.')
  await author.see('Captions that were ordered have come, and are held.', 120_000)
  expect((await track())!.cues).toEqual(before.cues)
  await author.click('link', 'Where it stands')
  await author.see('it may be of another lecture')
  await author.click('button', 'Leave them: Mass balance')
  await author.see('came, and was left')
  await fetch(`${service}/fault`, { method: 'POST', body: new URLSearchParams({ fault: 'late' }), redirect: 'manual' })
  await desk()
  await author.pick('More', 'Order captions')
  await author.click('button', 'Order for €1.40')
  await author.click('link', 'Orders of the course')
  await author.see('is being typed')
  await author.click('button', 'Cancel: Mass balance')
  await author.see('cancelled')
  await author.see('3 orders, 0 open')
  await fetch(`${service}/fault`, { method: 'POST', body: new URLSearchParams({ fault: 'none' }), redirect: 'manual' })
  expect((await track())!.cues).toEqual(before.cues)
})

lengthy(
  'captions of what comes are drafted by themselves, can be corrected meanwhile, and go on after a stop',
  async () => {
    const media = (name: string) => ['-i', join(import.meta.dirname, `../public/demo/media/${name}-sound.mp4`)]
    const file = join(folder, 'Two talks.m4a')
    const joined = ['-filter_complex', '[0:a][1:a][2:a]concat=n=3:v=0:a=1']
    execFileSync('ffmpeg', ['-v', 'error', ...['flow', 'drilling', 'crystals'].flatMap(media), ...joined, file])
    await author.go(origin)
    await author.click('button', 'Settings of PS 201')
    await author.click('checkbox', 'Captions are drafted as soon as a recording has come')
    await author.click('button', 'Done')
    await author.click('button', 'New lecture in PS 201, week 5')
    const input = (await author.page.waitForSelector('input[type=file]')) as ElementHandle<HTMLInputElement>
    await input.uploadFile(file)
    await author.page.waitForFunction(() => location.pathname.startsWith('/lecture/'))
    const id = new URL(author.page.url()).pathname.split('/')[2]!
    const now = async () => (await storedDocument(author.page, id, 'captions'))?.document ?? null
    const cues = async () => (await now())?.cues ?? []
    await author.click('link', 'Captions: No captions yet')
    await author.page.waitForSelector('.cues .words', { timeout: 60_000 })
    // What is there can be corrected at once.
    await (await author.page.$('.cues .words'))?.click()
    const field = await author.page.waitForSelector('.cues textarea')
    await field?.click({ count: 3 })
    await author.page.keyboard.down('Control')
    await author.page.keyboard.press('a')
    await author.page.keyboard.up('Control')
    await field?.type('The ice flows.')
    await author.page.keyboard.press('Tab')
    await expect.poll(async () => (await cues())[0]?.text).toBe('The ice flows.')
    await author.see('left')
    await author.click('button', 'Cancel')
    await author.see('The draft stopped before the end.')
    const before = (await cues()).length
    await author.page.reload()
    await author.click('button', 'Go on with the draft')
    await expect.poll(async () => (await cues()).length, { timeout: 120_000 }).toBeGreaterThan(before)
    await author.page.waitForFunction(
      () =>
        !document.querySelector('[aria-label="Drafting captions"]') &&
        !document.body.innerText.includes('stopped before'),
      { timeout: 120_000 },
    )
    const all = await cues()
    expect(all[0]?.text).toBe('The ice flows.')
    expect(all.at(-1)!.to).toBeGreaterThan(90)
    expect((await now())!.state).toBe('draft')
    // Nothing is said twice where it went on.
    for (const [i, cue] of all.entries()) expect(cue.from).toBeGreaterThanOrEqual(all[i - 1]?.from ?? 0)
    expect(new Set(all.map((c) => c.from)).size).toBe(all.length)
    // The person's own step is the only one that can be undone.
    await author.click('button', 'Undo')
    await expect.poll(async () => (await cues())[0]?.text).not.toBe('The ice flows.')
    expect(await cues()).toHaveLength(all.length)

    // Doubtful words one after another: as they are by the keyboard, or by what else was heard.
    const doubtful = async () => (await cues()).flatMap((c) => c.words ?? []).filter((w) => w.confidence < 0.3).length
    const count = await doubtful()
    await author.click('button', 'Next doubtful words')
    await author.page.waitForSelector('.cue.open .unsure li')
    await author.page.waitForFunction(() => document.activeElement?.matches('.cue.open textarea'))
    await author.page.keyboard.down('Alt')
    await author.page.keyboard.press('Digit0')
    await author.page.keyboard.up('Alt')
    await expect.poll(doubtful).toBe(count - 1)
    const other = await author.page.waitForSelector('.cue.open .unsure button[aria-label*=" instead of "]')
    const [by = '', of = ''] = (await other!.evaluate((e) => e.ariaLabel))!.split(' instead of ')
    const opened = await author.page.$eval('.cue.open', (e) => (e as HTMLElement).dataset.cue)
    const saying = async () => tokens((await cues()).find((c) => c.id === opened)!.text)
    const said = await saying()
    await other!.click()
    await expect.poll(saying).toEqual(said.with(said.indexOf(of), by))
    expect(await doubtful()).toBe(count - 2)
    expect(author.errors).toEqual([])
    expect(student.errors).toEqual([])
  },
)
