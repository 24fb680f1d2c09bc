import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { arrange, contain, covers, even, frameSize, rearranged, toPixels, toSlot, type Size } from './layout'
import {
  blend,
  blit,
  blur,
  crop,
  cropOverlay,
  dim,
  fill,
  fromRgba,
  newPlanes,
  planesLength,
  toYuv,
  type Planes,
} from './planes'

const screen = { width: 1280, height: 720 }
const camera = { width: 640, height: 480 }
const both = new Map([
  ['screen', screen],
  ['camera', camera],
])
const only = (feed: string, size: Size) => new Map([[feed, size]])
const none = new Map<string, Size>()

describe('layouts', () => {
  it('put the camera into a corner of the screen, wholly inside it', () => {
    const [under, inset] = arrange('inset', both, screen)
    expect(under).toEqual({ feed: 'screen', box: { x: 0, y: 0, ...screen }, clip: null, edged: false })
    expect(inset?.edged).toBe(true)
    expect(inset && inset.box.x + inset.box.width < 1280 && inset.box.y + inset.box.height < 720).toBe(true)
    expect((inset?.box.width ?? 0) / (inset?.box.height ?? 1)).toBeCloseTo(4 / 3, 1)
  })
  it('stand side by side without touching', () => {
    const [left, right] = arrange('beside', both, screen)
    expect(left!.box.x + left!.box.width).toBeLessThanOrEqual(right!.box.x)
    expect(right!.box.x + right!.box.width).toBeLessThanOrEqual(1280)
  })
  it('fall back to what was recorded', () => {
    expect(arrange('inset', only('camera', camera), camera).map((p) => p.feed)).toEqual(['camera'])
    expect(arrange('camera', only('screen', screen), screen).map((p) => p.feed)).toEqual(['screen'])
    expect(arrange('screen', none, screen)).toEqual([])
    expect(frameSize(none, 'inset')).toBeNull()
    expect(frameSize(both, 'camera')).toEqual(camera)
  })
  it('never stretch a picture and always give even sides', () => {
    fc.assert(
      fc.property(fc.integer({ min: 16, max: 4000 }), fc.integer({ min: 16, max: 4000 }), (width, height) => {
        const frame = frameSize(only('screen', { width, height }), 'screen')!
        expect((frame.width % 2) + (frame.height % 2)).toBe(0)
        const box = contain({ width, height }, { x: 0, y: 0, ...screen })
        expect((box.x % 2) + (box.y % 2) + (box.width % 2) + (box.height % 2)).toBe(0)
        expect(box.x >= 0 && box.y >= 0 && box.x + box.width <= 1280 && box.y + box.height <= 720).toBe(true)
        expect(Math.abs(box.width / box.height - width / height) / (width / height)).toBeLessThan(
          3 / Math.min(box.width, box.height),
        )
      }),
    )
    expect(even(0)).toBe(2)
  })
  it('stand where they were put by hand: whole, or covering their place', () => {
    const slots = (fit: 'contain' | 'cover') => [
      { feed: 'camera-2', box: { x: 0, y: 0, width: 1, height: 1 }, fit: 'contain' as const },
      { feed: 'camera', box: { x: 0.5, y: 0.5, width: 0.25, height: 0.5 }, fit },
    ]
    const sizes = new Map([...both, ['camera-2', screen] as const])
    const [under, fitted] = arrange(slots('contain'), sizes, screen)
    expect(under).toMatchObject({ feed: 'camera-2', box: { x: 0, y: 0, ...screen }, clip: null, edged: false })
    expect(fitted).toMatchObject({ box: { x: 640, y: 420, width: 320, height: 240 }, clip: null, edged: true })
    const covering = arrange(slots('cover'), sizes, screen)[1]!
    expect(covering).toMatchObject({
      box: { x: 560, y: 360, width: 480, height: 360 },
      clip: { x: 640, y: 360, width: 320, height: 360 },
    })
    expect(toSlot(covering, screen)).toEqual({
      feed: 'camera',
      box: { x: 0.5, y: 0.5, width: 0.25, height: 0.5 },
      fit: 'cover',
    })
    expect(frameSize(sizes, slots('cover'))).toEqual(screen)
    // Where one of two was not recorded, the other has the frame; where none was, there is nothing to show.
    expect(arrange(slots('cover'), only('camera', camera), camera)).toEqual([
      { feed: 'camera', box: { x: 0, y: 0, ...camera }, clip: null, edged: false },
    ])
    expect(arrange(slots('cover'), only('screen', screen), screen)).toEqual([])
  })
  it('are never seen outside of their slots, and fill those that they cover', () => {
    const share = fc.double({ min: 0, max: 0.9, noNaN: true })
    const side = fc.integer({ min: 16, max: 3000 })
    fc.assert(
      fc.property(share, share, share, share, side, side, fc.boolean(), (x, y, w, h, width, height, isCovering) => {
        const box = { x, y, width: Math.max(0.02, Math.min(1 - x, w)), height: Math.max(0.02, Math.min(1 - y, h)) }
        const slot = { feed: 'camera', box, fit: isCovering ? ('cover' as const) : ('contain' as const) }
        const [placed] = arrange([slot], only('camera', { width, height }), screen)
        const within = toPixels(box, { x: 0, y: 0, ...screen })
        const seen = placed!.clip ?? placed!.box
        expect(seen.x >= within.x - 1 && seen.y >= within.y - 1).toBe(true)
        expect(seen.x + seen.width <= within.x + within.width + 1).toBe(true)
        expect(seen.y + seen.height <= within.y + within.height + 1).toBe(true)
        if (isCovering) expect([seen.width, seen.height]).toEqual([within.width, within.height])
      }),
    )
  })
  it('are arranged as a student wants where both are seen, and stay hidden where one is', () => {
    const laidOut = arrange('inset', both, screen).map((p) => toSlot(p, screen))
    expect(rearranged(laidOut, 'beside', both, screen)[1]?.box.x).toBeGreaterThan(0.7)
    expect(rearranged(laidOut.slice(0, 1), 'beside', both, screen)).toEqual(laidOut.slice(0, 1))
    expect(rearranged(laidOut, null, both, screen)).toBe(laidOut)
  })
  it('turn shares of the frame into px inside it', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0.001, max: 1, noNaN: true }),
        (at, size) => {
          const box = toPixels({ x: at, y: at, width: size, height: size }, { x: 0, y: 0, ...screen })
          expect(
            box.x >= 0 &&
              box.y >= 0 &&
              box.x + box.width <= 1280 &&
              box.y + box.height <= 720 &&
              box.width >= 2 &&
              box.height >= 2,
          ).toBe(true)
        },
      ),
    )
    expect(covers(toPixels({ x: 0, y: 0, width: 1, height: 1 }, { x: 0, y: 0, ...screen }), screen)).toBe(true)
  })
})

