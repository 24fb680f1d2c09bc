/** What is kept of a lecture: revisions that are published and compared, and all of it as one archive. */
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest'
import type { LectureArchive } from '../core/schema/archive'
import { person, type Person } from './person'
import { published } from './published'
import { AUTHOR_KEY } from './serve'
import { stored, storedDocument } from './stored'
import { unzipped } from './unzipped'

const origin = inject('origin')
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
    const changes = () =>
      who.page.$$eval('.lane.compared .item', (all) => all.map((e) => e.getAttribute('title') ?? ''))
    await expect.poll(changes).toEqual(['added: Took out 0:12.0 – 0:13.0'])
    await takeOut('0:15', '0:16')
    await expect.poll(changes).toEqual(['added: Took out 0:12.0 – 0:13.0', 'added: Took out 0:15.0 – 0:16.0'])
    await who.click('button', 'Undo')
    await expect.poll(changes).toEqual(['added: Took out 0:12.0 – 0:13.0'])
    await who.click('button', 'Changed since “As published”: stop comparing')
    await expect.poll(changes).toEqual([])
  })
  test('one of them is published again, and the desk stays as it is', async () => {
    const lengthOut = () => published(inject('dataFolder'), 'How ice flows').duration
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
    await new Promise((resolve) => setTimeout(resolve, 500))
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
      await other.go(origin)
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
        return media.length === 3 && media.every((m) => m.readyState >= 2)
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
