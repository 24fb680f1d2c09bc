/** A lecture in several courses, and questions that are published anew without its films. */
import { once } from 'node:events'
import { mkdtemp, rm } from 'node:fs/promises'
import { createServer, type AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Frame } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { WatchView } from '../core/packages/watch-view'
import type { QuestionSet } from '../core/schema/questions'
import { startBuiltServer } from '../scripts/built-server.mjs'
import { byRole, person, press, sees, type Person } from './person'
import { AUTHOR_KEY } from './serve'
import { store, stored, storedDocument } from './stored'
import { violations } from './violations'
import { lineOf } from '#core/text/rich-text'
import { atRest } from './at-rest'
import { served } from './served'

const origin = served.origin
const courseSite = served.courseSite
const TITLE = 'Snow crystals'
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
  await author.go(`${origin}/#key=${AUTHOR_KEY}`)
  await author.see('The term')
  await student.go(`${courseSite}/`)
  await student.page.select('#who', 's11')
  await student.click('button', 'Sign in')
  await student.see('My courses')
})
afterAll(async () => {
  await author.leave()
  await student.leave()
})

const desk = async (step: string) => {
  await author.go(`${origin}/lecture/crystals?step=${step}`)
  await author.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
}
/** The player, as the student comes to it from the page of the course. */
async function watch(course: string): Promise<Frame> {
  await student.go(`${courseSite}/courses/${course}`)
  await student.click('link', TITLE)
  const frame = await (await student.page.waitForSelector('iframe'))?.contentFrame()
  if (!frame) throw new Error('the player did not open')
  await byRole(frame, 'button', 'Play')
  return frame
}
/** Waits until the questions are stored as told. */
async function kept(are: (set: QuestionSet) => boolean): Promise<void> {
  await expect.poll(async () => are((await storedDocument(author.page, 'crystals', 'questions'))!.document)).toBe(true)
}
async function publishAgain(): Promise<void> {
  await author.see('The lecture was changed since it was published')
  await author.click('button', 'Publish again')
  await sees(author.page, 'What students get is what stands here.')
}

test('a lecture is put into a second course without being published anew, and students may save it there', async () => {
  await desk('released')
  await author.find('list', 'Places')
  const before = await stored<{ version: string }>(author.page, 'sets')
  await author.click('button', 'Add another place')
  await author.choose('Course', 'PS 201 Glaciers and Meltwater')
  const week = await author.find('spinbutton', 'Week')
  for (let weeks = 1; weeks < 4; weeks++) await week.press('ArrowUp')
  await author.click('checkbox', 'Students may save the video')
  await author.click('button', 'Save place')
  await author.see(`“${TITLE}” is in PS 201, week 4. Students see it now.`)
  expect(await stored(author.page, 'sets')).toEqual(before)
  const second = await watch('ps201')
  const saves = await second.$$eval('a[download]', (all) => all.map((a) => [a.innerText, a.getAttribute('download')]))
  expect(saves).toEqual([
    ['Save screen', `${TITLE} screen.mp4`],
    ['Save camera', `${TITLE} camera.mp4`],
  ])
  const first = await watch('ps115')
  expect(await first.$$('a[download]')).toEqual([])
})

test('a course of one’s own is added to the course site where a lecture first goes to it', async () => {
  const oceans = { id: 'oc1', code: 'OC 1', title: 'Oceans', termId: 'term' }
  await store(author.page, 'courses', oceans)
  await desk('released')
  await author.click('button', 'Add another place')
  await author.choose('Course', 'OC 1 Oceans')
  await author.see('Students do not find OC 1 on the course site yet.')
  expect(await violations(author.page)).toEqual([])
  await author.click('button', 'Add OC 1 to the course site')
  await author.notSee('Students do not find OC 1')
  await author.click('button', 'Save place')
  await author.see('is in OC 1, week')

  const other = await person({ devices: false })
  await other.go(`${courseSite}/`)
  await other.page.select('#who', 'p03')
  await other.click('button', 'Sign in')
  await other.see('Practice course pages')
  await other.notSee('PS 201')
  await other.click('link', 'OC 1 Oceans')
  await other.click('link', TITLE)
  const frame = await (await other.page.waitForSelector('iframe'))?.contentFrame()
  await byRole(frame!, 'button', 'Play')

  await author.go(origin)
  await author.click('button', 'Settings of OC 1')
  await author.see('On the course site, with 12 students.')
  expect(await violations(author.page)).toEqual([])
  await author.click('button', 'Take off the course site')
  await author.click('button', 'Take it off')
  await author.see('Students do not find this course on the course site yet.')
  await other.go(`${courseSite}/`)
  // In other courses this student may be: tests of another file enrol the same people.
  await other.see('Casimir Wolanski')
  await other.notSee('OC 1 Oceans')
  expect([...author.errors, ...other.errors]).toEqual([])
  await other.leave()
})

