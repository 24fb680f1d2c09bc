import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  CLOSEST,
  following,
  HALL,
  isConfused,
  nudged,
  shots,
  speakerAt,
  towards,
  visitorLater,
  visitorOutside,
  WIDEST,
  within,
  type HallView,
} from './view'

const view: fc.Arbitrary<HallView> = fc.record({
  x: fc.double({ min: -1, max: 2, noNaN: true }),
  y: fc.double({ min: -1, max: 2, noNaN: true }),
  zoom: fc.double({ min: 0.2, max: 9, noNaN: true }),
})
const inside = ({ x, y, zoom }: HallView) =>
  [x - 0.5 / zoom, y - 0.5 / zoom].every((low) => low >= -1e-9) &&
  [x + 0.5 / zoom, y + 0.5 / zoom].every((high) => high <= 1 + 1e-9)

describe('the hall’s camera', () => {
  it('never sees beside the hall, whatever it is told', () => {
    fc.assert(
      fc.property(view, view, fc.double({ min: 0, max: 5, noNaN: true }), (from, to, seconds) => {
        const now = towards(within(from), to, seconds)
        expect(inside(now)).toBe(true)
        expect(now.zoom).toBeGreaterThanOrEqual(WIDEST)
        expect(now.zoom).toBeLessThanOrEqual(CLOSEST)
      }),
    )
  })
  it('moves by a share of what it sees, so that a close view moves little', () => {
    const near = nudged({ x: 0.5, y: 0.5, zoom: 4 }, { x: 0.15 })
    expect(near.x - 0.5).toBeCloseTo(0.15 / 4)
    expect(nudged(near, { zoom: 1.4 }).zoom).toBe(CLOSEST)
    expect(nudged(shots.hall.view, { x: 0.15 })).toEqual(shots.hall.view)
  })
  it('takes its time, and arrives', () => {
    let now = shots.hall.view
    const seen = [now]
    for (let i = 0; i < 100; i++) seen.push((now = towards(now, shots.board.view, 0.1)))
    expect(now.zoom).toBeCloseTo(shots.board.view.zoom, 6)
    expect(now.x).toBeCloseTo(within(shots.board.view).x, 6)
    for (const [i, v] of seen.entries()) if (i) expect(Math.abs(v.zoom / (seen[i - 1]?.zoom ?? 1))).toBeLessThan(1.1)
  })
  it('keeps a walking speaker in the picture', () => {
    let now = within(shots.lectern.view)
    for (let t = 0; t < 120; t += 1 / 24) {
      now = towards(now, following(t, 2.4), 1 / 24)
      expect(Math.abs(speakerAt(t) / HALL.width - now.x)).toBeLessThan(0.5 / now.zoom - 0.05)
    }
  })
})

describe('a visitor', () => {
  it('walks up to the speaker, so that a camera cannot tell them apart, and out of sight again', () => {
    let x: number = visitorOutside
    const walk = (comes: boolean, from: number, to: number) => {
      for (let t = from; t < to; t += 1 / 24) x = visitorLater(x, comes, speakerAt(t), 1 / 24)
    }
    expect(isConfused(x, speakerAt(0))).toBe(false)
    walk(true, 0, 6)
    expect(isConfused(x, speakerAt(6))).toBe(true)
    expect(Math.abs(x - speakerAt(6))).toBeGreaterThan(150)
    walk(false, 6, 12)
    expect(x).toBe(visitorOutside)
    // A drawn person reaches 125 px to each side.
    expect(x - 125).toBeGreaterThan(HALL.width)
  })
})
