import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { missingPictures } from './strip'

describe('pictures along a line', () => {
  it('are missing where the nearest one would be a neighbour’s too', () => {
    expect(missingPictures([0, 1, 2, 3], 1, [0, 2.5])).toEqual([1, 2, 3])
    expect(missingPictures([0, 1, 2, 3], 1, [0.3, 2.7])).toEqual([1, 2])
    expect(missingPictures([0, 1, 2, 3], 1, [])).toEqual([0, 1, 2, 3])
  })
  it('are missing on both sides of what is taken out, however long that is', () => {
    expect(missingPictures([0.1, 0.2, 90, 90.1], 0.1, [0.1, 0.4, 89.8, 90.1])).toEqual([0.2, 90])
  })
  it('are another for each once what is missing is there, and none is missing then', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.02, max: 20, noNaN: true }),
        fc.integer({ min: 1, max: 40 }),
        fc.array(fc.double({ min: 0, max: 100, noNaN: true }), { maxLength: 60 }),
        (step, count, had) => {
          const times = Array.from({ length: count }, (_, i) => i * step)
          const there = [...had, ...missingPictures(times, step, had)]
          expect(missingPictures(times, step, there)).toEqual([])
          const seen = times.map((t) => there.reduce((best, at) => (Math.abs(at - t) < Math.abs(best - t) ? at : best)))
          expect(new Set(seen).size).toBe(count)
        },
      ),
    )
  })
})