test('changed questions are sent alone; where students are not told, they are not', async () => {
  await desk('asked')
  await author.click('button', 'Change')
  for (const what of ['if they are right, and why', 'their points', 'what is right'])
    await author.choose(`${what} is told`, 'never')
  await kept(({ policy: { feedback, score, solutions } }) =>
    [feedback, score, solutions].every((told) => told === 'never'),
  )
  await desk('released')
  // The demo does not know its version on the server: the first time all of it is published.
  await publishAgain()
  await watch('ps115')
  const { version, checkpoints } = view
  await desk('asked')
  await author.page.click('.list button')
  await author.type('Question', 'What is water equivalent?')
  await kept(({ checkpoints }) =>
    checkpoints.some((c) => c.questions.some((q) => lineOf(q.open.prompt) === 'What is water equivalent?')),
  )
  await desk('released')
  await author.see('Only captions or questions were changed: they are sent alone, and the video stays as it is.')
  await publishAgain()
  const player = await watch('ps115')
  expect([view.version === version, view.checkpoints[0]?.set === checkpoints[0]?.set]).toEqual([true, false])
  await (await player.waitForSelector('.timeline .mark'))?.click()
  await sees(player, 'What is water equivalent?')
  await (await player.waitForSelector('[role=dialog] input'))?.click()
  await press(player, 'button', 'Hand in answer')
  await sees(player, 'Your answer is handed in.')
  expect(await player.$eval('[role=dialog]', (d) => (d as HTMLElement).innerText)).not.toMatch(/right|Depth times/i)
})

test('answers count by the changed questions once the lecturer has seen who changes, and says why', async () => {
  await author.go(`${origin}/lecture/crystals/results`)
  await author.click('button', 'Fetch new responses')
  await author.page.waitForFunction(() => !document.querySelector('.figures dd')?.textContent?.includes('of 0'))
  await desk('asked')
  await author.page.click('.list button')
  await author.click('radio', 'Choice 1 is right')
  await kept(({ checkpoints }) => {
    const question = checkpoints[0]?.questions[0]
    return question?.key.kind === 'one-right' && question.open.kind === 'one-right'
      ? question.key.right === question.open.choices[0]?.id
      : false
  })
  await desk('released')
  await author.see('Those answers stay and count by the question as it was')
  await publishAgain()
  await author.go(`${origin}/lecture/crystals/results`)
  await author.click('button', 'Fetch new responses')
  await author.click('button', 'See who changes')
  await author.find('dialog', 'By the changed questions')
  expect(await violations(author.page)).toEqual([])
  await author.page.waitForSelector('.el-dialog tbody tr')
  const changed = await author.page.$$eval('.el-dialog tbody tr', (rows) =>
    rows.map((r) => [...r.querySelectorAll('td')].map((d) => d.textContent?.trim() ?? '')),
  )
  // Whoever chose the first is right now, and whoever was right is not; all others stay.
  expect(new Set(changed.map(([, , now, then]) => `${now}→${then}`))).toEqual(new Set(['0→2', '2→0']))
  const [name = '', , , then = ''] = changed[0] ?? []
  await author.type('Why, for the log', 'The first is right as well')
  await author.click('button', `Change ${changed.length} answers`)
  await author.page.waitForFunction(() => !document.body.innerText.includes('Questions were changed after'))
  const points = await author.page.$$eval(
    'table',
    (tables, who) => {
      const cells = (row: Element) => [...row.querySelectorAll('th, td')].map((c) => c.textContent?.trim() ?? '')
      for (const table of tables) {
        const [head = [], ...rows] = [...table.querySelectorAll('tr')].map(cells)
        const row = rows.find((r) => r[0] === who)
        const at = head.findIndex((h) => h.startsWith('Points'))
        if (row && at > 0) return row[at] ?? ''
      }
      return ''
    },
    name,
  )
  expect(points).toBe(then)
  await author.click('button', 'Log')
  await author.see('The first is right as well')
  expect(author.errors).toEqual([])
}, 90_000)

