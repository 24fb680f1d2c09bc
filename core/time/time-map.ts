/**
 * The one way between recorded and result time. An edit leaves a sorted list of kept ranges; laid end to
 * end they are the result:
 *
 *     recorded  0 ├────A────┤▒▒removed▒▒├──────B──────┤▒▒▒├──C──┤ duration
 *     result    0 ├────A────├──────B──────├──C──┤ length
 *
 * Inserts (a title card, another video) stand between; a kept range that one splits becomes two.
 * The map is piecewise linear with slope 1 and is looked up by bisection. Captions, checkpoints, chapters,
 * links and peaks all pass through it, and what falls into a removed range is reported, never dropped.
 */
import { bisector } from 'd3-array'
import { subtract, union } from './ranges'
import { formatTimecode } from './timecode'
import { recorded, result, type RecordedRange, type RecordedTime, type ResultRange, type ResultTime } from './units'

/** One kept stretch: recorded `from`–`to` stands in the result from `at` on. All in seconds. */
export interface KeptSegment extends RecordedRange {
  at: ResultTime
}

/** Something of `length` s that is put in at a recorded instant and shifts what follows. */
export interface InsertAt {
  id: string
  at: RecordedTime
  length: number
}

/** An insert as it stands in the result. One whose instant was removed stands at the seam. */
export interface PlacedInsert {
  id: string
  at: ResultTime
  length: number
  /** The recorded instant it stands at, s. */
  recorded: RecordedTime
}

/** Where an instant of recorded time went. */
export type RecordedToResult =
  | { kind: 'kept'; at: ResultTime }
  /** Inside `removed`; `at` is the seam, the instant of the result where the stretch was folded away. */
  | { kind: 'removed'; at: ResultTime; removed: RecordedRange }

export interface TimeMap {
  /** Length of the recording in seconds. */
  duration: RecordedTime
  /** Length of the result in seconds. */
  length: ResultTime
  kept: readonly KeptSegment[]
  inserts: readonly PlacedInsert[]
  removed: readonly RecordedRange[]
}

/**
 * Builds the map of an edit.
 * @param duration length of the recording, s
 * @param removed ranges taken out; they may overlap, touch and reach outside the recording
 * @param inserts in the order in which they are seen
 */
export function buildTimeMap(
  duration: RecordedTime,
  removed: readonly RecordedRange[],
  inserts: readonly InsertAt[] = [],
): TimeMap {
  const inside = removed.map((r) => ({ from: recorded(Math.max(0, r.from)), to: recorded(Math.min(duration, r.to)) }))
  const folded = union(inside)
  const waiting = [...inserts].sort((a, b) => a.at - b.at)
  const placed: PlacedInsert[] = []
  const kept: KeptSegment[] = []
  let at = 0
  const place = (upTo: number) => {
    for (let next = waiting[0]; next && next.at <= upTo; next = waiting[0]) {
      placed.push({ id: next.id, at: result(at), length: next.length, recorded: next.at })
      at += next.length
      waiting.shift()
    }
  }
  const keep = (from: RecordedTime, to: RecordedTime) => {
    if (to <= from) return
    kept.push({ from, to, at: result(at) })
    at += to - from
  }
  for (const range of subtract({ from: recorded(0), to: duration }, folded)) {
    let from = range.from
    place(from)
    for (let next = waiting[0]; next && next.at < range.to; next = waiting[0]) {
      keep(from, next.at)
      from = next.at
      place(from)
    }
    keep(from, range.to)
  }
  place(Infinity)
  return { duration, length: result(at), kept, inserts: placed, removed: folded }
}

/** The map of what has no edit: everything stands where it was recorded. */
export const identityMap = buildTimeMap(recorded(Infinity), [])

/** Instants of the result closer than this are one, s: sums of many lengths are not exact. */
const SAME = 1e-6

const byRecorded = bisector((s: KeptSegment) => s.from).right
const byResult = bisector((s: KeptSegment) => s.at).right
const byRemoved = bisector((s: RecordedRange) => s.from).right

/** Where `time` stands in the result. The very end of the recording counts as kept when its last stretch is. */
export function toResult(map: TimeMap, time: RecordedTime): RecordedToResult {
  const segment = map.kept[byRecorded(map.kept, time) - 1]
  if (segment && (time < segment.to || (time === segment.to && time >= map.duration)))
    return { kind: 'kept', at: result(segment.at + (time - segment.from)) }
  const hole = map.removed[byRemoved(map.removed, time) - 1]
  const seam = segment ? result(segment.at + (segment.to - segment.from)) : result(0)
  if (hole && time <= hole.to) return { kind: 'removed', at: seam, removed: hole }
  // Outside the recording: clamp to the nearer end.
  return { kind: 'kept', at: time < 0 ? result(0) : map.length }
}

