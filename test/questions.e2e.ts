/** Questions of every kind: written at the desk, answered by a student, seen in the results. */
import { mkdtemp } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle, Frame } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { withChange, type WatchChange, type WatchView } from '#core/packages/watch-view'
import type { QuestionSet } from '#core/schema/questions'
import { lineOf } from '#core/text/rich-text'
import { byRole, person, press, type Person } from './person'
import { AUTHOR_KEY } from './serve'
import { violations } from './violations'
import { stored as everyRow, storedDocument } from './stored'
import { atRest } from './at-rest'
import { served } from './served'

const origin = served.origin
const courseSite = served.courseSite
const TITLE = 'Oxygen isotopes'
let author: Person
let student: Person
/** What the server told the student's player last, and everything that it was sent. */
let view: WatchView
const received: string[] = []

beforeAll(async () => {
  author = await person({ devices: false })
  student = await person({ devices: false })
  /** One after the other, as changes follow on what was told before. */
  let reading = Promise.resolve()
  student.page.on('response', (response) => {
    if (/\/api\/watch\/[^/]+(\/responses.*)?$/.test(response.url()))
      reading = reading
        .then(() => response.text())
        .then(
          (text) => {
            received.push(text)
            const data = JSON.parse(text) as WatchView | { view: WatchView } | { change: WatchChange }
            if ('change' in data) view = withChange(view, data.change)
            else view = 'view' in data ? data.view : data
          },
          () => undefined,
        )
  })
  await author.go(`${origin}/#key=${AUTHOR_KEY}`)
  await author.see('The term')
})
afterAll(async () => {
  await author.leave()
  await student.leave()
})

const stored = async (): Promise<QuestionSet> =>
  (await storedDocument(author.page, 'isotopes', 'questions'))!.document as QuestionSet
/** The questions of the checkpoint that the test adds. */
const added = async () =>
  (await stored()).checkpoints.find((c) => lineOf(c.questions[0]?.open.prompt ?? []) === 'Which are heavy?')
    ?.questions ?? []

/** The set that a later test begins. */
async function practice(): Promise<QuestionSet> {
  const rows = await everyRow<{ document: { title?: string } }>(author.page, 'documents')
  return rows.find((row) => row.document.title === 'To practise')?.document as QuestionSet
}

async function another(kind: string, question: string, label = 'Question'): Promise<void> {
  await author.click('button', 'Ask another here')
  await author.choose('Kind of question', kind)
  await author.type(label, question)
}

test('questions of every kind are written at one moment, and saved as they are', async () => {
  await author.go(`${origin}/lecture/isotopes?step=asked`)
  await author.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
  await author.click('button', 'Ask at the playhead')
  await author.type('Asked at', '0:06')
  await author.choose('Kind of question', 'Several right choices')
  await author.see('Write the question. 4 choices are empty. Until then it is not asked.')
  await author.type('Question', 'Which are heavy?')
  for (const [i, text] of ['Deuterium', 'Oxygen-18', 'Protium'].entries()) await author.type(`Choice ${i + 1}`, text)
  await author.click('button', 'Remove choice 4')
  await author.click('checkbox', 'Choice 2 is right')
  await author.see('Complete. Saved as you write.')
  await another('True or false', 'Snow keeps them.')
  await another('A number', 'How many per mille?')
  await author.type('Right number', '−35,5')
  await author.type('Give or take', '0.5')
  await author.click('button', 'Add a unit')
  await author.type('Unit 1', '‰')
  await another('A word or two', 'What is between snow and ice?')
  await author.type('Right answers – a line each; the first is the one that is shown', 'firn')
  await another('Put in order', 'From young to old.')
  for (const [i, text] of ['Snow', 'Firn', 'Ice'].entries()) await author.type(`Thing ${i + 1}`, text)
  await author.click('button', 'Remove thing 4')
  await another('A longer answer', 'Why does it get lighter inland?')
  await author.click('button', 'Add a criterion')
  await author.type('Criterion 1', 'Names rain-out')
  await another('A thought', 'What surprised you?')
  await another('A note', 'The next part is on cores.', 'Note')
  await author.see('Complete. Saved as you write.')
  const kinds = async () => (await added()).map((q) => q.open.kind)
  const all = ['several-right', 'true-false', 'number', 'words', 'order', 'longer', 'thought', 'note']
  await expect.poll(kinds).toEqual(all)
  // Asked earlier, by one; undone at once.
  await author.click('button', 'Ask it earlier')
  await expect.poll(kinds).toEqual([...all.slice(0, 6), 'note', 'thought'])
  await author.click('button', 'Undo')
  await expect.poll(kinds).toEqual(all)
  expect((await added())[2]).toMatchObject({
    open: { units: ['‰'] },
    key: { value: -35.5, tolerance: 0.5, factors: [1] },
  })
  expect(author.errors).toEqual([])
}, 120_000)

