/** A browser that is killed while recording loses at most the last second, and nothing that was kept before. */
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, inject, test } from 'vitest'
import { person } from './person'

const origin = inject('origin')
let profile = ''

beforeAll(async () => {
  profile = await mkdtemp(join(tmpdir(), 'thaw-killed-'))
})
afterAll(() => rm(profile, { recursive: true, force: true, maxRetries: 5, retryDelay: 300 }))

test('a killed browser leaves a take that is found at the next start and opens whole', async () => {
  const first = await person({ profile })
  await first.go(`${origin}/record?lecture=meltwater`)
  await first.click('switch', 'Lecture hall')
  await first.find('meter', 'Sound level')
  await first.click('button', 'Start recording')
  await first.recordFor(9)
  const clock = async () => {
    const text = await first.page.$eval('[role=timer] .mono', (e) => e.textContent ?? '')
    return text.split(':').reduce((sum, part) => 60 * sum + Number(part), 0)
  }
  const shown = await clock()
  const gone = new Promise((resolve) => first.browser.once('disconnected', resolve))
  first.browser.process()?.kill('SIGKILL')
  await gone

  const second = await person({ profile })
  await second.go(`${origin}/lecture/meltwater?step=tidied`)
  await second.see('A recording was cut off when its page was closed.')
  await second.find('slider', 'Playhead', 60_000)
  await second.see('everything up to the last second was kept')
  const kept = Number(await second.page.$eval('.times', (e) => {
    const [, m, s] = /of (\d+):([\d.]+)/.exec(e.textContent ?? '') ?? []
    return String(Number(m) * 60 + Number(s))
  }))
  // The clock shows whole seconds that had passed; at most 1.2 s of them may be missing.
  expect(kept).toBeGreaterThanOrEqual(shown - 1.2)
  await second.find('button', 'Play')
  const feeds = await second.page.$$eval('.frame video, .picture audio', (all) => all.length)
  expect(feeds).toBe(3)
  await second.page.waitForFunction(() => [...document.querySelectorAll<HTMLMediaElement>('.frame video, .picture audio')].every((m) => m.readyState >= 2))
  const lengths = await second.page.$$eval('.frame video, .picture audio', (all) => all.map((m) => (m as HTMLMediaElement).duration))
  for (const length of lengths) expect(Math.abs(length - kept)).toBeLessThan(1.6)
  await second.click('button', 'Play')
  await second.page.waitForFunction(() => Number(document.querySelector('audio')?.currentTime) > 1.5)
  expect(second.errors).toEqual([])
  await second.leave()
})

test('a job that a reload cut off says so, is started again where that is possible, and leaves no scratch behind', async () => {
  const one = await person({ profile })
  await one.go(`${origin}/lecture/meltwater?step=tidied`)
  await one.find('slider', 'Playhead', 60_000)
  await one.page.evaluate(async () => {
    const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('scratch', { create: true })
    await folder.getFileHandle('job-torn~media.mp4', { create: true })
    const open = indexedDB.open('thaw')
    const db = await new Promise<IDBDatabase>((resolve) => { open.onsuccess = () => resolve(open.result) })
    const jobs = db.transaction('jobs', 'readwrite').objectStore('jobs')
    jobs.put({ id: 'torn2', lectureId: 'meltwater', kind: 'captions', state: 'running', progress: 0.4, says: 'Listening', startedAt: new Date().toISOString(), again: { do: 'captions' } })
    const put = jobs.put({ id: 'torn', lectureId: 'meltwater', kind: 'publish', state: 'running', progress: 0.4, says: 'Rendering', startedAt: new Date().toISOString() })
    await new Promise((resolve) => { put.onsuccess = resolve })
    db.close()
  })
  await one.page.reload()
  await one.find('button', 'Jobs')
  await one.click('button', 'Jobs')
  await one.see('Cut off when the page was closed. Nothing was lost; start it again.')
  await one.see('Cut off when the page was closed. It was started again.')
  // The one that could be was: the recogniser is on the server, which wants to know who asks.
  await one.see('Only the author may do this.')
  await one.page.waitForFunction(async () => {
    const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('scratch', { create: true })
    for await (const name of folder.keys()) if (name.startsWith('job-torn')) return false
    return true
  })
  await one.leave()
})
