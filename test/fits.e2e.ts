/** Nothing that is needed lies outside the window or under another thing, in any view and dialog. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { atLength } from './at-length'
import { outOfReach } from './out-of-reach'
import { byRole, person, type Person } from './person'
import { AUTHOR_KEY } from './serve'
import { served } from './served'

const origin = served.origin
let who: Person
beforeAll(async () => {
  who = await person()
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.see('The term')
})
afterAll(() => who.leave())

/** The widest and the narrowest; between them, more of a kind. */
const sizes = [[1280, 800], ...(atLength ? [[1024, 700] as const] : []), [390, 844]] as const
async function fits(): Promise<void> {
  const found: string[] = []
  for (const [width, height] of sizes) {
    await who.page.setViewport({ width, height })
    found.push(...(await outOfReach(who.page)).map((says) => `${width}×${height}: ${says}`))
  }
  expect(found).toEqual([])
}
const desk = async (step: string) => {
  await who.page.setViewport({ width: 1280, height: 800 })
  await who.go(`${origin}/lecture/glacier?step=${step}`)
  await who.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
}

describe('everything is within reach', () => {
  test.each([
    ['the term', '/', 'The term'],
    ['the recording room', '/record?lecture=meltwater', 'Nothing is switched on yet.'],
    ['terms and courses', '/courses', 'Terms and courses'],
    ['finishes', '/finishes', 'New finish'],
    ['the activity log', '/activity', 'Signed in'],
    ['results', '/lecture/glacier/results', 'Who may need a word'],
    ['marking', '/lecture/glacier/marking', 'What a good answer says'],
    ['a student', '/lecture/glacier/results/student?who=s04', 'What was watched'],
    ['the word list', '/words/ps201', 'Word'],
    ['caption orders', '/orders/ps201', 'order'],
  ])('on %s', async (_, path, sign) => {
    await who.go(origin + path)
    await who.see(sign)
    await fits()
  })
  test('on the first page, and in the player', async () => {
    const fresh = await person({ from: undefined, devices: false })
    try {
      await fresh.go(origin)
      await fresh.see('Start my own')
      const found: string[] = []
      const look = async (of: () => Promise<string[]>) => {
        for (const [width, height] of sizes) {
          await fresh.page.setViewport({ width, height })
          found.push(...(await of()).map((says) => `${width}×${height}: ${says}`))
        }
      }
      await look(() => outOfReach(fresh.page))
      await fresh.go(`${served.courseSite}/`)
      await fresh.page.select('#who', 's04')
      await fresh.click('button', 'Sign in')
      await fresh.click('link', 'PS 201 Glaciers and Meltwater')
      await fresh.click('link', 'What a glacier is')
      const frame = await (await fresh.page.waitForSelector('iframe'))?.contentFrame()
      if (!frame) throw new Error('the player did not open')
      await byRole(frame, 'button', 'Play')
      await look(() => outOfReach(frame))
      expect(found).toEqual([])
    } finally {
      await fresh.leave()
    }
  })
  test.each(['tidied', 'captioned', 'asked', 'released'])('on the desk, %s', async (step) => {
    await desk(step)
    await fits()
  })
  test.each(['Particulars', 'Revisions', 'Save as a file', 'Put on a finish', 'Keys'])(
    'in the dialog %s',
    async (name) => {
      await desk('tidied')
      await who.click('button', name)
      await who.page.waitForSelector('.el-dialog')
      await fits()
    },
  )
  test.each([
    ['a new lecture', 'New lecture in PS 201, week 4'],
    ['the settings of a course', 'Settings of PS 201'],
  ])('in the dialog of %s', async (_, button) => {
    await who.page.setViewport({ width: 1280, height: 800 })
    await who.go(origin)
    await who.click('button', button)
    await who.page.waitForSelector('.el-dialog')
    await fits()
  })
  test.each([
    ['a new term', 'button', 'New term', ''],
    ['the changes of a term', 'button', 'More for Demo term', 'Edit …'],
    ['a new course', 'button', 'Add a course', ''],
    ['an import of courses', 'button', 'Import from CSV', ''],
    ['the college', 'button', 'Norrhaven Polar College demo', 'College name, logo and colour …'],
  ])('in the dialog of %s', async (_, role, name, item) => {
    await who.page.setViewport({ width: 1280, height: 800 })
    await who.go(`${origin}/courses`)
    await (item ? who.pick(name, item) : who.click(role, name))
    await who.page.waitForSelector('.el-dialog')
    await fits()
  })
  test(
    'while four pictures are recorded, each of which is seen, and when it has ended',
    { timeout: 120_000 },
    async () => {
      await who.page.setViewport({ width: 1280, height: 800 })
      await who.go(`${origin}/record?lecture=meltwater`)
      await who.click('switch', 'Lecture hall')
      await who.find('meter', 'Sound level of Lectern microphone')
      await who.click('switch', 'Camera')
      await who.pick('Add an input …', 'Another camera')
      await who.click('switch', 'Camera 2')
      await who.page.waitForFunction(() => document.querySelectorAll('.pictures video, .pictures canvas').length >= 4)
      for (const [width, height] of sizes) {
        await who.page.setViewport({ width, height })
        const heights = await who.page.$$eval('.pictures figure', (all) => all.map((e) => e.clientHeight))
        expect(Math.min(...heights), `${width}×${height}: ${heights.join()}`).toBeGreaterThan(100)
      }
      await fits()
      await who.page.setViewport({ width: 1280, height: 800 })
      await who.click('button', 'Start recording')
      await who.recordFor(4)
      await fits()
      await who.click('button', 'Stop')
      await who.find('button', 'Keep it')
      await fits()
      await who.click('button', 'Discard and start over')
      await who.click('button', 'Discard it')
      expect(who.errors).toEqual([])
    },
  )
})
