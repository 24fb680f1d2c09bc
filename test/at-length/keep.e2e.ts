/** What is kept of a lecture: revisions that are published and compared, and all of it as one archive. */
import { execFileSync } from 'node:child_process'
import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { openDemo } from '../../scripts/open-demo.mjs'
import type { LectureArchive } from '../../core/schema/archive'
import type { Finish } from '../../core/schema/finish'
import { lengthy } from '../at-length'
import { person, type Person } from '../person'
import { published } from '../published'
import { AUTHOR_KEY } from '../serve'
import { stored, storedDocument } from '../stored'
import { unzipped } from '../unzipped'
import { served } from '../served'

const origin = served.origin
const folder = mkdtempSync(join(tmpdir(), 'thaw-keep-'))
let who: Person

beforeAll(async () => {
  who = await person({ devices: false })
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.see('The term')
})
afterAll(async () => {
  await who.leave()
  rmSync(folder, { recursive: true, force: true })
})

const desk = async (lecture: string, step: string) => {
  await who.go(`${origin}/lecture/${lecture}?step=${step}`)
  await who.find('slider', 'Playhead', 60_000)
}
const takeOut = async (from: string, to: string) => {
  await who.type('From', from)
  await who.type('To', to)
  await who.click('button', 'Take out')
  await who.see(`Took out ${from}.0 – ${to}.0`)
}

describe('revisions', () => {
  test('what is published is kept, and what students see is marked', async () => {
    await desk('flow', 'released')
    await who.click('button', 'Publish')
    await who.see('“How ice flows” is in', 120_000)
    await who.click('button', 'Revisions')
    await who.see('As published')
    await who.see('Students see this')
    await who.page.keyboard.press('Escape')
  })
  test('what was changed since stands on the time line, and follows what is changed further', async () => {
    await desk('flow', 'tidied')
    await takeOut('0:12', '0:13')
    await who.click('button', 'Revisions')
    await who.click('button', 'What differs from As published')
    await who.click('button', 'Show on the time line')
    // What was taken out stands in the recording alone, and is told by its times there.
    const one = expect.stringMatching(/^added: Took out 0:1[2-9]\.\d – 0:1[2-9]\.\d of the recording$/) as string
    const changes = () =>
      who.page.$$eval('.lane.compared .item', (all) => all.map((e) => e.getAttribute('title') ?? ''))
    await expect.poll(changes).toEqual([one])
    await takeOut('0:15', '0:16')
    await expect.poll(changes).toEqual([one, expect.stringContaining('of the recording')])
    await who.click('button', 'Undo')
    await expect.poll(changes).toEqual([one])
    await who.click('button', 'Changed since “As published”: stop comparing')
    await expect.poll(changes).toEqual([])
  })
  test('one of them is published again, and the desk stays as it is', async () => {
    const lengthOut = () => published(served.dataFolder, 'How ice flows').duration
    const before = lengthOut()
    const edited = (await storedDocument(who.page, 'flow', 'edit'))?.document
    await desk('flow', 'released')
    await who.click('button', 'Publish again')
    await expect.poll(lengthOut, { timeout: 60_000 }).toBeCloseTo(before - 1, 1)
    await who.see('What students get is what stands here.')
    await who.click('button', 'Revisions')
    await expect.poll(async () => (await stored<object>(who.page, 'revisions')).length).toBe(2)
    await who.click('button', 'Publish As published')
    await who.see('What is on the desk stays as it is.')
    await who.click('button', 'Publish it')
    await who.see('Students see “As published” now.', 60_000)
    expect(lengthOut()).toBeCloseTo(before, 3)
    expect((await storedDocument(who.page, 'flow', 'edit'))?.document).toEqual(edited)
    // Both states were kept already.
    expect(await stored<object>(who.page, 'revisions')).toHaveLength(2)
    await who.page.keyboard.press('Escape')
    await who.see('The lecture was changed since it was published: students see the state of')
    expect(who.errors).toEqual([])
  })
})