test('what is written survives a reload, and a question becomes another kind with what both have', async () => {
  await author.page.reload()
  await author.page.waitForSelector('.list button')
  await author.click('button', '0:06 Which are heavy? and 7 more')
  await author.choose('Kind of question', 'One right choice')
  await author.see('Complete. Saved as you write.')
  await expect.poll(async () => (await added())[0]?.key).toMatchObject({ kind: 'one-right' })
  await author.click('button', 'Undo')
  await expect.poll(async () => (await added())[0]?.open.kind).toBe('several-right')
})

async function says(frame: Frame, text: string): Promise<void> {
  const dialog = () => document.querySelector<HTMLElement>('[role=dialog]')?.innerText ?? ''
  try {
    await frame.waitForFunction(
      (t) => document.querySelector<HTMLElement>('[role=dialog]')?.innerText.includes(t),
      {},
      text,
    )
  } catch (cause) {
    throw new Error(`“${text}” is not said. The sheet says:\n${await frame.evaluate(dialog)}`, { cause })
  }
}

test('a student answers each, is told what came of it, and sees no key before', async () => {
  await author.go(`${origin}/lecture/isotopes?step=released`)
  await author.click('button', 'Publish')
  await author.see('What students get is what stands here.', 240_000)
  await student.go(`${courseSite}/`)
  await student.page.select('#who', 's01')
  await student.click('button', 'Sign in')
  await student.click('link', 'PS 340 Ice Cores and Past Climate')
  await student.click('link', TITLE)
  const frame = await (await student.page.waitForSelector('iframe'))?.contentFrame()
  if (!frame) throw new Error('the player did not open')
  await (await frame.waitForSelector('.timeline .mark'))?.click()
  await says(frame, 'Question 1 of 8 · 1 point')
  // Whatever the order of the choices, nothing tells which is right.
  expect(received.join('\n')).not.toMatch(/"right"|"accepted"|"rubric"|"tolerance"|35\.5/)
  await press(frame, 'checkbox', 'Deuterium')
  await press(frame, 'checkbox', 'Protium')
  await press(frame, 'button', 'Hand in answer')
  await says(frame, 'Partly right – 0.33 of 1. The right answer is: Deuterium; Oxygen-18')
  await press(frame, 'button', 'Next question')
  await press(frame, 'radio', 'True')
  await press(frame, 'button', 'Hand in answer')
  await says(frame, 'Right – 1 of 1.')
  await press(frame, 'button', 'Next question')
  const number = await byRole(frame, 'textbox', 'Your number')
  await number.type('about')
  await says(frame, 'That is no number yet.')
  await number.click({ count: 3 })
  await number.type('-35.9')
  await student.page.keyboard.press('Enter')
  await says(frame, 'Right – 1 of 1.')
  await press(frame, 'button', 'Next question')
  await (await byRole(frame, 'textbox', 'Your answer')).type('Fim')
  await student.page.keyboard.press('Enter')
  await says(frame, 'Not right. The right answer is: firn')
  await press(frame, 'button', 'Next question')
  // Put in order by the keyboard: each is moved up until it stands where it belongs.
  await frame.waitForSelector('.order li')
  for (const [place, text] of ['Snow', 'Firn', 'Ice'].entries()) {
    const at = () =>
      frame.$$eval('.order li > :first-child', (all, t) => all.findIndex((e) => e.textContent === t), text)
    for (let from = await at(); from > place; from = await at()) {
      await (await frame.$(`::-p-aria([name="Move up: ${text}"][role="button"])`))?.focus()
      await student.page.keyboard.press('Enter')
      await frame.waitForFunction(
        (t, before) =>
          [...document.querySelectorAll('.order li > :first-child')].findIndex((e) => e.textContent === t) < before,
        {},
        ...([text, from] as const),
      )
    }
  }
  await press(frame, 'button', 'Hand in answer')
  await says(frame, 'Right – 1 of 1.')
  await press(frame, 'button', 'Next question')
  await (await byRole(frame, 'textbox', 'Your answer')).type('It rains out.')
  await press(frame, 'button', 'Hand in answer')
  await says(frame, 'Handed in. A person marks it.')
  await press(frame, 'button', 'Next question')
  await (await byRole(frame, 'textbox', 'Your answer')).type('That snow remembers.')
  await press(frame, 'button', 'Hand in answer')
  await says(frame, 'Kept.')
  await press(frame, 'button', 'Next question')
  await says(frame, 'The next part is on cores.')
  await press(frame, 'button', 'Go on')
  await frame.waitForFunction(() => document.querySelector('[role=dialog]') === null)
  const reports = () =>
    view.checkpoints[0]?.questions.map(({ report }) =>
      report.kind === 'answered' ? report.score?.points : report.kind,
    )
  await expect.poll(reports).toEqual([0.33, 1, 1, 0, 1, null, undefined, undefined])
  expect(student.errors).toEqual([])
}, 300_000)

