import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { clockWatch, keepTime, type ClockPoint } from './clock'

/** Packets of 20 ms for so many seconds; in each second, those of its last fifth are small, as in a pause. */
const packets = (seconds: number) =>
  Array.from({ length: 50 * seconds }, (_, i) => ({ at: i / 50, length: 0.02, size: i % 50 >= 40 ? 12 : 200 }))
/** Watches a feed that runs at `rate` of the clock and arrives up to `jitter` s late. */
function watched(seconds: number, rate: number, offset: number, jitter: () => number): readonly ClockPoint[] {
  const watch = clockWatch()
  for (const { at } of packets(seconds)) watch.push(at, offset + at / rate + jitter())
  return watch.points
}
/** Where on the clock each packet stands in the file that is made. */
function placed(times: readonly number[], offset: number): number[] {
  let at = offset
  return times.map((n) => {
    const here = at
    at += 0.02 * n
    return here
  })
}

describe('a feed’s clock', () => {
  it('is known after a second, and better after ten', () => {
    const watch = clockWatch()
    const late = (t: number) => (t < 2 ? 0.3 : 0.1)
    let changes = 0
    for (let t = 0; t < 25; t += 0.02) if (watch.push(t, t + late(t))) changes++
    expect(changes).toBe(3)
    expect(watch.points.map((p) => p.late)).toEqual([expect.closeTo(0.1), expect.closeTo(0.1)])
    const early = clockWatch()
    for (let t = 0; t < 1.5; t += 0.02) early.push(t, t + late(t))
    expect(early.points.map((p) => p.late)).toEqual([expect.closeTo(0.3)])
  })
  it('is not moved by what comes late now and then', () => {
    let n = 0
    const points = watched(60, 1, 0.05, () => (n++ % 7 ? 0.2 : 0.001))
    for (const p of points) expect(p.late).toBeCloseTo(0.051, 3)
  })
})

describe('sound that keeps to the clock', () => {
  it('is left alone when its clock is right', () => {
    const even = () => 0.004
    expect(keepTime(packets(300), watched(300, 1, 0.1, even)).every((n) => n === 1)).toBe(true)
    // 20 parts in a million in five minutes are 6 ms: not worth a packet.
    expect(keepTime(packets(300), watched(300, 1.00002, 0.1, even)).every((n) => n === 1)).toBe(true)
    expect(keepTime([], [])).toEqual([])
    expect(keepTime(packets(1), [{ at: 1, late: 0.1 }])).toEqual(Array(50).fill(1))
  })
  it('stays within 20 ms of it on the average, and within 40 always, whether it runs fast or slow', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -800, max: 800 }),
        fc.double({ min: -0.05, max: 0.3, noNaN: true }),
        (millionths, offset) => {
          const rate = 1 + millionths / 1e6
          const points = watched(600, rate, offset, () => 0.002)
          const times = keepTime(packets(600), points)
          // What comes after the last window has not been seen yet.
          const seen = (points.at(-1)?.at ?? 0) * 50
          const errors = placed(times, points[0]?.late ?? 0)
            .slice(0, seen)
            .map((at, i) => Math.abs(at - (offset + i / 50 / rate + 0.002)))
          expect(Math.max(...errors)).toBeLessThan(0.036)
          expect(errors.reduce((a, b) => a + b, 0) / errors.length).toBeLessThan(0.02)
        },
      ),
      { numRuns: 30 },
    )
  })
  it('is mended in its pauses', () => {
    const times = keepTime(
      packets(600),
      watched(600, 1.0005, 0, () => 0),
    )
    const changed = times.flatMap((n, i) => (n === 1 ? [] : [i]))
    expect(changed.length).toBeGreaterThan(10)
    for (const i of changed) expect(i % 50).toBeGreaterThanOrEqual(40)
  })
  it('is filled up where a piece of it was lost', () => {
    // For a third of a second nothing could be encoded.
    const watch = clockWatch()
    for (const { at } of packets(60)) watch.push(at, at + (at > 30 ? 0.34 : 0))
    const times = keepTime(packets(60), watch.points)
    expect(times.reduce((sum, n) => sum + n - 1, 0)).toBe(17)
  })
})
