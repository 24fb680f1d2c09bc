/**
 * Placing a box on a picture by hand: moved and resized in shares of the picture, snapped to guides, and kept inside.
 *
 *     nw ── n ── ne
 *     │          │      a handle moves the edges that its letters name
 *     sw ── s ── se
 */
import type { ShareBox } from '../schema/edit'

export type Handle = 'n' | 's' | 'e' | 'w' | 'nw' | 'ne' | 'sw' | 'se'
export const handles: readonly Handle[] = ['nw', 'n', 'ne', 'e', 'se', 's', 'sw', 'w']

/** No side is shorter than this share of the picture. */
export const LEAST = 0.02
/** What lies nearer to an edge than this share may be cut off by a screen, a window's corners or a controls' bar. */
export const SAFE = 0.05

/**
 * Where link cards may not stand: along the foot of the picture, where captions are shown. The player's own controls are under
 * the picture, and in full screen too.
 */
export const captionZone: ShareBox = { x: 0, y: 0.8, width: 1, height: 0.2 }

/** Instances of an axis that a box is snapped to, as shares; `lines` of one that was. */
export interface Guides {
  x: readonly number[]
  y: readonly number[]
}

const clamp = (value: number, least: number, most: number) => Math.min(Math.max(value, least), Math.max(least, most))

/** The box moved by shares of the picture, as far as it stays inside. */
export const moveBox = (box: ShareBox, dx: number, dy: number): ShareBox => ({
  ...box,
  x: clamp(box.x + dx, 0, 1 - box.width),
  y: clamp(box.y + dy, 0, 1 - box.height),
})

/** The box with the edges of a handle moved by shares of the picture; the others stay. */
export function resizeBox(box: ShareBox, handle: Handle, dx: number, dy: number): ShareBox {
  let { x, y, width, height } = box
  if (handle.includes('e')) width = clamp(width + dx, LEAST, 1 - x)
  if (handle.includes('s')) height = clamp(height + dy, LEAST, 1 - y)
  if (handle.includes('w')) {
    const left = clamp(x + dx, 0, x + width - LEAST)
    width += x - left
    x = left
  }
  if (handle.includes('n')) {
    const top = clamp(y + dy, 0, y + height - LEAST)
    height += y - top
    y = top
  }
  return { x, y, width, height }
}

/** The middle, the edges and the safe area of a picture, with the edges and middles of what else stands on it. */
export function guidesOf(others: readonly ShareBox[]): Guides {
  const along = (from: number, length: number) => [from, from + length / 2, from + length]
  const own = [0, SAFE, 0.5, 1 - SAFE, 1]
  return {
    x: [...own, ...others.flatMap((o) => along(o.x, o.width))],
    y: [...own, ...others.flatMap((o) => along(o.y, o.height))],
  }
}

/** The correction that brings the nearest of some edges onto a guide; null when none is that near. */
function nearest(
  edges: readonly number[],
  guides: readonly number[],
  reach: number,
): { by: number; at: number } | null {
  let best: { by: number; at: number } | null = null
  for (const edge of edges)
    for (const at of guides)
      if (Math.abs(at - edge) <= reach && Math.abs(at - edge) < Math.abs(best?.by ?? Infinity))
        best = { by: at - edge, at }
  return best
}

/**
 * The box with its edges, or its middle where it is moved as a whole, on guides that are near.
 * @param handle null for the whole box
 * @param reach how far off an edge may be, as shares of the picture's width and height
 * @returns the box, and the guides that it met
 */
export function snapBox(
  box: ShareBox,
  handle: Handle | null,
  guides: Guides,
  reach: { x: number; y: number },
): { box: ShareBox; met: Guides } {
  const { x, y, width, height } = box
  const across = handle
    ? [...(handle.includes('w') ? [x] : []), ...(handle.includes('e') ? [x + width] : [])]
    : [x, x + width / 2, x + width]
  const down = handle
    ? [...(handle.includes('n') ? [y] : []), ...(handle.includes('s') ? [y + height] : [])]
    : [y, y + height / 2, y + height]
  const byX = nearest(across, guides.x, reach.x)
  const byY = nearest(down, guides.y, reach.y)
  const [dx, dy] = [byX?.by ?? 0, byY?.by ?? 0]
  return {
    box: handle ? resizeBox(box, handle, dx, dy) : moveBox(box, dx, dy),
    met: { x: byX ? [byX.at] : [], y: byY ? [byY.at] : [] },
  }
}

/** Whether two boxes have anything in common. */
export const overlaps = (a: ShareBox, b: ShareBox): boolean =>
  a.x < b.x + b.width - 1e-6 && b.x < a.x + a.width - 1e-6 && a.y < b.y + b.height - 1e-6 && b.y < a.y + a.height - 1e-6

/** A box that reached into the captions' zone, moved up out of it, and made lower where it is too high. */
export function aboveCaptions(box: ShareBox): ShareBox {
  const height = Math.min(box.height, captionZone.y)
  return { ...box, height, y: clamp(box.y, 0, captionZone.y - height) }
}
