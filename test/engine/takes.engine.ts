/** Takes end to end: files of other sizes, rates and codings rendered as one, judged by ffmpeg. */
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { openEngine } from '../../scripts/engine.mjs'
import { codings, film, inFolder, removeFilms } from './films'
import { complaints, cuts, duration, edit, frameNumbers, lag, samples } from './judge'

let engine: Awaited<ReturnType<typeof openEngine>>
beforeAll(async () => {
  engine = await openEngine({ quiet: true })
})
afterAll(async () => {
  await engine.close()
  removeFilms()
})
const h264 = codings['H.264 and AAC']!.args

describe('two takes of one recorder', () => {
  let first = ''
  let second = ''
  beforeAll(() => {
    first = film('first.mp4', { seconds: 4, coding: h264 })
    // Another profile, and so other parameter sets.
    second = film('second.mp4', { seconds: 3, coding: [...h264, '-profile:v', 'main', '-bf', '0'] })
  })
  test('are copied into one film in which each frame is seen once, and the sound of each stands with it', async () => {
    const out = inFolder('joined.mp4')
    const made = await engine.render(
      { file: first, further: [second], edit: null, format: 'mp4' },
      out,
      () => undefined,
    )
    expect(complaints(out)).toBe('')
    expect(made.encoded).toBe(0)
    expect(frameNumbers(out)).toEqual([
      ...Array.from({ length: 120 }, (_, i) => i),
      ...Array.from({ length: 90 }, (_, i) => i),
    ])
    expect(Math.abs(duration(out, 'v') - 7)).toBeLessThan(0.04)
    const heard = samples(out)
    const [a, b] = [samples(first), samples(second)]
    for (const [at, meant, from] of [
      [1, a, 1],
      [3.8, a, 3.8],
      [4.3, b, 0.3],
      [6.5, b, 2.5],
    ] as const) {
      const found = lag(heard, at, meant, from)
      expect(found.likeness).toBeGreaterThan(0.9)
      expect(Math.abs(found.lag)).toBeLessThan(0.02)
    }
  })
  test('are cut across the joint as one recording', async () => {
    const out = inFolder('cut.mp4')
    await engine.render(
      { file: first, further: [second], edit: edit(...cuts([3, 5])), format: 'mp4' },
      out,
      () => undefined,
    )
    expect(complaints(out)).toBe('')
    expect(frameNumbers(out)).toEqual([
      ...Array.from({ length: 90 }, (_, i) => i),
      ...Array.from({ length: 60 }, (_, i) => 30 + i),
    ])
  })
})

test('a further take of another size, rate and coding is brought into the frame of the first', async () => {
  const first = film('large.mp4', { seconds: 3, coding: h264 })
  const second = film('small.webm', {
    seconds: 2,
    width: 320,
    height: 240,
    rate: 15,
    coding: codings['VP9 and Opus']!.args,
  })
  const out = inFolder('mixed.mp4')
  const made = await engine.render({ file: first, further: [second], edit: null, format: 'mp4' }, out, () => undefined)
  expect(complaints(out)).toBe('')
  expect(made.encoded).toBeGreaterThan(1.9)
  expect(made.encoded).toBeLessThan(2.2)
  expect(Math.abs(duration(out, 'v') - 5)).toBeLessThan(0.1)
  expect(Math.abs(duration(out, 'a') - 5)).toBeLessThan(0.1)
  // The first is untouched; of the second, every frame is there at its own rate.
  expect(frameNumbers(out).slice(0, 90)).toEqual(Array.from({ length: 90 }, (_, i) => i))
  const heard = samples(out)
  expect(lag(heard, 3.8, samples(second), 0.8).likeness).toBeGreaterThan(0.8)
})
