/** Captions that students see: switched on with one press wherever that is said, in several languages, and at once. */
import type { Frame } from 'puppeteer-core'
import { afterAll, beforeAll, expect, inject, test } from 'vitest'
import type { WatchView } from '../core/packages/watch-view'
import { person, type Person } from './person'
import { AUTHOR_KEY } from './serve'
import { storedDocument } from './stored'

const origin = inject('origin')
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
const track = async (name = 'captions') =>
  (await storedDocument(author.page, 'balance', name as 'captions'))?.document ?? null

test('published without captions is said on the term, where one press shows them to students', async () => {
  await author.go(origin)
  await author.see('The term')
  await author.page.waitForSelector('[title="Published without its captions, which are checked"]', { timeout: 60_000 })
  expect(await (await watch()).$$('.caption')).toHaveLength(0)
  expect(view.captions).toEqual([])
  await author.click('button', 'Switch captions of Mass balance on')
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
  await author.choose('Language of the track', 'French fr')
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
  await author.choose('Language of the course', 'British English en-GB')
  await author.click('checkbox', 'Checked captions go on by themselves')
  await author.click('button', 'Done')
  await desk()
  await author.click('radio', 'Checked')
  await author.see('Students see these captions.')
  expect((await track())!.state).toBe('on')
  await watch()
  expect(view.captions).toHaveLength(1)
  expect(author.errors).toEqual([])
  expect(student.errors).toEqual([])
})
