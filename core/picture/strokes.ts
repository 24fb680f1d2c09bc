/** Lines drawn by hand over a picture: where they are, and what of them is seen at an instant. */
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

/** A stroke as the `points` of an SVG polyline over a picture 1 high and `aspect` wide. */
export const polyline = (stroke: Stroke, aspect: number): string =>
  stroke.points.map((p) => `${(p.x * aspect).toFixed(4)},${p.y.toFixed(4)}`).join(' ')