test('the results count each kind by itself, and leave to a person what a person marks', async () => {
  await author.go(`${origin}/lecture/isotopes/results`)
  await author.click('button', 'Fetch new responses')
  await author.see('1 answered, 33 % of the points')
  await author.see('It rains out.')
  await author.see('Not marked')
  const row = await author.page.$$eval('[aria-labelledby=students-heading] tbody tr', (rows) =>
    rows
      .map((r) => [...r.querySelectorAll<HTMLElement>('th, td')].map((cell) => cell.innerText))
      .find((cells) => cells[1] !== '0'),
  )
  // Right, partly, wrong, not marked, unanswered, points, of so many: the question in a removed part is not asked.
  expect(row?.slice(1, 8)).toEqual(['3', '1', '1', '1', '0', '3.33', '6'])
  expect(author.errors).toEqual([])
})

test('a second set has its own policy, a formula and a picture, and is tried without leaving anything', async () => {
  await author.go(`${origin}/lecture/isotopes?step=asked`)
  await author.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
  await author.click('button', 'Another set')
  await author.type('Title of the new set', 'To practise')
  await author.click('button', 'Begin it')
  await author.see('Move the playhead to where the video should stop')
  await author.choose('What holds for these questions', 'Graded exercise')
  await author.click('button', 'Change')
  await author.see('Students are told')
  expect(await violations(author.page)).toEqual([])
  await author.click('button', 'Fold')
  await author.click('button', 'Ask at the playhead')
  await author.type('Asked at', '0:05')
  const prompt = await author.find('textbox', 'Question')
  await prompt.click()
  await author.page.keyboard.type('What does ')
  await author.click('button', 'Formula')
  await author.page.keyboard.type('\\delta^{18}O')
  // What is typed next goes into the text, however soon it comes.
  const goesTo = await author.page.$eval('[aria-label="Formula in TeX"]', (field) => {
    field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true, cancelable: true }))
    return document.activeElement?.getAttribute('aria-label')
  })
  expect(goesTo).toBe('Question')
  await author.page.keyboard.type(' tell of?')
  const picture = join(await mkdtemp(join(tmpdir(), 'thaw-picture-')), 'core.png')
  await author.page.screenshot({ path: picture, clip: { x: 100, y: 100, width: 400, height: 240 } })
  const chooser = await author.page.waitForSelector('.form .rich-field input.chooser')
  await (chooser as ElementHandle<HTMLInputElement>).uploadFile(picture)
  await author.page.waitForSelector('.rich-field img[src^="blob:"]')
  await author.see('Describe the picture, for those who cannot see it.')
  await author.type('What the picture shows', 'A slide about isotopes')
  for (const [i, text] of ['Temperature', 'Dust', 'Sunshine'].entries()) await author.type(`Choice ${i + 1}`, text)
  await author.click('button', 'Remove choice 4')
  // Dragged by its handle, and back by a key.
  const dragged = async () => (await practice()).checkpoints[0]?.questions[0]
  const texts = async () => {
    const open = (await dragged())?.open
    return open && 'choices' in open ? open.choices.map((c) => lineOf(c.text)) : []
  }
  const handles = await author.page.$$('.choice .handle')
  const [from, to] = await Promise.all([handles[0], handles[2]].map((h) => h?.boundingBox()))
  await author.page.mouse.move(from!.x + 7, from!.y + 7)
  await author.page.mouse.down()
  await author.page.mouse.move(to!.x + 7, to!.y + 12, { steps: 12 })
  // The others make room, and what is held lies over the last of them only then.
  const shown = () => author.page.$$eval('.choice [role=textbox]', (all) => all.map((e) => e.textContent))
  let nudges = 0
  const nudged = async () => {
    await atRest(author.page)
    await author.page.mouse.move(to!.x + 7, to!.y + 12 + (nudges++ % 4))
    return shown()
  }
  await expect.poll(nudged).toEqual(['Dust', 'Sunshine', 'Temperature'])
  await author.page.mouse.up()
  await expect.poll(texts).toEqual(['Dust', 'Sunshine', 'Temperature'])
  await author.click('button', 'Move choice 3 up')
  await expect.poll(texts).toEqual(['Dust', 'Temperature', 'Sunshine'])
  await author.see('Complete. Saved as you write.')
  // To the tools and back by keyboard.
  await prompt.focus()
  await author.page.keyboard.down('Alt')
  await author.page.keyboard.press('F10')
  await author.page.keyboard.up('Alt')
  await author.page.waitForFunction(() => document.activeElement?.getAttribute('aria-label') === 'Bold')
  await author.page.keyboard.press('Escape')
  await author.page.waitForFunction(() => document.activeElement?.getAttribute('aria-label') === 'Question')
  expect(await violations(author.page)).toEqual([])
  expect((await dragged())?.open.prompt).toMatchObject([
    { spans: [{ text: 'What does ' }, { text: '\\delta^{18}O', marks: ['formula'] }, { text: ' tell of?' }] },
    { kind: 'picture', description: 'A slide about isotopes' },
  ])

  await author.click('button', 'Try it as a student')
  const trial = await (await author.page.waitForSelector('iframe', { timeout: 120_000 }))?.contentFrame()
  if (!trial) throw new Error('the player did not open')
  await says(trial, 'You have 2 attempts. The best counts.')
  expect(await violations(trial)).toEqual([])
  await press(trial, 'button', 'To the lecture')
  await (await trial.waitForSelector('.timeline .mark'))?.click()
  await trial.waitForSelector('.sheet .katex')
  await trial.waitForFunction(() => (document.querySelector<HTMLImageElement>('.sheet img')?.naturalWidth ?? 0) > 0)
  await press(trial, 'radio', 'Dust')
  await press(trial, 'button', 'Keep this answer')
  await says(trial, 'Your answer is kept. You can change it until you hand in.')
  await author.page.keyboard.press('Escape')
  await author.click('button', 'Close this dialog')
  await author.page.waitForFunction(() => !document.querySelector('iframe'))
  expect(author.errors).toEqual([])
}, 300_000)

