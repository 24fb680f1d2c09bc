/** What came of a lecture: watching as it was reported, marks given by the keyboard, and what students are told of them. */
import { mkdtemp, readFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Frame } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { StoredGrading } from '#core/schema/grading'
import type { PlaceWatching } from '#core/schema/watching'
import { person, press, sees, type Person } from './person'
import { AUTHOR_KEY } from './serve'
import { stored } from './stored'
import { violations } from './violations'
import { letPass } from './at-rest'
import { served } from './served'

const origin = served.origin
const courseSite = served.courseSite
const PLACE = 'place-glacier'
let author: Person
let student: Person

beforeAll(async () => {
  author = await person({ devices: false })
  student = await person({ devices: false })
  await author.go(`${origin}/#key=${AUTHOR_KEY}`)
  await author.see('The term')
})
afterAll(async () => {
  await author.leave()
  await student.leave()
})

/** Opens the lecture as a student who is not signed in yet. */
async function openAs(who: Person, id: string): Promise<Frame> {
  await who.go(`${courseSite}/`)
  await who.page.select('#who', id)
  await who.click('button', 'Sign in')
  await who.see('My courses')
  await who.go(`${courseSite}/courses/ps201/items/${PLACE}`)
  return playerOf(who)
}
async function playerOf(who: Person): Promise<Frame> {
  const frame = await (await who.page.waitForSelector('iframe'))?.contentFrame()
  if (!frame) throw new Error('no player')
  await frame.waitForSelector('video')
  return frame
}
/** What the server knows of who watched. */
const watching = async (): Promise<PlaceWatching> =>
  author.page.evaluate(
    async (place) => (await (await fetch(`/api/places/${place}/watching`)).json()) as PlaceWatching,
    PLACE,
  )

test('what really played is reported, and another device goes on where it stopped', async () => {
  const begun = new Date().toISOString()
  const frame = await openAs(student, 's03')
  await press(frame, 'button', 'Play')
  await frame.waitForFunction(() => document.querySelector('video')!.currentTime > 7)
  await press(frame, 'button', 'Pause')
  const own = async () =>
    (await watching()).sessions.filter((s) => s.student?.subject === 's03' && s.from >= begun).at(-1)
  await expect.poll(async () => (await own())?.played[0]?.[1] ?? 0, { timeout: 30_000 }).toBeGreaterThan(7)
  const [[from, to] = [0, 0], ...more] = (await own())?.played ?? []
  expect([Math.round(from), to < 16, more.length]).toEqual([0, true, 0])
  // A page that stands open without playing is no watching.
  await letPass(3)
  expect((await own())?.played).toEqual([[from, to]])

  const other = await person({ devices: false })
  const there = await openAs(other, 's03')
  await there.waitForFunction(() => document.querySelector('video')!.readyState >= 2)
  await expect
    .poll(() => there.evaluate(() => document.querySelector('video')!.currentTime), { timeout: 20_000 })
    .toBeCloseTo(to, 0)
  // Closed in the middle of playing: what played is told all the same.
  await press(there, 'button', 'Play')
  await there.waitForFunction((t) => document.querySelector('video')!.currentTime > t + 3, {}, to)
  await other.page.goto('about:blank')
  await expect.poll(async () => (await own())?.played.at(-1)?.[1] ?? 0, { timeout: 30_000 }).toBeGreaterThan(to + 2)
  await other.leave()
}, 120_000)

test('comes by itself while results are open, along the lecture and in a table', async () => {
  await author.go(`${origin}/lecture/glacier/results`)
  await author.see('longer answers wait for a person to mark them.')
  await author.see('Who may need a word')
  const curve = await author.find('slider', 'Instant of the lecture')
  await curve.focus()
  await author.page.keyboard.press('Home')
  await author.page.keyboard.press('ArrowRight')
  expect(await curve.evaluate((e) => e.getAttribute('aria-valuetext'))).toMatch(/^0:0\d: \d+ of \d+ watched it, played/)
  await author.page.waitForFunction(() => document.querySelectorAll('.stills img').length > 5)
  expect(await violations(author.page)).toEqual([])
  // All of it scrolls within the page, and nothing beneath it.
  expect(await author.page.evaluate(() => document.documentElement.scrollHeight - innerHeight)).toBe(0)
  await author.click('link', 'Cilla Fennmark')
  await author.see('What was watched')
  expect(await violations(author.page)).toEqual([])
  await author.see('in 2 sittings')
  await author.see('not answered')
  expect(author.errors).toEqual([])
}, 60_000)