describe('the whole lecture as one archive', () => {
  let file = ''
  test('is saved, and other programs can read it', async () => {
    const client = await who.page.createCDPSession()
    await client.send('Browser.setDownloadBehavior', { behavior: 'allow', downloadPath: folder })
    await desk('flow', 'tidied')
    await who.click('button', 'Save as a file')
    await who.choose('Form of the file', 'The whole lecture, to go on with elsewhere (ZIP)')
    await who.click('button', 'Save')
    await who.see('Saved “How-ice-flows.thaw.zip”')
    await expect.poll(() => readdirSync(folder), { timeout: 20_000 }).toContain('How-ice-flows.thaw.zip')
    file = join(folder, 'How-ice-flows.thaw.zip')
    const files = unzipped(file)
    const contents = JSON.parse(files.get('lecture.json')!.toString()) as LectureArchive
    expect(contents.lecture.title).toBe('How ice flows')
    expect(contents.files.map(({ path, size }) => [path, size])).toEqual(
      contents.files.map(({ path }) => [path, files.get(path)?.length]),
    )
    expect(contents.revisions).toHaveLength(2)
  })
  test('is opened in another browser, where it plays and what was done can be undone', async () => {
    const other = await person({ from: undefined, devices: false })
    try {
      // A browser that has never been here lays the demo out first; there the lecture is known.
      await openDemo(other.page, origin)
      await other.see('The term')
      await other.find('button', 'New lecture in PS 340, week 4', 60_000)
      await other.page.waitForSelector('a[href^="/lecture/flow"]')
      await other.click('button', 'New lecture in PS 340, week 4')
      const open = async (path: string) => {
        const input = await other.page.waitForSelector('.way input[accept=".zip"]')
        await (input as ElementHandle<HTMLInputElement>).uploadFile(path)
      }
      const torn = join(folder, 'torn.zip')
      writeFileSync(torn, 'no archive')
      await open(torn)
      await other.see('This is no ZIP archive, or not all of one. Nothing was changed.')
      await open(file)
      await other.page.waitForFunction(() => /lecture\/.{16}\?/.test(location.href), { timeout: 60_000 })
      await other.find('slider', 'Playhead', 60_000)
      expect(await other.page.$eval('input.title', (t) => (t as HTMLInputElement).value)).toBe(
        'How ice flows (from an archive)',
      )
      await other.page.waitForFunction(() => {
        const media = [...document.querySelectorAll<HTMLMediaElement>('.frame video, .picture audio')]
        return media.length >= 3 && media.every((m) => m.readyState >= 2)
      })
      await other.see('Took out 0:12.0 – 0:13.0')
      const id = new URL(other.page.url()).pathname.split('/').at(-1) ?? ''
      const cuts = async () =>
        (await stored<{ id: string; document: { removed: unknown[] } }>(other.page, 'documents')).find(
          (d) => d.id === `${id}-edit`,
        )?.document.removed.length
      const before = (await cuts())!
      await other.click('button', 'Undo')
      await expect.poll(cuts).toBe(before - 1)
      await other.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
      await other.click('button', 'Revisions')
      await other.find('button', 'Go back to As published')
      expect(other.errors).toEqual([])
    } finally {
      await other.leave()
    }
  })
})