test('questions that another browser published are named before they are replaced', async () => {
  const elsewhere = await author.page.evaluate(async () => {
    const ask = async (path: string, init?: RequestInit) =>
      (await fetch(`/api/${path}`, init)).json() as Promise<unknown>
    const places = (await ask('places/place-crystals/responses?after=0')) as {
      sets: { version: string; id: string; title: string; policy: object; checkpoints: object[]; keys: object[] }[]
      current: string[]
    }
    const { version } = (await ask('publications/pub-crystals')) as { version: string }
    const now = places.sets.find((s) => places.current.includes(s.version))!
    const { id, policy, checkpoints } = now
    const of = { publicationId: 'pub-crystals' }
    const set = { format: 'thaw-published-set', version: 4, ...of, id, title: 'From elsewhere', policy, checkpoints }
    const keys = { format: 'thaw-keys', version: 2, ...of, keys: now.keys }
    const headers = { 'content-type': 'application/json' }
    const body = JSON.stringify({ version, sets: [{ set, keys }] })
    return ask('publications/pub-crystals/sets', { method: 'POST', headers, body })
  })
  expect(elsewhere).toMatchObject({ version: expect.any(String) as string })
  await desk('asked')
  await author.page.click('.list button')
  await author.type('Question', 'What is density?')
  await kept(({ checkpoints }) =>
    checkpoints.some((c) => c.questions.some((q) => lineOf(q.open.prompt) === 'What is density?')),
  )
  await desk('released')
  await author.click('button', 'Publish again')
  await author.see('The questions “From elsewhere” were published from another browser or tab')
  /** The set that students are asked now. */
  const counting = () =>
    author.page.evaluate(async () => {
      const answer = await fetch('/api/places/place-crystals/responses?after=0')
      const { sets, current } = (await answer.json()) as { sets: { version: string }[]; current: string[] }
      return JSON.stringify(sets.filter((s) => current.includes(s.version)))
    })
  expect(await counting()).toContain('From elsewhere')
  expect(await counting()).not.toContain('What is density?')
  await publishAgain()
  expect(await counting()).toContain('What is density?')
  expect(await counting()).not.toContain('From elsewhere')
  expect(author.errors).toEqual([])
}, 90_000)

test('results are those of a place, and stay when the lecture is taken off its course page', async () => {
  await author.go(`${origin}/lecture/crystals/results`)
  await author.page.waitForSelector('.figures')
  // Those of the first course are shown at first.
  await author.click('button', 'Fetch new responses')
  /** How many answered; who watched may still be on the way. */
  const answered = () =>
    author.page.$$eval('.figures dt', (terms) => {
      const term = terms.find((t) => t.textContent === 'Answered')
      return (term?.nextElementSibling as HTMLElement | null)?.innerText ?? ''
    })
  await expect.poll(answered).toMatch(/^[1-9]\d* of 12$/)
  const here = await answered()
  await desk('released')
  await author.click('button', 'Take off PS 115, week 1')
  await author.click('button', 'Take it off')
  await author.see('It is not in PS 115, week 1 any more.')
  await student.go(`${courseSite}/courses/ps115`)
  await student.notSee(TITLE)
  await watch('ps201')
  await author.go(`${origin}/lecture/crystals/results`)
  await author.page.waitForSelector('.figures')
  await expect
    .poll(() => author.page.$$eval('.place .el-select__placeholder', (all) => all.map((a) => a.textContent)))
    .toEqual([expect.stringMatching(/^PS 201, week 4, from /)])
  await author.click('combobox', 'Place')
  await author.see('(taken off)')
  await atRest(author.page)
  await (await author.page.waitForSelector('::-p-text((taken off))'))?.click()
  await expect.poll(answered, { timeout: 20_000 }).toBe(here)
  expect(author.errors).toEqual([])
  expect(student.errors).toEqual([])
})

test('a course site that hangs keeps nobody waiting', async () => {
  const hanging = createServer(() => undefined).listen(0, '127.0.0.1')
  await once(hanging, 'listening')
  const data = await mkdtemp(join(tmpdir(), 'thaw-hanging-'))
  try {
    const server = await startBuiltServer({
      ...{ data, key: AUTHOR_KEY, demo: true },
      // What the demo has for its course pages is told there, and nothing comes back.
      settings: { THAW_COURSE_SITE: `http://127.0.0.1:${(hanging.address() as AddressInfo).port}` },
    })
    try {
      expect((await fetch(`${server.origin}/api/about`, { signal: AbortSignal.timeout(12_000) })).status).toBe(200)
    } finally {
      await server.stop()
    }
  } finally {
    hanging.close()
    await rm(data, { recursive: true, force: true })
  }
})
