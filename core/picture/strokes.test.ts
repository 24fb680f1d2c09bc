import { describe, expect, it } from 'vitest'
import type { Stroke } from '../schema/edit'
import { isAtOnce, nearStroke, retimed, shapePoints, strokePath, strokesAt, type Shape } from './strokes'

const stroke: Stroke = {
  colour: '#b23a2e',
  width: 0.01,
  opacity: 1,
  points: [
    { x: 0.1, y: 0.5, at: 2 },
    { x: 0.5, y: 0.5, at: 3 },
    { x: 0.9, y: 0.5, at: 4 },
  ],
  until: 6,
}

describe('strokes', () => {
  it('grow as they were drawn and go when they were erased', () => {
    expect([1.9, 2, 3.5, 4, 5.99, 6].map((t) => strokesAt([stroke], t)[0]?.points.length ?? 0)).toEqual([
      0, 1, 2, 3, 3, 0,
    ])
    expect(strokesAt([{ ...stroke, until: undefined } as unknown as Stroke], 99)).toHaveLength(1)
  })
  it('are met on their way, not only where the hand was seen', () => {
    expect(nearStroke(stroke, { x: 0.3, y: 0.51 }, 16 / 9, 0.012)).toBe(true)
    expect(nearStroke(stroke, { x: 0.3, y: 0.53 }, 16 / 9, 0.012)).toBe(false)
    // To the side, distance is reckoned in the picture's height too.
    expect(nearStroke(stroke, { x: 0.09, y: 0.5 }, 16 / 9, 0.012)).toBe(false)
    expect(nearStroke(stroke, { x: 0.09, y: 0.5 }, 1, 0.012)).toBe(true)
  })
  it('may be a single point', () => {
    const dot = { ...stroke, points: stroke.points.slice(0, 1) }
    expect(nearStroke(dot, { x: 0.1, y: 0.505 }, 1, 0.01)).toBe(true)
    expect(strokePath(dot, 2).data).toMatch(/^M0\.\d+/)
  })
})

/** All numbers of SVG path data, in pairs. */
const corners = (data: string) =>
  data
    .split(/[MLZ]/)
    .filter(Boolean)
    .map((pair) => pair.split(' ').map(Number) as [number, number])

describe('the way of a stroke', () => {
  it('is an outline as wide as the pen, around what the hand did', () => {
    const { data, filled } = strokePath(stroke, 2)
    const all = corners(data)
    expect(filled).toBe(true)
    expect(Math.min(...all.map(([x]) => x))).toBeCloseTo(0.2, 1)
    expect(Math.max(...all.map(([x]) => x))).toBeCloseTo(1.8, 1)
    const [top, foot] = [Math.min(...all.map(([, y]) => y)), Math.max(...all.map(([, y]) => y))]
    expect(foot - top).toBeCloseTo(0.01, 3)
    expect((foot + top) / 2).toBeCloseTo(0.5, 3)
  })
  it('keeps the corners of a shape', () => {
    const points = shapePoints('box', { x: 0.1, y: 0.2 }, { x: 0.5, y: 0.8 }, 2, 0.01).map((p) => ({ ...p, at: 0 }))
    const { data, filled } = strokePath({ ...stroke, points, straight: true }, 2)
    expect(filled).toBe(false)
    expect(corners(data)).toEqual([
      [0.2, 0.2],
      [1, 0.2],
      [1, 0.8],
      [0.2, 0.8],
      [0.2, 0.2],
    ])
  })
  it.each<[Exclude<Shape, 'pen' | 'highlighter'>]>([['line'], ['arrow'], ['box'], ['ellipse']])(
    'of a %s reaches what it was dragged over',
    (shape) => {
      const points = shapePoints(shape, { x: 0.2, y: 0.3 }, { x: 0.6, y: 0.7 }, 16 / 9, 0.01)
      expect(Math.min(...points.map((p) => p.x))).toBeCloseTo(0.2, 6)
      expect(Math.max(...points.map((p) => p.x))).toBeCloseTo(0.6, 6)
      expect(Math.max(...points.map((p) => p.y))).toBeCloseTo(0.7, 6)
    },
  )
})

describe('the time of a drawing', () => {
  const two = [stroke, { ...stroke, points: stroke.points.map((p) => ({ ...p, y: 0.6 })) }]
  it('is none, or that of a hand that draws one stroke after the other', () => {
    const once = retimed(two, 'at-once', 2, 10)
    expect(isAtOnce(once)).toBe(true)
    const drawn = retimed(once, 'drawn', 2, 60)
    const times = drawn.flatMap((s) => s.points.map((p) => p.at))
    expect(times).toEqual([...times].sort((a, b) => a - b))
    // 1.6 heights of the picture each.
    expect(drawn[0]!.points.at(-1)!.at).toBeCloseTo(2, 6)
    expect(isAtOnce(drawn)).toBe(false)
  })
  it('fits into the time that there is', () => {
    const times = retimed(two, 'drawn', 2, 1).flatMap((s) => s.points.map((p) => p.at))
    expect(Math.max(...times)).toBeLessThanOrEqual(1)
    expect(Math.max(...times)).toBeGreaterThan(0.9)
  })
})