describe('a finish', () => {
  const edits = async (lectures: readonly string[]) =>
    Promise.all(lectures.map(async (id) => (await storedDocument(who.page, id, 'edit'))!.document))
  test('is made with fields and a mark, and kept', async () => {
    execFileSync('ffmpeg', [
      ...['-y', '-v', 'error', '-f', 'lavfi', '-i', 'color=c=white:size=64x64', '-frames:v', '1'],
      join(folder, 'mark.png'),
    ])
    await who.go(origin)
    await who.click('link', 'Finishes')
    await who.see('None yet.')
    await who.click('button', 'New finish')
    await who.type('Name of the finish', 'This term')
    await who.type('Title of the opening card', '{title} {nonsense}')
    await who.see('There is no field “{nonsense}”')
    await who.type('Title of the opening card', '{title}')
    await who.click('button', '{week}: put the week into the opening card')
    const input = await who.page.waitForSelector('input[aria-label="Picture for the mark"]')
    await (input as ElementHandle<HTMLInputElement>).uploadFile(join(folder, 'mark.png'))
    await who.find('image', 'The mark')
    await who.choose('Corner of the mark', 'bottom left')
    await who.click('checkbox', 'Closing card')
    // A page that is loaded anew at once may cut a write off.
    await expect.poll(async () => (await stored<Finish>(who.page, 'finishes'))[0]?.closing).toBeNull()
    await who.go(`${origin}/finishes`)
    await who.find('image', 'The mark')
    expect(await who.page.$eval('[aria-label="Name of the finish"]', (e) => (e as HTMLInputElement).value)).toBe(
      'This term',
    )
    const name = () => who.page.$eval('[aria-label="Name of the finish"]', (e) => (e as HTMLInputElement).value)
    await who.click('button', 'New finish')
    await expect.poll(name).toBe('Finish 2')
    await who.click('button', 'Delete')
    await who.click('button', 'Delete it')
    await expect.poll(name).toBe('This term')
    const [finish] = await stored<Finish>(who.page, 'finishes')
    expect(finish).toMatchObject({ closing: null, watermark: { box: { x: 0.03, width: 0.1 } } })
    expect(finish!.opening!.text).toMatch(/\{week\}$/)
  })
  test('is put on lectures picked on the term as one job, which reports what needs a look', async () => {
    await who.go(origin)
    await who.click('button', 'Pick several')
    for (const title of ['What a glacier is', 'Snow crystals', 'Oxygen isotopes'])
      await (await who.page.waitForSelector(`::-p-xpath(//a[@role="checkbox"][.//span[text()="${title}"]])`))?.click()
    await who.see('3 lectures are picked.')
    const lectures = ['glacier', 'crystals', 'isotopes']
    await who.click('button', 'Put on a finish …')
    await who.click('button', 'Put it on')
    // What came of each is shown as it comes; the job is over when the dialog is done with.
    await who.find('button', 'Done', 60_000)
    await who.see('need a look')
    await who.see('The opening card lacks the lecturer.')
    for (const document of await edits(lectures)) {
      expect(document.inserts.map((i) => i.id)).toEqual(['finish-opening'])
      expect(document.watermark?.box.x).toBe(0.03)
      expect(document.sound.loudness).toBe(-16)
    }
    await who.click('button', 'Done')
    expect(who.errors).toEqual([])
  })
  lengthy('gives chapters that a saved film has inside', async () => {
    await desk('crystals', 'tidied')
    await who.click('button', 'Save as a file')
    await who.click('radio', 'No captions')
    await who.click('button', 'Save')
    await who.see('Saved “Snow-crystals.mp4”', 60_000)
    const file = join(folder, 'Snow-crystals.mp4')
    await expect.poll(() => existsSync(file), { timeout: 20_000 }).toBe(true)
    const found = JSON.parse(
      execFileSync('ffprobe', ['-v', 'error', '-show_chapters', '-of', 'json', file], { encoding: 'utf8' }),
    ) as { chapters: { tags: { title: string } }[] }
    const chapters = (await storedDocument(who.page, 'crystals', 'chapters'))!.document.chapters
    expect(chapters.length).toBeGreaterThan(0)
    expect(found.chapters.map((c) => c.tags.title)).toEqual(chapters.map((c) => c.title))
    // The index is as the chapters leave it: the film decodes from first to last.
    expect(execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'null', '-'], { encoding: 'utf8' })).toBe('')
  })
  test('is put on once more from the desk without being there twice, and undone', async () => {
    await desk('crystals', 'tidied')
    await who.see('Put on the finish “This term”')
    await who.page.waitForSelector('[role=img][aria-label^="Snow crystals PS 115 Reading Snow"]')
    await who.click('button', 'Put on a finish')
    await who.click('button', 'Put it on')
    await who.see('Students do not see this until it is published again.', 60_000)
    await who.click('button', 'Done')
    expect((await edits(['crystals']))[0]!.inserts).toHaveLength(1)
    await who.click('button', 'Undo')
    await expect.poll(async () => (await edits(['crystals']))[0]!.inserts.length).toBe(0)
    // The chapters that it made are undone with it.
    const chapters = await storedDocument(who.page, 'crystals', 'chapters')
    expect(chapters!.document.chapters).toEqual([])
    expect((await edits(['crystals']))[0]).not.toHaveProperty('watermark')
    expect(who.errors).toEqual([])
  })
})
