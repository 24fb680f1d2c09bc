import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { ShareBox } from '../schema/edit'
import { contrast, contrastOver, luminanceOf } from './contrast'
import { aboveCaptions, captionZone, guidesOf, handles, LEAST, moveBox, overlaps, resizeBox, snapBox } from './placing'

const share = fc.double({ min: 0, max: 1, noNaN: true })
const box = fc.tuple(share, share, share, share).map(([x, y, w, h]): ShareBox => {
  const width = Math.max(LEAST, w * (1 - x))
  const height = Math.max(LEAST, h * (1 - y))
  return { x: Math.min(x, 1 - width), y: Math.min(y, 1 - height), width, height }
})
const by = fc.double({ min: -2, max: 2, noNaN: true })
const isInside = ({ x, y, width, height }: ShareBox) => {
  expect(Math.min(x, y)).toBeGreaterThanOrEqual(-1e-9)
  expect(Math.max(x + width, y + height)).toBeLessThanOrEqual(1 + 1e-9)
  expect(Math.min(width, height)).toBeGreaterThanOrEqual(LEAST - 1e-9)
}

describe('a box on a picture', () => {
  test('stays inside however it is moved, and keeps its size', () => {
    fc.assert(
      fc.property(box, by, by, (b, dx, dy) => {
        const moved = moveBox(b, dx, dy)
        isInside(moved)
        expect([moved.width, moved.height]).toEqual([b.width, b.height])
      }),
    )
  })

  test('stays inside however it is sized, and the edges that are not held stay', () => {
    fc.assert(
      fc.property(box, fc.constantFrom(...handles), by, by, (b, handle, dx, dy) => {
        const sized = resizeBox(b, handle, dx, dy)
        isInside(sized)
        if (!handle.includes('w')) expect(sized.x).toBe(b.x)
        if (!handle.includes('e')) expect(sized.x + sized.width).toBeCloseTo(b.x + b.width, 9)
        if (!handle.includes('n')) expect(sized.y).toBe(b.y)
        if (!handle.includes('s')) expect(sized.y + sized.height).toBeCloseTo(b.y + b.height, 9)
      }),
    )
  })

  test('goes to the middle and to the edges of others when it is near', () => {
    const reach = { x: 0.02, y: 0.02 }
    const middle = snapBox({ x: 0.39, y: 0.1, width: 0.2, height: 0.1 }, null, guidesOf([]), reach)
    expect(middle.box.x).toBeCloseTo(0.4)
    expect(middle.met.x).toEqual([0.5])
    const other = { x: 0.3, y: 0.3, width: 0.25, height: 0.2 }
    const beside = snapBox({ x: 0.56, y: 0.7, width: 0.07, height: 0.13 }, null, guidesOf([other]), reach)
    expect(beside.box.x).toBeCloseTo(0.55)
    expect(beside.met.y).toEqual([])
    const sized = snapBox({ x: 0.2, y: 0.1, width: 0.34, height: 0.1 }, 'e', guidesOf([other]), reach)
    expect(sized.box).toMatchObject({ x: 0.2, y: 0.1, height: 0.1 })
    expect(sized.box.width).toBeCloseTo(0.35)
  })

  test('never reaches into the captions once it was moved above them', () => {
    fc.assert(
      fc.property(box, (b) => {
        const above = aboveCaptions(b)
        expect(overlaps(above, captionZone)).toBe(false)
        expect(above.x).toBe(b.x)
        if (!overlaps(b, captionZone)) expect(above).toEqual(b)
      }),
    )
  })
})

describe('contrast', () => {
  // The definition's own ends, and a grey that WCAG's techniques name as the darkest that fails or passes on white.
  test('is that of WCAG 2.2', () => {
    expect(contrast(luminanceOf('#ffffff'), luminanceOf('#000000'))).toBeCloseTo(21, 6)
    expect(contrast(luminanceOf('#777777'), 1)).toBeCloseTo(4.48, 2)
    expect(contrast(luminanceOf('#767676'), 1)).toBeCloseTo(4.54, 2)
  })

  test('over a picture is what nine of ten pixels reach', () => {
    const pixels = (n: number, value: number) => Array.from({ length: n }, () => [value, value, value, 255]).flat()
    const light = new Uint8ClampedArray([...pixels(95, 255), ...pixels(5, 0)])
    expect(contrastOver('#000000', light)).toBeCloseTo(21, 6)
    const half = new Uint8ClampedArray([...pixels(60, 255), ...pixels(40, 0)])
    expect(contrastOver('#000000', half)).toBeCloseTo(1, 6)
  })
})