test('longer answers are marked one after another by the keyboard, and a comment is offered again', async () => {
  await author.go(`${origin}/lecture/glacier/marking`)
  await author.see('To mark (14)')
  expect(await violations(author.page)).toEqual([])
  await author.page.waitForSelector('[aria-current=true] ::-p-text(Aino Varglund)')
  const fill = async (first: string, second: string) => {
    const lines = await author.page.$$('form[aria-label=Mark] input[role=spinbutton]')
    expect(lines).toHaveLength(2)
    for (const [i, text] of [first, second].entries()) {
      await lines[i]?.click({ count: 3 })
      await author.page.keyboard.type(text)
      await author.page.keyboard.press('Tab')
    }
  }
  const keep = async () => {
    await author.page.keyboard.down('Control')
    await author.page.keyboard.press('Enter')
    await author.page.keyboard.up('Control')
  }
  await fill('1.5', '2')
  await (await author.find('textbox', 'Comment for the student')).type('Say where the snow stays.')
  await keep()
  await author.see('To mark (13)')
  await author.page.waitForFunction(() =>
    document.querySelector('[aria-current=true]')?.textContent?.includes('Dario Pellonetti'),
  )
  await fill('1', '0.5')
  await author.click('button', 'Use: Say where the snow stays.')
  await keep()
  await author.see('To mark (12)')
  // Names are not to be seen anywhere while they are hidden.
  await author.click('checkbox', 'Hide names')
  await author.page.waitForFunction(() =>
    document.querySelector('[aria-current=true]')?.textContent?.includes('Answer'),
  )
  await author.notSee('Edda Stormvik')
  await author.click('checkbox', 'Hide names')
  const marks = (await stored<StoredGrading>(author.page, 'grading')).map((g) => g.entry)
  expect(marks.map((m) => [m.kind, m.student.subject, 'points' in m ? m.points : null])).toEqual(
    expect.arrayContaining([
      ['mark', 's01', 3.5],
      ['mark', 's04', 1.5],
    ]),
  )
  expect(author.errors).toEqual([])
}, 60_000)

test('a student is told of a mark when it is released, and of what is given or excused', async () => {
  await student.page.browserContext().deleteCookie(...(await student.page.browserContext().cookies()))
  let frame = await openAs(student, 's04')
  const review = async () => {
    await press(frame, 'button', 'Your answers')
    await frame.waitForSelector('#review')
    return frame.$eval('[role=dialog]', (e) => (e as HTMLElement).innerText)
  }
  expect(await review()).not.toContain('snow stays')
  await author.click('button', 'Release all that is marked (2)')
  await author.see('2 students are told')
  await student.page.reload()
  frame = await playerOf(student)
  await review()
  await sees(frame, '1.5 of 4')
  await press(
    frame,
    'button',
    '0:36 Why does the equilibrium line move up the glacier in a warm year? partly right, 1.5 of 4',
  )
  await sees(frame, 'Say where the snow stays.')

  await author.go(`${origin}/lecture/glacier/results`)
  await author.click('link', 'Dario Pellonetti')
  await author.click('button', 'Give points for: Why does the equilibrium line move up the glacier in a warm year?')
  await author.type('Points', '4', 'spinbutton')
  await author.type('Why, for the log', 'Said so in class')
  await author.click('button', 'Keep')
  await author.see('4 of 4 (given: Said so in class)')
  await author.click('button', 'Excuse: What is ablation?')
  await author.type('Why, for the log', 'Asked unclearly')
  await author.click('button', 'Keep')
  await author.see('excused: Asked unclearly')
  await student.page.reload()
  frame = await playerOf(student)
  await review()
  await sees(frame, '4 of 4')
  await sees(frame, 'does not count')

  await author.go(`${origin}/lecture/glacier/results`)
  await author.click('button', 'Log')
  for (const text of ['Marked with 1.5 points', '4 points given in place', 'Said so in class', 'Excused', 'Released'])
    await author.see(text)
  expect([...author.errors, ...student.errors]).toEqual([])
}, 120_000)

test('all of it is saved as a workbook, as tables, and as statements', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'thaw-results-'))
  const client = await author.page.createCDPSession()
  await client.send('Browser.setDownloadBehavior', { behavior: 'allow', downloadPath: folder })
  await author.go(`${origin}/lecture/glacier/results`)
  await author.see('Who may need a word')
  const saved = async (item: string, name: string) => {
    await author.pick('Save', item)
    await expect
      .poll(
        () =>
          readFile(join(folder, name)).then(
            (data) => data.length,
            () => 0,
          ),
        { timeout: 20_000 },
      )
      .toBeGreaterThan(500)
    return readFile(join(folder, name))
  }
  const book = await saved('Everything as XLSX', 'What-a-glacier-is-results.xlsx')
  expect(book.subarray(0, 2).toString()).toBe('PK')
  const students = (await saved('Students as CSV', 'What-a-glacier-is-students.csv')).toString()
  expect(students.split('\n')[0]).toContain('Watched, per cent')
  expect(students).toMatch(/Dario Pellonetti,s04/)
  const statements = JSON.parse(
    (await saved('Watching as xAPI statements', 'What-a-glacier-is-statements.json')).toString(),
  ) as { actor: { account: { name: string } }; verb: { id: string } }[]
  expect(new Set(statements.map((s) => s.verb.id.split('/').at(-1)))).toContain('paused')
  expect(statements.some((s) => s.actor.account.name === 's03')).toBe(true)
  expect(author.errors).toEqual([])
}, 60_000)
