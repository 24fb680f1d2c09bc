/** Captions that students see: switched on with one press wherever that is said, in several languages, and at once. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle, Frame } from 'puppeteer-core'
import { afterAll, beforeAll, expect, inject, test } from 'vitest'
import { plainText, tokens } from '../core/captions/text'
import type { WatchView } from '../core/packages/watch-view'
import { person, type Person } from './person'
import { AUTHOR_KEY } from './serve'
import { stored, storedDocument } from './stored'
import { violations } from './violations'

const origin = inject('origin')
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
  await student.go(`${origin}/course-site/`)
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
  await student.go(`${origin}/course-site/courses/ps201`)
  await student.click('link', 'Mass balance')
  const frame = await (await student.page.waitForSelector('iframe'))?.contentFrame()
  await frame?.waitForSelector('::-p-aria([name="Play"][role="button"])')
  if (!frame) throw new Error('the player did not open')
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
  await player.waitForFunction(() => document.body.innerText.includes('Transcript'))
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
  const choice = await player.waitForSelector('::-p-aria([name="Language of the captions"])')
  await choice?.select('1')
  await player.waitForFunction(() => document.body.innerText.includes('Le bilan d’un glacier'))
  // What was chosen is chosen the next time.
  await (await watch()).waitForFunction(() => document.body.innerText.includes('Le bilan d’un glacier'))
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

test('what is hard to read is listed by kind, for what it is read on, and mended', async () => {
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

test('words are found and replaced in a whole course, seen before, and taken back at once', async () => {
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

test('a word that is corrected once is offered for the whole course, and kept in its word list', async () => {
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

test('the script is laid along what is said, and where both part a person decides', async () => {
  await desk()
  const before = (await track())!
  const said = before.cues.flatMap((c) => tokens(c.text))
  const never = 'and all of this was never said by anybody here'
  // Eight words are missing in the script, nine stand in it that nobody says.
  const script = [...said.slice(0, 12), ...said.slice(20, 40), ...never.split(' '), ...said.slice(40)]
  await author.click('button', 'From a script')
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

test('where the course says so, what is checked is on; the release says what is not', async () => {
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

test('captions of what comes are drafted by themselves, can be corrected meanwhile, and go on after a stop', async () => {
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
})
