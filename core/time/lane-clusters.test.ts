import fc from 'fast-check'
import { expect, test } from 'vitest'
import { laneBars } from './lane-clusters'

test('wide items stand alone, narrow ones that touch are one bar', () => {
  const placed = [
    { x: 0, width: 40 },
    { x: 41, width: 1 },
    { x: 43, width: 1 },
    { x: 45, width: 1 },
    { x: 80, width: 2 },
    { x: 82, width: 50 },
  ]
  expect(laneBars(placed, 4, 2)).toEqual([
    { x: 0, width: 40, only: 0 },
    { x: 41, width: 5, only: null },
    { x: 80, width: 2, only: 4 },
    { x: 82, width: 50, only: 5 },
  ])
})

test('there are never more bars than fit side by side, and every item is in one', () => {
  const items = fc
    .array(fc.tuple(fc.integer({ min: 0, max: 700 }), fc.integer({ min: 0, max: 3 })), { maxLength: 400 })
    .map((all) => all.map(([x, width]) => ({ x, width })).sort((a, b) => a.x - b.x))
  fc.assert(
    fc.property(items, (placed) => {
      const bars = laneBars(placed, 4, 2)
      expect(bars.length).toBeLessThanOrEqual(704 / 3 + 1)
      for (const { x, width } of placed) expect(bars.some((b) => b.x <= x && b.x + b.width >= x + width)).toBe(true)
    }),
  )
})
