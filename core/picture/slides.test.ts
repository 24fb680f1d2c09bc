import { describe, expect, it } from 'vitest'
import { COLUMNS, ROWS, SAMPLES_PER_SECOND, screenGrid, slideDetector, type ScreenGrid } from './slides'

/** A screen of text: lines of pseudo-random letters in the given rows, on light ground. */
function screen(lines: Record<number, number>): ScreenGrid {
  const grid: ScreenGrid = { mean: new Uint8Array(COLUMNS * ROWS).fill(230), contrast: new Uint8Array(COLUMNS * ROWS) }
  for (const [row, seed] of Object.entries(lines)) {
    let state = seed
    for (let y = Number(row); y < Number(row) + 3; y++)
      for (let x = 8; x < COLUMNS - 40; x++) {
        state = (state * 16_807) % 2_147_483_647
        grid.mean[y * COLUMNS + x] = 60 + (state % 160)
        grid.contrast[y * COLUMNS + x] = 190
      }
  }
  return grid
}
/**
 * Shows screens one after the other, each for some seconds; `over` changes every sample as a pointer or a clip does.
 */
function watch(
  shown: [ScreenGrid, number][],
  over: (grid: ScreenGrid, sample: number) => void = () => undefined,
): number[] {
  const detector = slideDetector()
  for (const [i, grid] of film(shown, over).entries()) detector.push(i / SAMPLES_PER_SECOND, grid)
  return detector.finish()
}
function film(shown: [ScreenGrid, number][], over: (grid: ScreenGrid, sample: number) => void): ScreenGrid[] {
  let sample = 0
  return shown.flatMap(([grid, seconds]) =>
    Array.from({ length: seconds * SAMPLES_PER_SECOND }, () => {
      const seen = { mean: grid.mean.slice(), contrast: grid.contrast.slice() }
      over(seen, sample++)
      return seen
    }),
  )
}
/** The same, looked at from key frame to key frame, `apart` s, and between only where that is needed. */
function glance(
  shown: [ScreenGrid, number][],
  over: (grid: ScreenGrid, sample: number) => void = () => undefined,
  apart = 5,
): { found: number[]; looked: number } {
  const detector = slideDetector()
  const all = film(shown, over)
  let [from, looked] = [0, 0]
  const lookThrough = (to: number) => {
    looked += to - from
    for (; from < to; from++) detector.push(from / SAMPLES_PER_SECOND, all[from]!)
  }
  for (let key = apart * SAMPLES_PER_SECOND; key < all.length; key += apart * SAMPLES_PER_SECOND) {
    if (!detector.pass(key / SAMPLES_PER_SECOND, all[key]!)) lookThrough(key)
    from = key
  }
  lookThrough(all.length)
  return { found: detector.finish(), looked: looked / all.length }
}
const box = (grid: ScreenGrid, x: number, y: number, width: number, height: number, value: (i: number) => number) => {
  for (let row = y; row < y + height; row++)
    for (let col = x; col < x + width; col++) {
      grid.mean[row * COLUMNS + col] = value(row * 31 + col * 7)
      grid.contrast[row * COLUMNS + col] = 200
    }
}

const first = { 6: 11, 20: 12, 30: 13 }
const second = { 6: 21, 20: 22, 30: 23 }
const footer = { 84: 99 }

