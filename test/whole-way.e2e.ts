/**
 * The whole way in a real browser that was never here, by what the screen says: a term and its courses are set up, the
 * hall is recorded, cut in the middle, captioned, asked, published, watched by a student in another profile to the end,
 * answered, and the result read, and nothing of the demo shows. Another program judges the published file.
 */
import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { atLength } from './at-length'
import { AUTHOR_KEY } from './serve'
import { person, press, sees, type Person } from './person'
import { published } from './published'
import { letPass } from './at-rest'
import { violations } from './violations'
import { served } from './served'

const origin = served.origin
const courseSite = served.courseSite
let author: Person
let student: Person

beforeAll(async () => {
  author = await person({ from: undefined })
  student = await person({ from: undefined })
})
afterAll(async () => {
  await author.leave()
  await student.leave()
})

/** One of those who can be enrolled in any course to try it. */
const WHO = { key: 'p04', name: 'Delphine Achterberg' }
const TITLE = 'Water under <b>pressure</b>'

/** Reads a number out of “Length of the result” on the desk: the time map's own length. */
const resultLength = () =>
  author.page.$eval(
    '[aria-label="Playhead"]',
    () => (globalThis as unknown as { document: Document }).document.querySelector('.times')?.textContent ?? '',
  )

/** A part of the lecture, by what its link says ahead of how far it is. */
async function goTo(part: string): Promise<void> {
  const link = await author.page.waitForSelector(`::-p-xpath(//a[starts-with(@aria-label, "${part}:")])`)
  await link?.click()
}

/** What of the demo would show. */
const OF_THE_DEMO = /Norrhaven|PS 201|PS 115|PS 340|Glaciers|Reading Snow|demo/i
const shown = (who: Person) => who.page.evaluate(() => document.body.innerText)

test('sets up a term and two courses of one’s own', async () => {
  await author.go(`${origin}/#key=${AUTHOR_KEY}`)
  await author.see('Welcome to Thaw')
  await (await author.page.waitForSelector('::-p-text(Start my own)'))?.click()
  await author.click('button', 'Set up a term')
  await author.type('Name', 'Winter term')
  await author.click('button', 'Save')
  await author.see('Winter term has no courses yet')
  await author.click('button', 'Add a course')
  await author.type('Code', 'HYD 12')
  await author.type('Title', 'Rivers and Lakes')
  await author.type('Lecturer', 'A. Teacher')
  await author.click('button', 'Save')
  await author.see('Rivers and Lakes')
  await author.click('link', 'Courses')
  await author.see('Terms and courses')
  await author.click('button', 'Add a course')
  await author.type('Code', 'GEO 7')
  await author.type('Title', 'Rocks')
  await author.click('button', 'Save')
  await author.see('GEO 7')
  await author.click('link', 'Term')
  await author.see('To make the first lecture, press + in its week.')
  expect(await violations(author.page)).toEqual([])
  expect(await shown(author)).not.toMatch(OF_THE_DEMO)
})

test('records the hall, with a pause', async () => {
  await author.click('button', 'New lecture in HYD 12, week 5')
  await author.type('Title', TITLE)
  await author.click('button', 'Record Camera, screen or the hall')
  await author.see('Goes to HYD 12 Rivers and Lakes, week 5.')
  await author.click('switch', 'Lecture hall')
  await author.find('meter', 'Sound level of Lectern microphone')
  await author.click('button', 'Start recording')
  await author.recordFor(5)
  await author.click('button', 'Pause')
  await author.see('Paused.')
  await letPass(2)
  await author.click('button', 'Go on')
  await author.recordFor(atLength ? 28 : 19)
  await author.click('button', 'Stop')
  await author.click('button', 'Keep it')
  await author.find('slider', 'Playhead', 60_000)
  await author.see('Folded a pause')
})

test('takes out a middle part by typing, and undo brings it back', async () => {
  const before = await resultLength()
  await author.type('From', '0:10')
  await author.type('To', '0:12')
  await author.click('button', 'Take out')
  await author.see('Took out 0:10.0 – 0:12.0')
  const after = await resultLength()
  expect(after).not.toBe(before)
  const shows = (length: string) =>
    author.page.waitForFunction((text) => document.querySelector('.times')?.textContent === text, {}, length)
  await author.click('button', 'Undo')
  await shows(before)
  await author.click('button', 'Redo')
  await shows(after)
})

