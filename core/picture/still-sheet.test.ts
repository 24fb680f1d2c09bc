import { expect, test } from 'vitest'
import { countStills, planStills, sheetSize, stillAt, stillStretches } from './still-sheet'

const wide = { width: 1280, height: 720 }

test('a short film has a still every two seconds, in no more columns than there are stills', () => {
  const grid = planStills(9, wide)
  expect(grid).toEqual({ every: 2, columns: 5, width: 160, height: 90 })
  expect(stillStretches(9, grid)).toEqual([
    { from: 0, at: 1 },
    { from: 2, at: 3 },
    { from: 4, at: 5 },
    { from: 6, at: 7 },
    { from: 8, at: 8.5 },
  ])
  expect(sheetSize(grid, 9)).toEqual({ width: 800, height: 90 })
})

test('a long one has at most 144, which fill a picture of 1920×1080', () => {
  for (const duration of [287.9, 288, 288.1, 3601, 7200, 86_400]) {
    const grid = planStills(duration, wide)
    expect(countStills(duration, grid.every)).toBeLessThanOrEqual(144)
    const { width, height } = sheetSize(grid, duration)
    expect([width <= 1920, height <= 1080]).toEqual([true, true])
    expect(stillStretches(duration, grid).every(({ at }) => at < duration)).toBe(true)
  }
})

test('a film that is higher than wide, or hardly high at all, keeps its shape within a still', () => {
  expect(planStills(60, { width: 720, height: 1280 })).toMatchObject({ width: 50, height: 90 })
  expect(planStills(60, { width: 4000, height: 10 })).toMatchObject({ width: 160, height: 2 })
})

test('an instant finds the still of its stretch, also behind the end', () => {
  const grid = planStills(60, wide)
  expect([0, 1.9, 2, 23.9, 24, 59.9, 60, 1e9, -1].map((at) => stillAt(grid, 60, at))).toEqual([
    { x: 0, y: 0 },
    { x: 0, y: 0 },
    { x: 160, y: 0 },
    { x: 1760, y: 0 },
    { x: 0, y: 90 },
    { x: 5 * 160, y: 180 },
    { x: 5 * 160, y: 180 },
    { x: 5 * 160, y: 180 },
    { x: 0, y: 0 },
  ])
})

test('a film shorter than a stretch has one still', () => {
  const grid = planStills(0.4, wide)
  expect(stillStretches(0.4, grid)).toEqual([{ from: 0, at: 0.2 }])
  expect(sheetSize(grid, 0.4)).toEqual({ width: 160, height: 90 })
})
