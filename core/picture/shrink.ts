import type { Size } from './layout'

/**
 * A picture made smaller: each pixel is the mean of those that it covers, and where none is whole, the nearest.
 * @param rgba four bytes a pixel, row by row
 * @returns the same of the size `to`
 */
export function shrink(rgba: Uint8Array, from: Size, to: Size): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(4 * to.width * to.height)
  const edges = (length: number, count: number) =>
    Array.from({ length: count + 1 }, (_, i) => Math.floor((i * length) / count))
  const [columns, rows] = [edges(from.width, to.width), edges(from.height, to.height)]
  for (let y = 0; y < to.height; y++) {
    const [top, bottom] = spanOf(rows, y)
    for (let x = 0; x < to.width; x++) {
      const [left, right] = spanOf(columns, x)
      let [r, g, b, a] = [0, 0, 0, 0]
      for (let row = top; row < bottom; row++)
        for (let at = 4 * (row * from.width + left), end = at + 4 * (right - left); at < end; at += 4) {
          r += rgba[at] ?? 0
          g += rgba[at + 1] ?? 0
          b += rgba[at + 2] ?? 0
          a += rgba[at + 3] ?? 0
        }
      const count = (bottom - top) * (right - left)
      out.set([r / count, g / count, b / count, a / count], 4 * (y * to.width + x))
    }
  }
  return out
}

/** From and to before which pixel, never none. */
function spanOf(edges: readonly number[], i: number): [number, number] {
  const from = edges[i] ?? 0
  return [from, Math.max(from + 1, edges[i + 1] ?? 0)]
}
