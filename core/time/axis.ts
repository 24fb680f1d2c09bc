/**
 * The time line's ruler: recorded seconds to pixels, with every removed range folded into a narrow seam
 * unless it has been opened. Kept and opened stretches are drawn to scale.
 *
 *     kept │ seam │ kept          opened:  kept │▒▒▒▒removed▒▒▒▒│ kept
 */
import type { TimeMap } from './time-map'
import { recorded, type RecordedRange, type RecordedTime } from './units'

/** One piece of the ruler, `x`…`x + width` px, for the recorded stretch `from`–`to`. */
export interface AxisPiece extends RecordedRange {
  kind: 'kept' | 'seam' | 'opened'
  x: number
  width: number
}

export interface Axis {
  pieces: readonly AxisPiece[]
  /** Total width in px. */
  width: number
  /** Scale of everything drawn to scale. */
  pixelsPerSecond: number
}

/**
 * @param pixelsPerSecond scale of everything drawn to scale
 * @param seamWidth width of a folded seam, px
 * @param isOpen whether a removed range is shown in full
 */
export function buildAxis(
  map: TimeMap,
  pixelsPerSecond: number,
  seamWidth: number,
  isOpen: (removed: RecordedRange) => boolean,
): Axis {
  const ranges = [
    ...map.kept.map((r) => ({ from: r.from, to: r.to, kind: 'kept' as const })),
    ...map.removed.map((r) => ({ from: r.from, to: r.to, kind: isOpen(r) ? ('opened' as const) : ('seam' as const) })),
  ].sort((a, b) => a.from - b.from)
  let x = 0
  const pieces = ranges.map((r): AxisPiece => {
    const width = r.kind === 'seam' ? seamWidth : (r.to - r.from) * pixelsPerSecond
    const piece = { ...r, x, width }
    x += width
    return piece
  })
  return { pieces, width: x, pixelsPerSecond }
}

/** Pixel of a recorded instant; inside a folded seam, proportionally across it. */
export function toPixel(axis: Axis, time: RecordedTime): number {
  const piece = axis.pieces.find((p) => time < p.to) ?? axis.pieces.at(-1)
  if (!piece) return 0
  const share = Math.min(1, Math.max(0, (time - piece.from) / (piece.to - piece.from)))
  return piece.x + share * piece.width
}

/** Recorded instant under a pixel, clamped to the ruler. */
export function toTime(axis: Axis, pixel: number): RecordedTime {
  const piece = axis.pieces.find((p) => pixel < p.x + p.width) ?? axis.pieces.at(-1)
  if (!piece) return recorded(0)
  const share = Math.min(1, Math.max(0, (pixel - piece.x) / piece.width))
  return recorded(piece.from + share * (piece.to - piece.from))
}

/** Spacing of the ruler's marks, in seconds, so that they stand at least `least` px apart. */
export function tickStep(pixelsPerSecond: number, least: number): number {
  const steps = [0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600]
  return steps.find((s) => s * pixelsPerSecond >= least) ?? 7200
}

/** A place on the ruler where a picture fits: `x`…`x + width` px, for the recorded instant at its middle. */
export interface Tile {
  x: number
  width: number
  at: RecordedTime
}

/** Places of `size` px side by side on everything drawn to scale, as far as they reach into `from`–`to` px. */
export function tiles(axis: Axis, size: number, from: number, to: number): Tile[] {
  return axis.pieces
    .filter((p) => p.kind !== 'seam' && p.width > 0 && p.x + p.width > from && p.x < to)
    .flatMap((piece) => {
      const first = Math.max(0, Math.floor((from - piece.x) / size))
      const end = Math.min(to, piece.x + piece.width)
      const out: Tile[] = []
      for (let x = piece.x + first * size; x < end; x += size) {
        const width = Math.min(size, piece.x + piece.width - x)
        out.push({
          x,
          width,
          at: recorded(piece.from + ((x - piece.x + width / 2) / piece.width) * (piece.to - piece.from)),
        })
      }
      return out
    })
}
