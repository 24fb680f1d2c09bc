/**
 * The time line's ruler, which runs in result time: kept parts and what is put in stand to scale, and every removed
 * range is folded into a narrow seam unless it has been opened.
 *
 *     kept │ seam │ put in │ kept          opened:  kept │▒▒▒▒removed▒▒▒▒│ put in │ kept
 */
import { bisector } from 'd3-array'
import { toResult, type TimeMap } from './time-map'
import { recorded, result, type RecordedRange, type RecordedTime, type ResultTime } from './units'

/**
 * One piece of the ruler, `x`…`x + width` px, for the recorded stretch `from`–`to`; what is put in stands at one
 * recorded instant.
 */
export interface AxisPiece extends RecordedRange {
  kind: 'kept' | 'seam' | 'opened' | 'insert'
  /** Of what is put in; empty for all else. */
  id: string
  x: number
  width: number
  /** Where it begins in the result, s, and how long it is there: 0 for what was removed. */
  at: ResultTime
  length: number
}

export interface Axis {
  /** By their places. */
  pieces: readonly AxisPiece[]
  /** Those of the recording, in its order. */
  recorded: readonly AxisPiece[]
  /** Those that are seen in the result, in its order. */
  seen: readonly AxisPiece[]
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
  const pieces: Omit<AxisPiece, 'x' | 'width'>[] = [
    ...map.removed.map((r) => ({
      ...{ from: r.from, to: r.to, id: '', length: 0 },
      at: toResult(map, r.from).at,
      kind: isOpen(r) ? ('opened' as const) : ('seam' as const),
    })),
    ...map.inserts.map(({ id, at, length, recorded: from }) => ({
      ...{ id, at, length, from, to: from },
      kind: 'insert' as const,
    })),
    ...map.kept.map(({ from, to, at }) => ({ from, to, at, id: '', length: to - from, kind: 'kept' as const })),
  ]
  // At one instant of the result a seam stands before what is put in, and that before what is kept, as they were listed.
  pieces.sort((a, b) => a.at - b.at || a.from - b.from)
  let x = 0
  const placed = pieces.map((p): AxisPiece => {
    const width = p.kind === 'seam' ? seamWidth : (p.kind === 'opened' ? p.to - p.from : p.length) * pixelsPerSecond
    const piece = { ...p, x, width }
    x += width
    return piece
  })
  return {
    pieces: placed,
    recorded: placed.filter((p) => p.kind !== 'insert'),
    seen: placed.filter((p) => p.length > 0),
    width: x,
    pixelsPerSecond,
  }
}

const byEnd = bisector((p: AxisPiece) => p.to).right
const byStart = bisector((p: AxisPiece) => p.at).right
const byPixel = bisector((p: AxisPiece) => p.x).right

const share = (at: number, from: number, length: number) =>
  length > 0 ? Math.min(1, Math.max(0, (at - from) / length)) : 0

/** Pixel of a recorded instant; inside a folded seam, proportionally across it. */
export function toPixel(axis: Axis, time: RecordedTime): number {
  const piece = axis.recorded[byEnd(axis.recorded, time)] ?? axis.recorded.at(-1)
  return piece ? piece.x + share(time, piece.from, piece.to - piece.from) * piece.width : 0
}

/** Pixel of an instant of the result. */
export function resultToPixel(axis: Axis, time: ResultTime): number {
  const piece = axis.seen[Math.max(0, byStart(axis.seen, time) - 1)]
  return piece ? piece.x + share(time, piece.at, piece.length) * piece.width : 0
}

/** What stands under a pixel, clamped to the ruler. */
export interface AxisPoint {
  piece: AxisPiece
  recorded: RecordedTime
  /** In what was removed, the seam. */
  result: ResultTime
}

/** Null when there is nothing on the ruler. */
export function pointAt(axis: Axis, pixel: number): AxisPoint | null {
  const piece = axis.pieces[Math.max(0, byPixel(axis.pieces, pixel) - 1)]
  if (!piece) return null
  const along = share(pixel, piece.x, piece.width)
  return {
    piece,
    recorded: recorded(piece.from + along * (piece.to - piece.from)),
    result: result(piece.at + along * piece.length),
  }
}

/** Recorded instant under a pixel, clamped to the ruler. */
export const toTime = (axis: Axis, pixel: number): RecordedTime => pointAt(axis, pixel)?.recorded ?? recorded(0)

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
    .filter((p) => p.kind !== 'seam' && p.kind !== 'insert' && p.width > 0 && p.x + p.width > from && p.x < to)
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
