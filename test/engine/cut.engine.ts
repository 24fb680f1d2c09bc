/**
 * A cut costs a copy and is still right: the frames and the sound on both sides of every seam are those the edit
 * says, whatever the recording is coded as.
 */
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { recorded } from '#core/time/units'
import { toResult, buildTimeMap } from '#core/time/time-map'
import { openEngine } from '../../scripts/engine.mjs'
import { atLength } from '../at-length'
import { codings, film, inFolder, removeFilms } from './films'
import { complaints, cuts, duration, edit, frameNumbers, frameTimes, lag, likeness, samples } from './judge'

const SECONDS = 21
const RATE = 30
const ranges: [number, number][] = [
  [0, 1.3],
  [4.1, 6.7],
  [8, 8.5],
  [12.3, 15.5667],
]
const map = buildTimeMap(
  recorded(SECONDS),
  ranges.map(([from, to]) => ({ from: recorded(from), to: recorded(to) })),
)

let engine: Awaited<ReturnType<typeof openEngine>>
beforeAll(async () => void (engine = await openEngine({ quiet: true })))
afterAll(async () => {
  await engine.close()
  removeFilms()
})

/** Numbers of the frames that the map keeps, in order. */
const keptFrames = () =>
  Array.from({ length: SECONDS * RATE }, (_, n) => n).filter(
    (n) => toResult(map, recorded((n + 0.5) / RATE)).kind === 'kept',
  )

// One of each kind of file every time, the others at length.
const EACH_TIME = ['H.264 and AAC', 'VP9 and Opus']
const tried = Object.entries(codings).filter(([name]) => atLength || EACH_TIME.includes(name))
describe.each(tried)('a cut through %s', (name, { extension, args }) => {
  const out = inFolder(`${name.replaceAll(' ', '-')}-cut.${extension}`)
  let source = ''
  let made: { encoded: number; note: string }

  test('is made, and most of it is copied', async () => {
    source = film(`${name.replaceAll(' ', '-')}.${extension}`, { seconds: SECONDS, rate: RATE, coding: args })
    made = await engine.render(
      { file: source, edit: edit(...cuts(...ranges)), format: extension as 'mp4' | 'webm' },
      out,
      () => undefined,
    )
    expect(made.note).toBe('')
    expect(made.encoded).toBeLessThan(map.length / 2)
    expect(complaints(out)).toBe('')
  })

  test('shows every kept frame once, in order and on time', () => {
    expect(frameNumbers(out)).toEqual(keptFrames())
    frameTimes(out).forEach((time, i) => expect(Math.abs(time - i / RATE), `frame ${i}`).toBeLessThan(0.012))
  })

  test('looks like the recording on both sides of every seam', () => {
    const kept = keptFrames()
    for (const segment of map.kept) {
      const first = Math.round(segment.at * RATE)
      const last = first + Math.round((segment.to - segment.from) * RATE) - 1
      for (const n of [first, last]) expect(likeness(out, n, source, kept[n]!), `frame ${n}`).toBeGreaterThan(0.97)
    }
  })

  test('sounds as the recording does, within 20 ms, to the end', () => {
    const heard = samples(out)
    const meant = samples(source)
    for (const segment of map.kept)
      for (const into of [0.15, (segment.to - segment.from) / 2, segment.to - segment.from - 0.15]) {
        const found = lag(heard, segment.at + into, meant, segment.from + into)
        expect(Math.abs(found.lag), `sound ${into.toFixed(2)} s into ${segment.from}`).toBeLessThan(0.02)
        expect(found.likeness, `sound ${into.toFixed(2)} s into ${segment.from}`).toBeGreaterThan(0.9)
      }
    expect(Math.abs(duration(out, 'v') - map.length)).toBeLessThan(1 / RATE + 0.001)
    expect(Math.abs(duration(out, 'a') - duration(out, 'v'))).toBeLessThan(0.021)
  })

  test('plays through in the browser', async () => {
    const ended = await engine.page.evaluate(async (url: string) => {
      const video = document.createElement('video')
      video.src = url
      video.muted = true
      video.playbackRate = 8
      document.body.append(video)
      try {
        await video.play()
        await new Promise((resolve, reject) => {
          video.onended = resolve
          video.onerror = () => reject(new Error(video.error?.message ?? 'it stopped'))
        })
        return { at: video.currentTime, frames: video.getVideoPlaybackQuality().corruptedVideoFrames }
      } finally {
        video.remove()
      }
    }, engine.address(out))
    expect(ended.at).toBeCloseTo(map.length, 1)
    expect(ended.frames).toBe(0)
  })
})