test('has captions drafted as the recording comes, corrects one and switches them on', async () => {
  await goTo('Captions')
  await author.see('Students will not see these captions: they are a draft.', 180_000)
  // Cues come as they are heard.
  await author.page.waitForFunction(() => !document.querySelector('[aria-label="Drafting captions"]'), {
    timeout: 180_000,
  })
  await author.page.waitForSelector('.cues .words')
  // The last cue: no cut falls into it, so its whole text has to arrive.
  await (await author.page.$$('.cues .words')).at(-1)?.click()
  const field = await author.page.waitForSelector('.cues textarea')
  await field?.click({ count: 3 })
  await author.page.keyboard.down('Control')
  await author.page.keyboard.press('a')
  await author.page.keyboard.up('Control')
  await field?.type('Today we follow the <i>water</i>')
  await author.page.keyboard.press('Tab')
  await author.click('radio', 'Checked')
  await author.see('Students will not see these captions: they are checked, but switched off.')
  await author.click('radio', 'On for students')
  await author.see('Students see these captions once the lecture is published.')
})

test('asks a question at a moment', async () => {
  await goTo('Questions')
  await author.click('button', 'Ask at the playhead')
  await author.type('Asked at', '0:10')
  await author.type('Question', 'Where does the water <em>go</em>?')
  await author.type('Choice 1', 'To the bed')
  await author.type('Choice 2', 'Into the air')
  await author.click('button', 'Remove choice 4')
  await author.click('button', 'Remove choice 3')
  await author.type('Hint, before answering', 'It falls.')
  await author.type('Explanation, after answering', 'It falls through moulins, hundreds of metres deep.')
  await author.see('Complete. Saved as you write.')
})

test('publishes to the course page', async () => {
  await goTo('Release')
  await author.click('button', 'Add HYD 12 to the course site')
  await author.notSee('Students do not find HYD 12')
  await author.click('button', 'Publish')
  await author.see('What students get is what stands here.', 240_000)
  expect(author.errors).toEqual([])
})

test('another program finds the published file sound and as long as the edit says', async () => {
  const { file, duration } = published(served.dataFolder, TITLE)
  const probe = JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-show_streams', '-of', 'json', file]).toString(),
  ) as {
    streams: { codec_type: string; codec_name: string; duration: string; nb_frames: string; avg_frame_rate: string }[]
  }
  const video = probe.streams.find((s) => s.codec_type === 'video')
  const audio = probe.streams.find((s) => s.codec_type === 'audio')
  // The hall is recorded with Opus, which a cut leaves as it is.
  expect([video?.codec_name, audio?.codec_name]).toEqual(['h264', 'opus'])
  const shown = /of (\d+):(\d+\.\d)/.exec(await resultLength())
  // The desk shows the same length, to a tenth of a second.
  expect(Math.abs(Number(shown?.[1]) * 60 + Number(shown?.[2]) - duration)).toBeLessThanOrEqual(0.051)
  const frame = 1 / 24
  expect(Math.abs(Number(video?.duration) - duration)).toBeLessThanOrEqual(frame)
  expect(Math.abs(Number(video?.duration) - Number(audio?.duration))).toBeLessThanOrEqual(frame)
  const decoded = spawnSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'null', '-'], { encoding: 'utf8' })
  expect([decoded.status, decoded.stderr]).toEqual([0, ''])
})

