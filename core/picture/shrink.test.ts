import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { shrink } from './shrink'

const grey = (values: number[]) => new Uint8Array(values.flatMap((v) => [v, v, v, 255]))
const reds = (rgba: Uint8ClampedArray) => [...rgba].filter((_, i) => i % 4 === 0)

describe('a picture made smaller', () => {
  it('has the mean of what each pixel covers', () => {
    const two = shrink(grey([0, 100, 10, 20, 200, 100, 30, 40]), { width: 4, height: 2 }, { width: 2, height: 1 })
    expect(reds(two)).toEqual([100, 25])
    expect([...two].filter((_, i) => i % 4 === 3)).toEqual([255, 255])
  })
  it('takes the nearest where it is larger, and all that is there where sizes do not divide', () => {
    expect(reds(shrink(grey([7, 9]), { width: 2, height: 1 }, { width: 4, height: 2 }))).toEqual([
      7, 7, 9, 9, 7, 7, 9, 9,
    ])
    expect(reds(shrink(grey([30, 60, 90]), { width: 3, height: 1 }, { width: 2, height: 1 }))).toEqual([30, 75])
  })
  it('keeps what is the same all over, whatever the sizes', () => {
    const side = fc.integer({ min: 1, max: 40 })
    fc.assert(
      fc.property(side, side, side, side, fc.nat(255), (width, height, w, h, value) => {
        const one = shrink(grey(Array<number>(width * height).fill(value)), { width, height }, { width: w, height: h })
        expect(new Set(reds(one))).toEqual(new Set([value]))
        expect(one).toHaveLength(4 * w * h)
      }),
    )
  })
})
