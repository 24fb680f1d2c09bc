/** By keyboard, the focus goes where the next step is: it never falls back to the top of the page. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { person, type Person } from './person'
import { AUTHOR_KEY } from './serve'
import { served } from './served'

const origin = served.origin
let who: Person
beforeAll(async () => {
  who = await person({ devices: false })
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.see('The term')
})
afterAll(() => who.leave())

/** What has the focus, by its name. */
const focused = () =>
  who.page.evaluate(() => {
    const e = document.activeElement
    return e?.getAttribute('aria-label') ?? (e?.id || e?.textContent?.replace(/\s+/g, ' ').trim().slice(0, 60)) ?? ''
  })
const press = async (...keys: string[]) => {
  for (const key of keys) await who.page.keyboard.press(key as 'Enter')
}
/** Where the focus is: whether somebody sees it there, and hears what it is on. */
const focus = (target: ElementHandle<Element>) =>
  target.evaluate((wanted) => {
    const e = document.activeElement ?? document.body
    // A styled switch hides its input in what is drawn around it.
    let drawn = e
    while (drawn.getBoundingClientRect().width < 6 && drawn.parentElement) drawn = drawn.parentElement
    const { width, height, top, left, bottom, right } = drawn.getBoundingClientRect()
    const isSeen = width > 0 && height > 0 && bottom > 0 && right > 0 && top < innerHeight && left < innerWidth
    const labels = 'labels' in e ? [...((e as HTMLInputElement).labels ?? [])].map((l) => l.textContent) : []
    const by = (e.getAttribute('aria-labelledby') ?? '')
      .split(' ')
      .map((id) => document.getElementById(id)?.textContent)
    const name = [e.getAttribute('aria-label'), e.getAttribute('title'), e.textContent, ...labels, ...by].find((t) =>
      t?.trim(),
    )
    return {
      isThere: e === wanted,
      isPage: e === document.body,
      isSeen,
      name: name?.trim().slice(0, 60) ?? '',
      html: e.outerHTML.slice(0, 200),
    }
  })
/**
 * Goes to something by Tab and presses Enter there. After every key the focus is on something that is seen and named; the
 * page itself has it once at most, where the last thing is followed by the first.
 */
const enter = async (role: string, name: string) => enterOn(await who.find(role, name), name)
async function enterOn(target: ElementHandle<Element>, name: string): Promise<void> {
  let onPage = 0
  for (let keys = 0; keys < 300; keys++) {
    await press('Tab')
    const now = await focus(target)
    if (now.isPage) expect(++onPage, `Tab ${keys} on the way to “${name}” falls back to the page`).toBe(1)
    else expect(now, now.html).toMatchObject({ isSeen: true, name: expect.stringMatching(/\S/) })
    if (now.isThere) return press('Enter')
  }
  throw new Error(`Tab never comes to “${name}”.`)
}
/** Chooses one of a group by its keys, as who came to the group by Tab. */
async function choose(name: string): Promise<void> {
  await (await who.find('radio', name)).focus()
  await press('Enter')
}
const desk = async (lecture: string, step: string) => {
  await who.go(`${origin}/lecture/${lecture}?step=${step}`)
  await who.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
}

test('a new lecture is named by what is typed at once', async () => {
  await enter('button', 'New lecture in PS 201, week 4')
  await who.page.waitForSelector('.el-dialog')
  await expect.poll(focused).toBe('new-title')
  await who.page.keyboard.type('Typed at once')
  await who.see('“Typed at once” goes to PS 201')
  await press('Escape')
  await expect.poll(focused).toBe('New lecture in PS 201, week 4')
})

test('a file that is brought in is gone on with; where it cannot be read, another one is chosen', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'thaw-focus-'))
  const [bad, good] = ['notes.mp4', 'hum.mp3'].map((name) => join(folder, name)) as [string, string]
  writeFileSync(bad, 'just words '.repeat(500))
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'sine=220:d=4', good])
  const field = async () => (await who.page.waitForSelector('.el-dialog input[accept^="video/"]'))!
  try {
    await who.go(origin)
    await enter('button', 'New lecture in PS 201, week 4')
    await expect.poll(focused).toBe('new-title')
    for (const file of [bad, good]) {
      const [chooser] = await Promise.all([who.page.waitForFileChooser(), enterOn(await field(), 'Bring in a file')])
      await chooser.accept([file])
      if (file === good) break
      await who.see('Nothing was changed.')
      expect(await focus(await field())).toMatchObject({ isThere: true, isSeen: true })
    }
    await who.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
    await expect.poll(focused).toBe('content')
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})

test('the keys are shown over the page, and Escape leads back to where one was', async () => {
  await desk('layers', 'tidied')
  await enter('button', 'Keys')
  await who.see('Select the piece at the playhead')
  await who.find('button', 'Take out')
  await press('Escape')
  await who.page.waitForFunction(() => !document.querySelector('.el-dialog'))
  await expect.poll(focused).toBe('Keys')
})

test('another page is gone on in, not in the window’s head', async () => {
  await who.go(origin)
  await who.see('The term')
  await (await who.page.waitForSelector('a.card[href^="/lecture/layers"]'))?.focus()
  await press('Enter')
  await who.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
  await expect.poll(focused).toBe('content')
})

test('a question that was begun is written next', async () => {
  await desk('layers', 'asked')
  await enter('button', 'Ask at the playhead')
  await expect.poll(focused).toBe('Question')
  await who.page.keyboard.type('Which layer is weak?')
  await who.page.waitForFunction(() =>
    document.querySelector('[role=textbox][aria-label="Question"]')?.textContent?.includes('Which layer is weak?'),
  )
  await who.click('button', 'Delete this question')
})

test('a beginning of one’s own is gone by the keyboard', async () => {
  const fresh = await person({ from: undefined, devices: false })
  try {
    const name = () =>
      fresh.page.evaluate(() => {
        const e = document.activeElement
        return e?.getAttribute('aria-label') ?? (e?.id || e?.textContent?.replace(/\s+/g, ' ').trim()) ?? ''
      })
    const key = (k: string) => fresh.page.keyboard.press(k as 'Enter')
    await fresh.go(origin)
    await fresh.see('Start my own')
    await key('Tab')
    expect(await name()).toMatch(/^Start my own/)
    await key('Enter')
    await (await fresh.find('button', 'Set up a term')).focus()
    await key('Enter')
    await expect.poll(name).toBe('term-name')
    await fresh.page.keyboard.type('Spring')
    await key('Enter')
    await expect.poll(name).toBe('Add a course')
    await key('Enter')
    await expect.poll(name).toBe('course-code')
    await fresh.page.keyboard.type('BIO 101')
    await key('Tab')
    await fresh.page.keyboard.type('Cells')
    await key('Enter')
    await fresh.see('Cells')
    await expect.poll(name).toBe('Term board')
    expect(fresh.errors).toEqual([])
  } finally {
    await fresh.leave()
  }
})

test('captions that are switched on leave the focus on their state', async () => {
  await desk('isotopes', 'captioned')
  await choose('Checked')
  await expect.poll(focused).toBe('Checked')
  await choose('On for students')
  await expect.poll(focused).toBe('On for students')
})

test('who publishes is told how far it is, and then what stands', { timeout: 240_000 }, async () => {
  await desk('layers', 'released')
  await enter('button', 'Publish')
  await expect.poll(focused).toMatch(/Rendering|Sending|\d+%/)
  await who.see('What students get is what stands here.', 200_000)
  await expect.poll(focused).toMatch(/^Published/)
  expect(who.errors).toEqual([])
})