describe('slides', () => {
  it('are found when what stood there is gone, to within half a second', () => {
    const found = watch([
      [screen({ ...first, ...footer }), 10],
      [screen({ ...second, ...footer }), 8],
      [screen({ ...first, ...footer }), 8],
    ])
    expect(found).toHaveLength(3)
    for (const [i, t] of [0, 10, 18].entries()) expect(Math.abs(found[i]! - t)).toBeLessThanOrEqual(0.5)
  })
  it('are not changed by a build', () => {
    expect(
      watch([
        [screen({ 6: 11 }), 5],
        [screen({ 6: 11, 20: 12 }), 5],
        [screen(first), 5],
      ]),
    ).toHaveLength(1)
  })
  it('are not changed by a pointer, a talking inset, or a clip that begins and ends', () => {
    const found = watch([[screen({ ...first, ...footer }), 30]], (grid, sample) => {
      box(grid, (sample * 7) % 150, (sample * 3) % 85, 3, 3, () => 80)
      box(grid, 130, 60, 28, 22, (i) => (i * 13 + sample * 37) % 255)
      if (sample > 40 && sample < 80) box(grid, 60, 35, 60, 40, (i) => (i * 17 + sample * 51) % 255)
    })
    expect(found).toHaveLength(1)
  })
  it('change with their title, even when a figure below it stays', () => {
    const figure = (grid: ScreenGrid) => box(grid, 20, 30, 110, 50, (i) => (i * 29) % 255)
    expect(
      watch(
        [
          [screen({ 6: 11 }), 8],
          [screen({ 6: 21 }), 8],
        ],
        figure,
      ),
    ).toHaveLength(2)
  })
  it('change with a short title below a bar that runs across every slide', () => {
    const deck = (grid: ScreenGrid) => {
      box(grid, 0, 1, COLUMNS, 1, () => 120)
      box(grid, 90, 30, 60, 50, (i) => (i * 29) % 255)
    }
    const titled = (seed: number) => {
      const grid = screen({})
      box(grid, 8, 10, 40, 6, (i) => 60 + ((i * seed) % 160))
      return grid
    }
    expect(
      watch(
        [
          [titled(17), 8],
          [titled(41), 8],
        ],
        deck,
      ),
    ).toHaveLength(2)
  })
  it('may fade into one another', () => {
    const [a, b] = [screen(first), screen(second)]
    const mixed = (share: number) => ({
      mean: a.mean.map((m, i) => m * (1 - share) + b.mean[i]! * share),
      contrast: a.contrast.map((c, i) => c * (1 - share) + b.contrast[i]! * share),
    })
    const found = watch([
      [a, 8],
      [mixed(0.25), 0.25],
      [mixed(0.5), 0.25],
      [mixed(0.75), 0.25],
      [b, 8],
    ])
    expect(found).toHaveLength(2)
    expect(Math.abs(found[1]! - 8.4)).toBeLessThanOrEqual(0.5)
  })
  it('may stand over one another for a moment, and each is found', () => {
    const [a, b, c] = [
      { 6: 11, 20: 12 },
      { 32: 21, 46: 22 },
      { 60: 31, 70: 32 },
    ] as const
    const found = watch([
      [screen(a), 20],
      [screen({ ...a, ...b }), 0.25],
      [screen(b), 20],
      [screen({ ...b, ...c }), 0.25],
      [screen(c), 20],
    ])
    expect(found).toHaveLength(3)
  })
  it('may begin on an empty one', () => {
    expect(
      watch([
        [screen({}), 5],
        [screen(first), 5],
      ]),
    ).toHaveLength(2)
  })
})

describe('slides between key frames that show the same', () => {
  const deck: [ScreenGrid, number][] = [
    [screen({ ...first, ...footer }), 92],
    [screen({ ...second, ...footer }), 61],
    [screen({ ...first, ...footer }), 47],
  ]
  const inset = (grid: ScreenGrid, sample: number) => box(grid, 126, 55, 34, 30, (i) => (i * 13 + sample * 37) % 255)
  it('are found as if all were looked at, and little is', () => {
    for (const over of [undefined, inset]) {
      const { found, looked } = glance(deck, over)
      expect(found).toHaveLength(3)
      for (const [i, t] of watch(deck, over).entries()) expect(Math.abs(found[i]! - t)).toBeLessThanOrEqual(0.25)
      expect(looked).toBeLessThan(0.35)
    }
  })
  it('are not made of an inset on a slide with few words, or of a build', () => {
    expect(glance([[screen({ 30: 5 }), 120]], inset).found).toHaveLength(1)
    const builds: [ScreenGrid, number][] = [
      [screen({ 6: 11 }), 33],
      [screen({ 6: 11, 20: 12 }), 33],
      [screen(first), 33],
    ]
    expect(glance(builds).found).toHaveLength(1)
    expect(glance(builds, inset).found).toHaveLength(1)
  })
  it('are found when only the title changes, and where the first is empty', () => {
    const figure = (grid: ScreenGrid) => box(grid, 20, 30, 110, 50, (i) => (i * 29) % 255)
    const titles: [ScreenGrid, number][] = [
      [screen({ 6: 11 }), 43],
      [screen({ 6: 21 }), 43],
    ]
    expect(glance(titles, figure).found).toHaveLength(2)
    const empty: [ScreenGrid, number][] = [
      [screen({}), 43],
      [screen(first), 43],
    ]
    expect(glance(empty).found).toHaveLength(2)
  })
})

describe('a look at the screen', () => {
  it('has means and contrasts of the cells, whatever the size and the stride', () => {
    for (const [width, height, stride] of [
      [1920, 1080, 1920],
      [641, 359, 700],
      [160, 90, 160],
    ] as const) {
      const luma = new Uint8Array(stride * height)
      for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) luma[y * stride + x] = x < width / 2 ? 40 : 200
      const grid = screenGrid(luma, stride, width, height)
      expect([grid.mean[0], grid.mean[COLUMNS - 1], grid.contrast[0]]).toEqual([40, 200, 0])
    }
  })
})
