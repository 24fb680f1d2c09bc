/** A browser that is killed while recording loses at most the last second, and nothing that was kept before. */
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, inject, test } from 'vitest'
import { person, unlessSilent, type Person } from './person'
import { store, stored } from './stored'

const origin = inject('origin')
let profile = ''

beforeAll(async () => {
  profile = await mkdtemp(join(tmpdir(), 'thaw-killed-'))
})
afterAll(() => rm(profile, { recursive: true, force: true, maxRetries: 5, retryDelay: 300 }))

interface TakeRow { lectureId: string; state: string; duration: number; feeds: { kind: string; offset: number; duration: number }[] }
/** A lecture's take, once it is no longer being made whole. */
async function takeOf(who: Person, lectureId: string): Promise<TakeRow> {
  for (let tries = 0; tries < 200; tries++) {
    const take = (await stored<TakeRow>(who.page, 'takes')).find((t) => t.lectureId === lectureId)
    if (take?.state === 'whole' || take?.state === 'broken') return take
    await new Promise((resolve) => setTimeout(resolve, 300))
  }
  throw new Error(`the take of ${lectureId} was not made whole`)
}

/** Ends a browser as a power cut would. */
async function kill(who: Person): Promise<void> {
  const gone = new Promise((resolve) => who.browser.once('disconnected', resolve))
  who.browser.process()?.kill('SIGKILL')
  await gone
}

test('a browser that is killed at ten random moments loses at most 1.2 s each time, and all feeds stay aligned', unlessSilent, async () => {
  const found: { at: number; lost: number }[] = []
  let who = await person({ profile })
  try {
    for (let i = 0; i < 10; i++) {
      const id = `killed-${i}-${Date.now()}`
      await who.go(origin)
      await who.see('The term')
      await store(who.page, 'lectures', { id, courseId: 'ps201', week: 6, title: id, description: '', createdAt: new Date().toISOString() })
      await who.go(`${origin}/record?lecture=${id}`)
      await who.click('switch', 'Lecture hall')
      await who.find('meter', 'Sound level of Lectern microphone')
      await who.click('button', 'Start recording')
      await who.click('button', 'Begin now')
      await who.page.waitForSelector('[role=timer]')
      await new Promise((resolve) => setTimeout(resolve, 2000 + 4000 * Math.random()))
      const shown = Number(await who.page.$eval('[role=timer]', (e) => (e as HTMLElement).dataset.seconds))
      await kill(who)
      who = await person({ profile })
      await who.go(origin)
      const take = await takeOf(who, id)
      expect(take.state).toBe('whole')
      expect(take.feeds.map((f) => f.kind).sort()).toEqual(['camera', 'screen', 'sound'])
      const ends = take.feeds.map((f) => f.offset + f.duration)
      // The end that all feeds reach is what can be watched.
      found.push({ at: shown, lost: Math.max(0, shown - Math.min(...ends)) })
    }
  } finally {
    await kill(who)
  }
  expect(found.filter((f) => f.lost > 1.2)).toEqual([])
})

test('what a killed browser left opens whole on the desk, and says so', async () => {
  const first = await person({ profile })
  await first.go(`${origin}/record?lecture=meltwater`)
  await first.click('switch', 'Lecture hall')
  await first.find('meter', 'Sound level of Lectern microphone')
  await first.click('button', 'Start recording')
  await first.recordFor(5)
  await kill(first)

  const second = await person({ profile })
  await second.go(`${origin}/`)
  await second.see('A recording was cut off when its page was closed.')
  await second.page.waitForFunction(() => /“Meltwater under the ice”: [\d.]+ s of a recording that was cut off are there\./.test(document.body.innerText))
  await second.click('link', 'Open it')
  await second.find('slider', 'Playhead', 60_000)
  await second.see('everything up to the last second was kept')
  await second.page.waitForFunction(() => {
    const media = [...document.querySelectorAll<HTMLMediaElement>('.frame video, .picture audio')]
    return media.length === 3 && media.every((m) => m.readyState >= 2)
  })
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
  })
  const torn = { lectureId: 'meltwater', state: 'running', progress: 0.4, startedAt: new Date().toISOString() }
  await store(one.page, 'jobs', { ...torn, id: 'torn2', kind: 'captions', says: 'Listening', again: { do: 'captions' } })
  await store(one.page, 'jobs', { ...torn, id: 'torn', kind: 'publish', says: 'Rendering' })
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
