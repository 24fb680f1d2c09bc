/**
 * What is seen and heard at one moment stays together, although every device has a clock of its own. The machine's
 * clock is made to run 0.2 % faster than the sound's: a minute of it is as far apart as an hour of two clocks that
 * differ by 33 parts in a million, as quartz clocks do.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { median } from 'd3-array'
import { afterAll, expect, onTestFinished, test } from 'vitest'
import { apart } from '../../scripts/bench/claps.mjs'
import { person } from '../person'
import { stored, storedFile } from '../stored'
import { served } from '../served'

const FASTER = 1.002
const SECONDS = 60
const folder = mkdtempSync(join(tmpdir(), 'thaw-claps-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

interface StoredFeed {
  kind: string
  fileId: string
  offset: number
  clock?: { at: number; late: number }[]
}
interface StoredTake {
  lectureId: string
  state: string
  feeds: StoredFeed[]
}

test('claps are seen and heard together, from the first to the last', async () => {
  const who = await person()
  onTestFinished(() => who.leave())
  await who.page.evaluateOnNewDocument((faster) => {
    const real = performance.now.bind(performance)
    performance.now = () => real() * faster
  }, FASTER)
  // A busy machine delays the simulated hall's sound and pictures before they reach the recorder; so its jobs are
  // waited for.
  await who.go(served.origin)
  await who.page.waitForFunction(
    () => document.querySelectorAll('.still[style]').length >= 7 && !document.querySelector('header .count'),
    { timeout: 120_000 },
  )
  await who.go(`${served.origin}/record?lecture=ash`)
  await who.click('switch', 'Lecture hall')
  await who.find('meter', 'Sound level of Lectern microphone')
  await who.click('button', 'Start recording')
  await who.click('button', 'Begin now')
  for (let at = 2; at < SECONDS; at += 2.5) {
    await who.recordFor(at)
    await who.click('button', 'Clap')
  }
  await who.recordFor(SECONDS + 1)
  await who.click('button', 'Stop')
  const takeOf = async () => (await stored<StoredTake>(who.page, 'takes')).find((t) => t.lectureId === 'ash')
  const feedsOf = async () => {
    const take = await takeOf()
    const files: Record<string, { file: string; offset: number }> = {}
    for (const { kind, fileId, offset } of take?.feeds ?? []) {
      const file = join(folder, `${take?.state ?? ''}-${kind}.mp4`)
      writeFileSync(file, await storedFile(who.page, fileId))
      files[kind] = { file, offset }
    }
    return files
  }
  // By how many ms sound is later than the picture, at the beginning and at the end.
  const ends = (files: Awaited<ReturnType<typeof feedsOf>>) => {
    const all = apart(files.camera!, files.sound!).map((c) => 1000 * c.by)
    expect(all.length).toBeGreaterThan(18)
    return [median(all.slice(0, 8)) ?? NaN, median(all.slice(-8)) ?? NaN]
  }
  await who.find('button', 'Keep it')
  const raw = ends(await feedsOf())
  const clock = (await takeOf())?.feeds.find((f) => f.kind === 'sound')?.clock ?? []
  await who.click('button', 'Keep it')
  await who.find('slider', 'Playhead', 60_000)
  const kept = ends(await feedsOf())
  console.info(
    `sound after picture, ms: as recorded ${raw.map((x) => x.toFixed(0)).join(' … ')}, as kept ${kept.map((x) => x.toFixed(0)).join(' … ')}`,
  )
  // As the feeds came in they drift apart by 2 ms a second, and that is what was noticed.
  const [first, last] = [clock[0]!, clock.at(-1)!]
  expect(last.at - first.at).toBeGreaterThan(35)
  // One busy moment makes one point late; the median slope between any two is none the worse for it (Theil–Sen).
  const slopes = clock.flatMap((a, i) => clock.slice(i + 1).map((b) => (b.late - a.late) / (b.at - a.at)))
  expect(median(slopes)).toBeCloseTo(FASTER - 1, 3)
  expect((await takeOf())?.feeds.some((f) => f.clock)).toBe(false)
  for (const ms of kept) expect(Math.abs(ms)).toBeLessThanOrEqual(40)
  expect(who.errors).toEqual([])
})