describe('planes', () => {
  const how = { matrix: 'bt709', full: false } as const
  const grey = (width: number, height: number, luma: (x: number, y: number) => number): Planes => {
    const planes = newPlanes(width, height)
    planes.u.fill(128)
    planes.v.fill(128)
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) planes.y[y * width + x] = luma(x, y)
    return planes
  }
  it('know the colours of the standards', () => {
    expect(toYuv('#000000', how)).toEqual([16, 128, 128])
    expect(toYuv('#ffffff', how).map(Math.round)).toEqual([235, 128, 128])
    // BT.709: Y' of pure red is 0.2126, so 16 + 219 × 0.2126.
    expect(toYuv('#ff0000', how)[0]).toBeCloseTo(62.56, 1)
    expect(toYuv('#ff0000', { matrix: 'bt601', full: true })[0]).toBeCloseTo(76.2, 1)
  })
  it('copy at the same size and keep a flat picture flat at any other', () => {
    const from = grey(8, 6, (x, y) => 16 + x + 8 * y)
    const to = newPlanes(16, 12)
    blit(to, from, { x: 4, y: 2, width: 8, height: 6 })
    expect(to.y[2 * 16 + 4]).toBe(16)
    expect(to.y[7 * 16 + 11]).toBe(16 + 7 + 40)
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 20 }),
        fc.integer({ min: 1, max: 20 }),
        fc.integer({ min: 2, max: 90 }),
        fc.integer({ min: 2, max: 90 }),
        (w, h, width, height) => {
          const out = newPlanes(64, 64)
          blit(
            out,
            grey(width, height, () => 77),
            { x: 2, y: 4, width: 2 * w, height: 2 * h },
          )
          expect(out.y[4 * 64 + 2]).toBe(77)
          expect(out.y[(4 + 2 * h - 1) * 64 + 2 + 2 * w - 1]).toBe(77)
          expect(out.y[4 * 64 + 2 + 2 * w]).toBe(0)
          expect(out.u[2 * 32 + 1]).toBe(128)
        },
      ),
      { numRuns: 60 },
    )
  })
  it('keep the mean when they shrink a picture', () => {
    const from = grey(64, 64, (x) => (x % 2 ? 235 : 16))
    const to = newPlanes(16, 16)
    blit(to, from, { x: 0, y: 0, width: 16, height: 16 })
    expect(Math.max(...to.y) - Math.min(...to.y)).toBeLessThan(4)
    expect(to.y[100]).toBeGreaterThan(120)
  })
  it('hold the most saturated colours, in full range too', () => {
    for (const full of [false, true])
      for (const [r, g, b] of [
        [255, 0, 0],
        [0, 0, 255],
        [0, 255, 0],
      ] as const) {
        const rgba = new Uint8ClampedArray(16).map((_, i) => [r, g, b, 255][i % 4]!)
        const { u, v } = fromRgba(rgba, 2, 2, { matrix: 'bt709', full })
        expect([u[0]! > 200, v[0]! > 200], `${r} ${g} ${b} ${full}`).toEqual([b === 255, r === 255])
      }
  })
  it('give the part of an overlay, or of a picture, that lies in a box', () => {
    const from = grey(16, 12, (x, y) => x + 16 * y)
    const part = crop(from, { x: 4, y: 2, width: 6, height: 8 })
    expect([part.y.length, part.y[0], part.y.at(-1), part.u.length]).toEqual([48, 36, 153, 12])
    const rgba = new Uint8ClampedArray(4 * 64).map((_, i) => (i % 4 === 3 ? (i < 128 ? 255 : 0) : 255))
    const overlay = cropOverlay(fromRgba(rgba, 8, 8, how), { x: 2, y: 2, width: 4, height: 4 })
    expect([...overlay.a]).toEqual([...Array<number>(8).fill(255), ...Array<number>(8).fill(0)])
    expect([...overlay.ca]).toEqual([255, 255, 0, 0])
  })
  it('blend by coverage, and cut off what reaches outside', () => {
    const rgba = new Uint8ClampedArray(4 * 16).map((_, i) => (i % 4 === 3 ? (i < 32 ? 255 : 0) : 255))
    const overlay = fromRgba(rgba, 4, 4, how)
    const to = grey(8, 8, () => 16)
    blend(to, overlay, 6, 6)
    expect([to.y[6 * 8 + 6], to.y[5 * 8 + 6], to.y[7 * 8 + 7]]).toEqual([235, 16, 235])
    const faint = grey(8, 8, () => 16)
    blend(faint, overlay, 0, 0, 0.5)
    expect(faint.y[0]).toBeGreaterThan(120)
    expect(faint.y[0]).toBeLessThan(130)
    expect(faint.y[3 * 8]).toBe(16)
  })
  it('leave nothing to read under a mask, and everything beside it', () => {
    const letters = (x: number, y: number) => (((x >> 1) + (y >> 1)) % 2 ? 235 : 16)
    const to = grey(64, 48, letters)
    blur(to, { x: 16, y: 8, width: 32, height: 24 })
    const inside = Array.from({ length: 22 }, (_, y) =>
      Array.from({ length: 30 }, (_, x) => to.y[(9 + y) * 64 + 17 + x]!),
    ).flat()
    expect(Math.max(...inside) - Math.min(...inside)).toBeLessThan(20)
    expect(to.y[8 * 64 + 15]).toBe(letters(15, 8))
    fill(to, { x: -10, y: -10, width: 14, height: 14 }, toYuv('#000000', how))
    expect([to.y[3 * 64 + 3], to.y[4 * 64 + 4]]).toEqual([16, letters(4, 4)])
    expect(() => blur(to, { x: 63, y: 47, width: 40, height: 40 })).not.toThrow()
  })
  it('dim to black', () => {
    const to = grey(4, 4, () => 200)
    to.u.fill(90)
    dim(to, 0.5, how)
    expect([to.y[0], to.u[0]]).toEqual([108, 109])
    dim(to, 0, how)
    expect([to.y[0], to.u[0]]).toEqual([16, 128])
  })
  it('lie one after the other as an I420 frame does', () => {
    const buffer = new Uint8Array(planesLength(5, 3))
    const planes = newPlanes(5, 3, buffer)
    planes.v[0] = 9
    expect([buffer.length, planes.u.length, buffer[15 + 6]]).toEqual([27, 6, 9])
  })
})
