/**
 * Stills along a film, side by side in one picture, for whoever points at its line. Each stands for a stretch of the same
 * length and shows what is seen in the middle of it. Small and free of the schemas, as the student player carries it.
 */
import type { Size } from './layout'

/** How the stills stand in the picture: in rows of `columns`, from the left and the top. */
export interface StillGrid {
  /** How long a stretch each stands for, s. */
  every: number
  columns: number
  /** Of one still, px. */
  width: number
  height: number
}

/** Stills of one film at most: in 16:9 these fill 1920×1080 px, some 300 kB of JPEG. */
const MOST = 144
const COLUMNS = 12
/** What a still fits in, px. */
const BOX = { width: 160, height: 90 }
/** A stretch is no shorter, s. */
const SHORTEST = 2

/**
 * @param duration of the film, s
 * @param frame its size, px; neither side 0
 */
export function planStills(duration: number, frame: Size): StillGrid {
  const every = Math.max(SHORTEST, Math.ceil((10 * duration) / MOST) / 10)
  const scale = Math.min(BOX.width / frame.width, BOX.height / frame.height)
  const side = (px: number) => Math.max(2, 2 * Math.round((px * scale) / 2))
  return {
    every,
    columns: Math.min(COLUMNS, countStills(duration, every)),
    width: side(frame.width),
    height: side(frame.height),
  }
}

/** How many stills of `every` s there are of `duration` s. */
export const countStills = (duration: number, every: number): number => Math.max(1, Math.ceil(duration / every - 1e-6))

/** The stretches, s: where each begins, and its middle, which is shown; of the last, the middle of what there is. */
export const stillStretches = (duration: number, { every }: Pick<StillGrid, 'every'>): { from: number; at: number }[] =>
  Array.from({ length: countStills(duration, every) }, (_, i) => ({
    from: i * every,
    at: (i * every + Math.min(duration, (i + 1) * every)) / 2,
  }))

/** Where the still of an instant (s) stands in the picture, px. */
export function stillAt(grid: StillGrid, duration: number, at: number): { x: number; y: number } {
  const i = Math.min(countStills(duration, grid.every) - 1, Math.max(0, Math.floor(at / grid.every)))
  return { x: (i % grid.columns) * grid.width, y: Math.floor(i / grid.columns) * grid.height }
}

/** Size of the picture, px. */
export const sheetSize = (grid: StillGrid, duration: number): Size => ({
  width: grid.columns * grid.width,
  height: Math.ceil(countStills(duration, grid.every) / grid.columns) * grid.height,
})
