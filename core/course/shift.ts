/** Moves a document in time: the demo term is written for one week and laid out around the present one. */

const instant = /^\d{4}-\d{2}-\d{2}T[\d:.]+Z$/
const day = /^\d{4}-\d{2}-\d{2}$/
const DAY = 86_400_000

/** Whole weeks from `anchor` (`yyyy-mm-dd`, a Monday) to the week of `now` (ms since the epoch). */
export function weeksSince(anchor: string, now: number): number {
  return Math.floor((now - Date.parse(`${anchor}T00:00:00Z`)) / (7 * DAY))
}

/** The same JSON with every date and instant in it moved by whole weeks. */
export function shiftWeeks<T>(value: T, weeks: number): T {
  const move = (v: unknown): unknown => {
    if (typeof v === 'string') {
      if (!instant.test(v) && !day.test(v)) return v
      const moved = new Date(Date.parse(day.test(v) ? `${v}T00:00:00Z` : v) + weeks * 7 * DAY).toISOString()
      return day.test(v) ? moved.slice(0, 10) : moved
    }
    if (Array.isArray(v)) return v.map(move)
    if (v && typeof v === 'object') return Object.fromEntries(Object.entries(v).map(([k, x]) => [k, move(x)]))
    return v
  }
  return move(value) as T
}
