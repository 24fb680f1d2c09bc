/**
 * What a browser that was killed while recording left is found, said and whole. How little is lost, in many kills, is a
 * trial.
 */
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { copyProfile } from '../../scripts/chromium.mjs'
import { person, type Person } from '../person'
import { AUTHOR_KEY } from '../serve'
import { store, stored } from '../stored'
import { served } from '../served'

const origin = served.origin
let profile = ''

beforeAll(async () => {
  profile = await mkdtemp(join(tmpdir(), 'thaw-killed-'))
  await copyProfile(served.profile, profile)
})
afterAll(() => rm(profile, { recursive: true, force: true, maxRetries: 5, retryDelay: 300 }))

/** Ends a browser as a power cut would. */
async function kill(who: Person): Promise<void> {
  const gone = new Promise((resolve) => who.browser.once('disconnected', resolve))
  who.browser.process()?.kill('SIGKILL')
  await gone
}

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
  await second.page.waitForFunction(() =>
    /“Meltwater under the ice”: [\d.]+ s of a recording that was cut off are there\./.test(document.body.innerText),
  )
  await second.click('link', 'Open it')
  await second.find('slider', 'Playhead', 60_000)
  await second.see('everything up to the last second was kept')
  await second.page.waitForFunction(() => {
    const media = [...document.querySelectorAll<HTMLMediaElement>('.frame video, .picture audio')]
    return media.length >= 3 && media.every((m) => m.readyState >= 2)
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
  await store(one.page, 'jobs', {
    ...torn,
    id: 'torn2',
    kind: 'captions',
    says: 'Listening',
    restart: { do: 'captions' },
  })
  await store(one.page, 'jobs', { ...torn, id: 'torn', kind: 'publish', says: 'Rendering' })
  await one.page.reload()
  // The recogniser is on the server, which wants to know who asks: before the work, not after it.
  await one.see('Drafting captions was cut off when the page was closed. Sign in, and it is started again.')
  // Nothing is lost of it when the page is closed again meanwhile.
  await one.page.reload()
  await one.see('Drafting captions was cut off when the page was closed. Sign in, and it is started again.')
  await one.type('Author key', AUTHOR_KEY)
  await one.click('button', 'Sign in')
  await one.page.waitForFunction(() => !document.querySelector('[role=dialog]')?.checkVisibility())
  await one.click('button', 'Jobs')
  await one.see('Cut off when the page was closed. Nothing was lost; start it again.')
  await one.see('Cut off when the page was closed. It was started again.')
  await one.page.waitForFunction(async () => {
    const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('scratch', { create: true })
    for await (const name of folder.keys()) if (name.startsWith('job-torn')) return false
    return true
  })
  await one.leave()
})

test('a document that cannot be read bars nothing: the desk opens without it, says why, and it is begun anew', async () => {
  const one = await person({ profile })
  await one.go(`${origin}/lecture/layers?step=tidied`)
  await one.find('slider', 'Playhead', 60_000)
  const row = (await stored<{ id: string; document: object }>(one.page, 'documents')).find(
    (r) => r.id === 'layers-edit',
  )
  await store(one.page, 'documents', { ...row, document: { ...row?.document, fade: 9 } })
  await one.page.reload()
  await one.see('The edit of this lecture could not be read; everything else works.')
  await one.see('/fade must be <= 3.')
  await one.go(`${origin}/lecture/layers?step=captioned`)
  await one.find('button', 'Draft captions from the speech')
  await one.click('button', 'Begin anew')
  await (await one.page.waitForSelector('.el-message-box .el-button--primary'))?.click()
  await one.page.waitForFunction(() => !document.body.innerText.includes('could not be read'))
  await one.go(`${origin}/lecture/layers?step=tidied`)
  await one.find('slider', 'Playhead', 60_000)
  await one.see('Nothing is taken out.')
  expect(one.errors).toEqual([])
  await one.leave()
})
