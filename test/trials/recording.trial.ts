/** A browser that is killed while it records loses at most the last second, and nothing that was kept before. */
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { person, type Person } from '../person'
import { store, stored } from '../stored'
import { say, times } from './server'
import { served } from '../served'

const origin = served.origin
let profile = ''

beforeAll(async () => {
  profile = await mkdtemp(join(tmpdir(), 'thaw-killed-'))
})
afterAll(() => rm(profile, { recursive: true, force: true, maxRetries: 5, retryDelay: 300 }))

interface TakeRow {
  lectureId: string
  state: string
  duration: number
  feeds: { kind: string; offset: number; duration: number }[]
}
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

test('a browser that is killed while it records loses at most 1.2 s each time, and all feeds stay aligned', async () => {
  const found: { at: number; lost: number }[] = []
  let who = await person({ profile })
  try {
    for (let i = 0; i < times(34); i++) {
      const id = `killed-${i}-${Date.now()}`
      await who.go(origin)
      await who.see('The term')
      await store(who.page, 'lectures', {
        id,
        courseId: 'ps201',
        week: 6,
        title: id,
        description: '',
        createdAt: new Date().toISOString(),
      })
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
  say(`${found.length} kills while recording; lost at most ${Math.max(...found.map((f) => f.lost)).toFixed(2)} s`)
  expect(found.filter((f) => f.lost > 1.2)).toEqual([])
})