test('a student watches, answers once, and sees nothing of the key before', async () => {
  const received: string[] = []
  student.page.on('response', (response) => {
    if (response.url().includes('/api/watch/') && (response.headers()['content-type'] ?? '').includes('json'))
      void response.text().then(
        (text) => received.push(text),
        () => undefined,
      )
  })
  await student.go(`${courseSite}/`)
  await student.page.select('#who', WHO.key)
  await student.click('button', 'Sign in')
  await student.see('HYD 12 Rivers and Lakes')
  expect(await shown(student)).not.toMatch(OF_THE_DEMO)
  await student.click('link', 'HYD 12 Rivers and Lakes')
  await student.click('link', TITLE)
  const frame = await (await student.page.waitForSelector('iframe'))?.contentFrame()
  if (!frame) throw new Error('the player did not open')
  await press(frame, 'button', 'Play')
  await frame.waitForSelector('[role=dialog]', { timeout: 60_000 })
  expect(await frame.$eval('[role=dialog] .prompt', (h) => h.textContent)).toBe('Where does the water <em>go</em>?')
  await expect.poll(() => received.join('\n')).toContain('Into the air')
  expect(received.join('\n')).not.toContain('moulins, hundreds')
  expect(received.join('\n')).not.toContain('"right"')
  await press(frame, 'button', 'Show a hint')
  await press(frame, 'radio', 'To the bed')
  await press(frame, 'button', 'Hand in answer')
  await sees(frame, 'moulins, hundreds of metres deep.')
  await press(frame, 'button', 'Go on watching')
  await frame.waitForFunction(() => document.querySelector('video')?.ended, { timeout: 90_000 })
  expect(await frame.$eval('.transcript', (t) => (t as HTMLElement).innerText)).toContain('Today we follow the water')
  // Who points at the line sees what is there.
  await (await frame.$('.timeline input'))?.hover()
  const still = await frame.waitForSelector('.pointed .still')
  const sheet = await still?.evaluate(async (e) => {
    const url = getComputedStyle(e).backgroundImage.slice(5, -2)
    const image = await createImageBitmap(await (await fetch(url)).blob())
    const [, wide = 0, high = 0] = /(.+)px (.+)px/.exec(getComputedStyle(e).backgroundSize) ?? []
    return [image.width - Number(wide), image.height - Number(high), image.width > e.clientWidth]
  })
  expect(sheet).toEqual([0, 0, true])
  expect(student.errors).toEqual([])
})

test('the author reads the result as numbers', async () => {
  await author.click('link', 'Results')
  await author.click('button', 'Fetch new responses')
  await author.see('1 answered, 100 % of the points')
  const row = () =>
    author.page.$$eval(
      'tr',
      (rows, name) =>
        rows
          .map((r) => [...r.querySelectorAll<HTMLElement>('th, td')].map((d) => d.innerText.trim()))
          .find((c) => c[0] === name) ?? [],
      WHO.name,
    )
  // Right, wrong, unanswered, points, possible, per cent.
  expect((await row()).slice(1, 7)).toEqual(['1', '0', '0', '1', '1', '100'])
  // Watched to its end; what came after the question comes a little later.
  await expect.poll(async () => parseInt((await row())[7] ?? ''), { timeout: 60_000 }).toBeGreaterThan(90)
  await author.click('link', 'Term')
  await author.see(TITLE)
  expect(await shown(author)).not.toMatch(OF_THE_DEMO)
  expect(author.errors).toEqual([])
})

test('what is kept of a student is deleted when that is asked for, and the log says that it was', async () => {
  await author.page.goBack()
  await author.click('link', WHO.name)
  await author.see('What was watched')
  await author.click('button', 'Delete this student’s data …')
  await author.click('button', 'Delete for good')
  await author.see('0 of 12')
  await author.click('button', 'Fetch new responses')
  await author.notSee('1 answered')
  const answers = join(served.dataFolder, 'journals', 'answers')
  const kept = readdirSync(answers, { recursive: true, withFileTypes: true })
    .filter((f) => f.isFile())
    .map((f) => readFileSync(join(f.parentPath, f.name), 'utf8'))
  expect(kept.filter((text) => text.includes(WHO.name))).toEqual([])
  await author.pick('My lectures', 'Activity log')
  await author.see('Deleted a student’s data')
  const downloadPath = mkdtempSync(join(tmpdir(), 'thaw-log-'))
  const client = await author.page.createCDPSession()
  await client.send('Browser.setDownloadBehavior', { behavior: 'allow', downloadPath })
  await author.click('button', 'Save as CSV')
  await expect.poll(() => readdirSync(downloadPath)).toEqual(['activity-log.csv'])
  const saved = readFileSync(join(downloadPath, 'activity-log.csv'), 'utf8')
  expect(saved).toMatch(/^\ufeffTime \(UTC\),.*\r\n.*,Deleted a student’s data,".* in 1 place",/)
  expect(await shown(author)).not.toContain(WHO.name)
  expect(author.errors).toEqual([])
})
