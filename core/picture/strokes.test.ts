import { describe, expect, it } from 'vitest'
import type { Stroke } from '../schema/edit'
import { nearStroke, polyline, strokesAt } from './strokes'

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
    expect(polyline(dot, 2)).toBe('0.2000,0.5000')
  })
})
