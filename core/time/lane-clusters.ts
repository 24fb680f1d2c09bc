/**
 * What of a lane can be told apart at its present scale. Items too narrow to be pressed that stand side by side are one
 * bar, so that a lane costs what its pixels do and not what stands on it.
 */

/** A bar on a lane, px. */
export interface Bar {
  x: number
  width: number
  /** The only item that it is; null for several. */
  only: number | null
}

/**
 * @param placed by their places, px; an item that is an instant has no width
 * @param least an item narrower than this joins the bar that it touches
 * @param gap how far two may stand apart and still touch
 */
export function laneBars(placed: readonly { x: number; width: number }[], least: number, gap: number): Bar[] {
  const bars: Bar[] = []
  for (const [i, { x, width }] of placed.entries()) {
    const last = bars.at(-1)
    const isNarrow = width < least && (!last || last.only === null || (placed[last.only]?.width ?? least) < least)
    if (last && isNarrow && x - (last.x + last.width) <= gap) {
      last.width = Math.max(last.width, x + width - last.x)
      last.only = null
    } else bars.push({ x, width, only: i })
  }
  return bars
}
