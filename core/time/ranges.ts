/**
 * Sets of recorded time as sorted, disjoint, half-open ranges. Everything that asks "what is left" or
 * "how much" goes through here.
 */
import type { RecordedRange, RecordedTime } from './units'

/** Sorts, drops empty ranges and joins those that touch or overlap. The input is not changed. */
export function union(ranges: readonly RecordedRange[]): RecordedRange[] {
  const sorted = ranges.filter((r) => r.to > r.from).sort((a, b) => a.from - b.from)
  const out: RecordedRange[] = []
  for (const range of sorted) {
    const last = out.at(-1)
    if (last && range.from <= last.to) {
      if (range.to > last.to) last.to = range.to
    } else out.push({ from: range.from, to: range.to })
  }
  return out
}

/** What of `whole` no range of `removed` (sorted and disjoint, as `union` gives) covers. */
export function subtract(whole: RecordedRange, removed: readonly RecordedRange[]): RecordedRange[] {
  const out: RecordedRange[] = []
  let at: RecordedTime = whole.from
  for (const { from, to } of removed) {
    if (to <= whole.from || from >= whole.to) continue
    if (from > at) out.push({ from: at, to: from })
    if (to > at) at = to
  }
  if (at < whole.to) out.push({ from: at, to: whole.to })
  return out
}

/** Sum of the lengths, in seconds. */
export function totalLength(ranges: readonly RecordedRange[]): number {
  return ranges.reduce((sum, r) => sum + (r.to - r.from), 0)
}
