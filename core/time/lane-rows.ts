/**
 * Lays ranges that overlap on rows over one another: each on the first row that is free where it begins.
 * @param slack how far two on one row may overlap, s, as what was heard ends a little after the next begins
 */
export function laneRows(ranges: readonly { from: number; to: number }[], slack = 0): number[] {
  const ends: number[] = []
  const order = ranges.map((range, i) => ({ range, i })).sort((a, b) => a.range.from - b.range.from || a.i - b.i)
  const rows = new Array<number>(ranges.length).fill(0)
  for (const { range, i } of order) {
    const free = ends.findIndex((end) => end <= range.from + slack)
    const row = free < 0 ? ends.length : free
    ends[row] = range.to
    rows[i] = row
  }
  return rows
}
