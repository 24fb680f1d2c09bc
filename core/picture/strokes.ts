/** Lines drawn by hand over a picture: where they are, and what of them is seen at an instant. */
import { getStroke } from 'perfect-freehand'
import type { Stroke } from '../schema/edit'

/**
 * What of the strokes is seen at `time` (s after the stretch's start): each up to the last point that was drawn by
 * then.
 */
export function strokesAt(strokes: readonly Stroke[], time: number): Stroke[] {
  return strokes.flatMap((s) => {
    if ((s.points[0]?.at ?? Infinity) > time || (s.until !== undefined && s.until <= time)) return []
    const end = s.points.findIndex((p) => p.at > time)
    return [end < 0 ? s : { ...s, points: s.points.slice(0, end) }]
  })
}

/**
 * Whether a stroke passes within `reach` (a share of the picture's height) of a point.
 * @param at shares of the picture's width and height; @param aspect width by height
 */
export function nearStroke(stroke: Stroke, at: { x: number; y: number }, aspect: number, reach: number): boolean {
  const within = reach + stroke.width / 2
  const px = at.x * aspect
  return stroke.points.some((p, i) => {
    const q = stroke.points[i - 1] ?? p
    const [ax, ay, bx, by] = [q.x * aspect, q.y, p.x * aspect, p.y]
    const length = (bx - ax) ** 2 + (by - ay) ** 2
    const share =
      length === 0 ? 0 : Math.min(1, Math.max(0, ((px - ax) * (bx - ax) + (at.y - ay) * (by - ay)) / length))
    return Math.hypot(px - ax - share * (bx - ax), at.y - ay - share * (by - ay)) <= within
  })
}

/** What is drawn with one drag; `pen` and `highlighter` follow the hand. */
export type Shape = 'pen' | 'highlighter' | 'line' | 'arrow' | 'box' | 'ellipse'

/** Corners of a shape that was dragged from one point to another, in shares of a picture `aspect` times as wide as high. */
export function shapePoints(
  shape: Exclude<Shape, 'pen' | 'highlighter'>,
  from: { x: number; y: number },
  to: { x: number; y: number },
  aspect: number,
  width: number,
): { x: number; y: number }[] {
  if (shape === 'line') return [from, to]
  if (shape === 'box') return [from, { x: to.x, y: from.y }, to, { x: from.x, y: to.y }, from]
  if (shape === 'ellipse') {
    const [cx, cy] = [(from.x + to.x) / 2, (from.y + to.y) / 2]
    const [rx, ry] = [Math.abs(to.x - from.x) / 2, Math.abs(to.y - from.y) / 2]
    return Array.from({ length: 65 }, (_, i) => {
      const angle = (2 * Math.PI * i) / 64
      return { x: cx + rx * Math.cos(angle), y: cy + ry * Math.sin(angle) }
    })
  }
  const [dx, dy] = [(to.x - from.x) * aspect, to.y - from.y]
  const angle = Math.atan2(dy, dx)
  // The head is as large as the line is thick, and never larger than half the arrow.
  const head = Math.min(Math.hypot(dx, dy) / 2, Math.max(0.02, 5 * width))
  const barb = (by: number) => ({
    x: to.x - (head * Math.cos(angle + by)) / aspect,
    y: to.y - head * Math.sin(angle + by),
  })
  return [from, to, barb(0.5), to, barb(-0.5)]
}

/** How fast a drawing is drawn that was not timed, in heights of the picture per second, and the pause between strokes, s. */
const HAND = { speed: 0.8, pause: 0.25 }

const lengthOf = (points: readonly { x: number; y: number }[], aspect: number): number =>
  points.reduce((sum, p, i) => {
    const q = points[i - 1] ?? p
    return sum + Math.hypot((p.x - q.x) * aspect, p.y - q.y)
  }, 0)

/**
 * The same strokes timed anew: all there from the beginning, or one after the other as a hand draws them.
 * @param how `at-once`, or `drawn` over no more than `within` s
 */
export function retimed(
  strokes: readonly Stroke[],
  how: 'at-once' | 'drawn',
  aspect: number,
  within: number,
): Stroke[] {
  if (how === 'at-once') return strokes.map((s) => ({ ...s, points: s.points.map((p) => ({ ...p, at: 0 })) }))
  const lengths = strokes.map((s) => lengthOf(s.points, aspect))
  const natural = lengths.reduce((sum, l) => sum + l / HAND.speed + HAND.pause, 0)
  const scale = natural > within ? within / natural : 1
  let at = 0
  return strokes.map((s, n) => {
    const whole = lengths[n] as number
    const took = (whole / HAND.speed) * scale
    let gone = 0
    const points = s.points.map((p, i) => {
      const q = s.points[i - 1] ?? p
      gone += Math.hypot((p.x - q.x) * aspect, p.y - q.y)
      return { ...p, at: at + (whole > 0 ? (gone / whole) * took : 0) }
    })
    at += took + HAND.pause * scale
    return { ...s, points }
  })
}

/** Whether strokes are all there from the beginning. */
export const isAtOnce = (strokes: readonly Stroke[]): boolean => strokes.every((s) => s.points.every((p) => p.at === 0))

/**
 * A stroke as SVG path data over a picture 1 high and `aspect` wide, and whether it is to be filled: what was drawn by
 * hand is the outline of a smoothed line, what has corners the line itself.
 */
export function strokePath(stroke: Stroke, aspect: number): { data: string; filled: boolean } {
  const at = ([x, y]: readonly [number, number]) => `${x.toFixed(4)} ${y.toFixed(4)}`
  const points = stroke.points.map((p) => [p.x * aspect, p.y] as [number, number])
  if (stroke.straight) return { data: `M${points.map(at).join('L')}`, filled: false }
  // It reckons in px, of which a picture has about a thousand.
  const PX = 1000
  const outline = getStroke(
    points.map(([x, y]) => [x * PX, y * PX]),
    { size: stroke.width * PX, thinning: 0, smoothing: 0.5, streamline: 0.4, simulatePressure: false, last: true },
  ).map(([x = 0, y = 0]) => [x / PX, y / PX] as const)
  return { data: outline.length > 0 ? `M${outline.map(at).join('L')}Z` : '', filled: true }
}
