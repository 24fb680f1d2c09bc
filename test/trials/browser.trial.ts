/**
 * A browser that is killed in the middle of changing documents, and of publishing: what was kept is there, whole, and
 * it goes on.
 */
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { person, type Person } from '../person'
import { AUTHOR_KEY } from '../serve'
import { stored, storedDocument } from '../stored'
import { pause, say, times } from './server'
import { served } from '../served'

const origin = served.origin
let profile = ''
beforeAll(async () => {
  profile = await mkdtemp(join(tmpdir(), 'thaw-killed-'))
})
afterAll(() => rm(profile, { recursive: true, force: true, maxRetries: 5, retryDelay: 300 }))

async function kill(who: Person): Promise<void> {
  const gone = new Promise((resolve) => who.browser.once('disconnected', resolve))
  who.browser.process()?.kill('SIGKILL')
  await gone
}
interface Kept {
  questions: string[]
  steps: number
}
async function kept(who: Person, lectureId: string): Promise<Kept> {
  const [set, edit] = await Promise.all([
    storedDocument(who.page, lectureId, 'questions'),
    storedDocument(who.page, lectureId, 'edit'),
  ])
  return { questions: set?.document.checkpoints.map((c) => c.id) ?? [], steps: edit?.applied ?? 0 }
}

test('killed in the middle of changes, it has every change that was stored, and the desk opens', async () => {
  const rounds = times(33)
  let who = await person({ profile, devices: false })
  try {
    for (let round = 0; round < rounds; round++) {
      await who.go(`${origin}/lecture/layers?step=tidied`)
      await who.find('slider', 'Playhead', 60_000)
      await who.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
      let last: Kept = await kept(who, 'layers')
      const until = Date.now() + 400 + 2500 * Math.random()
      while (Date.now() < until) {
        for (const key of ['ArrowRight', 'q', 'i', 'ArrowRight', 'o', 'Delete'] as const)
          await who.page.keyboard.press(key)
        last = await kept(who, 'layers')
        await who.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
      }
      await kill(who)
      who = await person({ profile, devices: false })
      await who.go(`${origin}/lecture/layers?step=asked`)
      await who.find('slider', 'Playhead', 60_000)
      const now = await kept(who, 'layers')
      expect(last.questions.filter((id) => !now.questions.includes(id))).toEqual([])
      expect(now.steps).toBeGreaterThanOrEqual(last.steps)
      expect(who.errors).toEqual([])
      if (round === rounds - 1)
        say(`${rounds} kills; ${now.questions.length} questions and ${now.steps} edits stored, none lost`)
    }
  } finally {
    await kill(who)
  }
})

test('killed while it publishes, it publishes again by itself, at the same address, and students see the old or the new', async () => {
  const rounds = times(33)
  let who = await person({ profile, devices: false })
  try {
    await who.go(`${origin}/#key=${AUTHOR_KEY}`)
    await who.see('The term')
    // A browser that is killed sooner has not stored who signed in; then it asks, as a test of recovery sees.
    await pause(40_000)
    const titles = new Set<string>()
    for (let round = 0; round < rounds; round++) {
      await who.go(`${origin}/lecture/flow?step=released`)
      await who.find('slider', 'Playhead', 60_000)
      await who.page.waitForFunction(() => {
        const button = [...document.querySelectorAll('button')].find(
          (b) => /^Publish( again)?$/.test(b.innerText.trim()) && !b.disabled,
        )
        button?.click()
        return button !== undefined
      })
      await pause(300 + 4000 * Math.random())
      await kill(who)
      who = await person({ profile, devices: false })
      await who.go(`${origin}/lecture/flow?step=released`)
      // It is started again, and ends.
      await who.page.waitForFunction(() => document.body.innerText.includes('What students get is what stands here.'), {
        timeout: 240_000,
        polling: 300,
      })
      const [release] = (
        await stored<{ lectureId: string; place: { id: string; publicationId: string } }>(who.page, 'releases')
      ).filter((r) => r.lectureId === 'flow')
      titles.add(`${release?.place.id} ${release?.place.publicationId}`)
      expect(who.errors).toEqual([])
    }
    // However often it was cut off, it is one place and one publication.
    expect(titles.size).toBe(1)
    say(`${rounds} kills while publishing; one place, one publication`)
  } finally {
    await kill(who)
  }
})