test('students change their answers until they hand in, and begin a second attempt; the better one counts', async () => {
  await author.go(`${origin}/lecture/isotopes?step=released`)
  await author.see('“To practise” is asked at no place')
  await author.click('button', 'Change PS 340, week 4')
  await author.click('checkbox', 'To practise')
  await author.click('button', 'Save place')
  await author.click('button', 'Publish again')
  await author.see('What students get is what stands here.', 240_000)
  await student.go(`${courseSite}/`)
  await student.click('button', 'Sign out')
  await student.page.waitForSelector('#who')
  await student.page.select('#who', 's04')
  await student.click('button', 'Sign in')
  await student.click('link', 'PS 340 Ice Cores and Past Climate')
  await student.click('link', TITLE)
  const frame = await (await student.page.waitForSelector('iframe'))?.contentFrame()
  if (!frame) throw new Error('the player did not open')
  received.length = 0
  await says(frame, 'You can change your answers until you hand in.')
  await press(frame, 'button', 'To the lecture')
  const practiceMark = () => frame.waitForSelector('.timeline .mark')
  await (await practiceMark())?.click()
  await frame.waitForSelector('.sheet .katex')
  await frame.waitForFunction(() => (document.querySelector<HTMLImageElement>('.sheet img')?.naturalWidth ?? 0) > 0)
  await press(frame, 'radio', 'Temperature')
  await press(frame, 'button', 'Keep this answer')
  await says(frame, 'Your answer is kept.')
  await press(frame, 'radio', 'Dust')
  await press(frame, 'button', 'Keep this answer')
  await press(frame, 'button', 'Go on watching')
  await press(frame, 'button', 'Your answers')
  const set = async () => view.sets.find((s) => s.title === 'To practise')
  // The other set is on the sheet too; each is handed in by itself.
  await frame.waitForSelector('.sheet section')
  expect(await violations(frame)).toEqual([])
  const inPractice = async (name: RegExp) => {
    const button = await frame.evaluateHandle(
      (source) =>
        [
          ...([...document.querySelectorAll('.sheet section')]
            .find((s) => s.textContent?.includes('To practise'))
            ?.querySelectorAll('button') ?? []),
        ].find((b) => new RegExp(source, 'm').test(b.innerText)),
      name.source,
    )
    await (button as ElementHandle<HTMLButtonElement>).click()
  }
  expect(received.join('\n')).not.toMatch(/"kind":"one-right","right"/)
  await inPractice(/^Hand in$/)
  await says(frame, '0 of 1 points.')
  await inPractice(/^Begin attempt 2 of 2$/)
  await says(frame, 'Attempt 2. One question is open.')
  await inPractice(/What does/)
  await press(frame, 'radio', 'Temperature')
  await press(frame, 'button', 'Keep this answer')
  await press(frame, 'button', 'Go on watching')
  await press(frame, 'button', 'Your answers')
  await inPractice(/^Hand in$/)
  await says(frame, 'Attempt 1: 0, Attempt 2: 1. What counts: 1 of 1.')
  await expect.poll(set).toMatchObject({ counted: 1, canBegin: false })
  // What is right is never told in this set.
  expect(received.join('\n')).not.toMatch(/"kind":"one-right","right"/)
  expect(student.errors).toEqual([])

  await author.go(`${origin}/lecture/isotopes/results`)
  await author.click('button', 'Fetch new responses')
  await author.see('What does')
  const rows = () =>
    author.page.$$eval('[aria-labelledby=students-heading] tbody tr', (all) =>
      all.map((r) => [...r.querySelectorAll<HTMLElement>('th, td')].map((cell) => cell.innerText)),
    )
  // Points of the second attempt; the first question tells of the first.
  await expect.poll(async () => (await rows()).filter((cells) => cells[6] === '1').length).toBe(1)
  expect(author.errors).toEqual([])
}, 300_000)
