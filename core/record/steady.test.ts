import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { steadyTimes } from './steady'

const BLOCK = 0.01
/** The times that blocks get which were stamped with these. */
function times(stamps: readonly number[]): number[] {
  const steady = steadyTimes()
  return stamps.map((stamp) => steady(stamp, BLOCK))
}
const even = (count: number, from = 0) => Array.from({ length: count }, (_, i) => from + i * BLOCK)
/** Where a block does not follow the one before it: its number, and how long the hole is, s. */
const holes = (all: readonly number[]) =>
  all.flatMap((at, i) => {
    const gap = i === 0 ? 0 : at - ((all[i - 1] as number) + BLOCK)
    return Math.abs(gap) > 1e-9 ? [{ block: i, gap }] : []
  })

describe('blocks of live sound', () => {
  it('follow each other end to end, however their stamps tremble', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 0.2, noNaN: true }), { minLength: 40, maxLength: 400 }), (late) => {
        // Of every ten one comes in time.
        const stamps = even(late.length).map((at, i) => at + (i % 10 === 0 ? 0 : (late[i] as number)))
        expect(holes(times(stamps))).toEqual([])
      }),
    )
  })
  it('leave out what was lost, soon after it was', () => {
    const found = holes(times([...even(100), ...even(200, 1.15)]))
    expect(found).toHaveLength(1)
    expect(found[0]?.gap).toBeCloseTo(0.15, 9)
    expect(found[0]?.block).toBeGreaterThanOrEqual(100)
    expect(found[0]?.block).toBeLessThanOrEqual(160)
  })
  it('leave out a long silence of the device at once', () => {
    const found = holes(times([...even(100), ...even(100, 61)]))
    expect(found.map((h) => h.block)).toEqual([100])
    expect(found[0]?.gap).toBeCloseTo(60, 9)
  })
  it('are not moved back when they come in faster than they should', () => {
    expect(holes(times(even(300).map((at) => 0.999 * at)))).toEqual([])
  })
})