/** The insert that is seen at `time` of the result and how far into it, s; `null` when the recording is. */
export function insertAt(map: TimeMap, time: ResultTime): { insert: PlacedInsert; into: number } | null {
  const insert = map.inserts.find((i) => time >= i.at && time < i.at + i.length)
  return insert ? { insert, into: time - insert.at } : null
}

/**
 * The recorded instant that is seen at `time` of the result; at a seam, the first instant after it; inside an insert,
 * the instant it stands at. Clamped to the result.
 */
export function toRecorded(map: TimeMap, time: ResultTime): RecordedTime {
  const inside = insertAt(map, time)
  if (inside) return inside.insert.recorded
  const segment = map.kept[Math.max(0, byResult(map.kept, time) - 1)]
  if (!segment) return recorded(0)
  return recorded(Math.min(segment.to, segment.from + Math.max(0, time - segment.at)))
}

/**
 * The recorded instant at which something ends that is seen until `time` of the result: at a seam, or where something is put
 * in, the end of what stands before. Clamped to the result.
 */
export function toRecordedEnd(map: TimeMap, time: ResultTime): RecordedTime {
  const segment = map.kept.findLast((s) => s.at < time - SAME)
  if (!segment) return toRecorded(map, result(0))
  return recorded(Math.min(segment.to, segment.from + (time - segment.at)))
}

/** An instant of the recording as it is read where an edit is known: in the time of the result, or that it was cut out. */
export function sayInstant(map: TimeMap, time: RecordedTime, decimals = 0): string {
  const where = toResult(map, time)
  return where.kind === 'kept' ? formatTimecode(where.at, decimals) : 'cut out'
}

/** The first kept instant at or after `time`, or `null` when nothing after it is kept: what playing skips to. */
export function nextKept(map: TimeMap, time: RecordedTime): RecordedTime | null {
  const where = toResult(map, time)
  if (where.kind === 'kept') return time
  return where.removed.to < map.duration ? where.removed.to : null
}

/**
 * Where an instant of the result stands after a change of the edit: at the same instant of the recording, or of what is
 * put in; at the seam where that is gone, and at the end where it was at the end.
 */
export function carryOver(before: TimeMap, after: TimeMap, time: ResultTime): ResultTime {
  if (before.length > 0 && time >= before.length - 1e-9) return after.length
  const inside = insertAt(before, time)
  const still = inside && after.inserts.find((i) => i.id === inside.insert.id)
  if (inside && still) return result(still.at + Math.min(inside.into, still.length))
  return toResult(after, toRecorded(before, time)).at
}

/** What became of a stretch of recorded time. */
export interface ProjectedRange {
  /** What of it is seen, in order: joined across seams, parted by what is put in. Empty when nothing of it is left. */
  pieces: readonly ResultRange[]
  /** Seconds of it that were removed. */
  lost: number
}

/** Projects a recorded stretch into the result. What is put in inside it is not part of it. */
export function projectRange(map: TimeMap, range: RecordedRange): ProjectedRange {
  const pieces: ResultRange[] = []
  let left = 0
  const first = Math.max(0, byRecorded(map.kept, range.from) - 1)
  for (const segment of map.kept.slice(first)) {
    if (segment.from >= range.to) break
    const [from, to] = [Math.max(range.from, segment.from), Math.min(range.to, segment.to)]
    if (to <= from) continue
    left += to - from
    const piece = { from: result(segment.at + (from - segment.from)), to: result(segment.at + (to - segment.from)) }
    const last = pieces.at(-1)
    if (last && piece.from - last.to < SAME) last.to = piece.to
    else pieces.push(piece)
  }
  return { pieces, lost: Math.max(0, range.to - range.from - left) }
}

/**
 * Things that each last until the next, such as slides, from the first instant at which they are seen: one whose
 * beginning was taken out begins at the seam, and one of which nothing is kept is left out.
 * @param items in the order of their times
 */
export const seenFrom = <T extends { at: RecordedTime }>(map: TimeMap, items: readonly T[]): T[] =>
  items.flatMap((item, i) => {
    const first = nextKept(map, item.at)
    return first !== null && first < (items[i + 1]?.at ?? map.duration) ? [{ ...item, at: first }] : []
  })

/** Splits timed items into those that are still visible and those that fell inside a removed range. */
export function projectInstants<T>(
  map: TimeMap,
  items: readonly T[],
  timeOf: (item: T) => RecordedTime,
): {
  visible: { item: T; at: ResultTime }[]
  lost: { item: T; removed: RecordedRange }[]
} {
  const visible: { item: T; at: ResultTime }[] = []
  const lost: { item: T; removed: RecordedRange }[] = []
  for (const item of items) {
    const where = toResult(map, timeOf(item))
    if (where.kind === 'kept') visible.push({ item, at: where.at })
    else lost.push({ item, removed: where.removed })
  }
  return { visible, lost }
}
