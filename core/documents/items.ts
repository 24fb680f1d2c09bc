/**
 * Items on the time line, whichever document they stand in: each holds at an instant (`at`) or over a stretch (`from` to
 * `to`) of recorded time. Moving, dropping and copying them is the same for all.
 */
import { max, min } from 'd3-array'
import { recorded, type RecordedRange } from '../time/units'
import type { Item, Lists } from './change'
import type { Kind } from './kinds'

/** Names an item. */
export interface ItemRef {
  kind: Kind
  list: string
  id: string
}

export type Timed = Item & ({ at: number } | { from: number; to: number })

export const isSame = (a: ItemRef, b: ItemRef): boolean => a.id === b.id && a.kind === b.kind && a.list === b.list

/** Over which stretch it holds; of an instant, one without length. */
export const rangeOf = (item: Timed): RecordedRange =>
  'at' in item
    ? { from: recorded(item.at), to: recorded(item.at) }
    : { from: recorded(item.from), to: recorded(item.to) }

/** The same item over another stretch; an instant stands where that begins. */
export const placedAt = <I extends Timed>(item: I, { from, to }: RecordedRange): I =>
  'at' in item ? { ...item, at: from } : { ...item, from, to }

/** All of them moved by so many seconds, as far as they stay inside a recording of `duration` s. */
export function clampShift(ranges: readonly RecordedRange[], by: number, duration: number): number {
  const first = min(ranges, (r) => r.from) ?? Infinity
  const last = max(ranges, (r) => r.to) ?? -Infinity
  return Math.max(-first, Math.min(by, Math.max(0, duration - last)))
}

export const shifted = ({ from, to }: RecordedRange, by: number): RecordedRange => ({
  from: recorded(from + by),
  to: recorded(to + by),
})

/** One edge moved to `at`, and never nearer than `least` s to the other. */
export const withEdge = (range: RecordedRange, edge: 'from' | 'to', at: number, least: number): RecordedRange =>
  edge === 'from'
    ? { ...range, from: recorded(Math.max(0, Math.min(at, range.to - least))) }
    : { ...range, to: recorded(Math.max(at, range.from + least)) }

const listOf = (document: object, list: string): readonly Timed[] =>
  (document as Record<string, readonly Timed[] | undefined>)[list] ?? []

export const itemsIn = (document: object | null, { list }: Pick<ItemRef, 'list'>): readonly Timed[] =>
  document ? listOf(document, list) : []

/** A document with some items of one list put in the place of those with their ids, or added. */
export function putItems<D extends object>(lists: Lists, document: D, list: string, items: readonly Item[]): D {
  const order = lists[list] as ((a: Item, b: Item) => number) | undefined
  if (!order) throw new Error(`There is no list “${list}” in this document.`)
  const put = new Map(items.map((i) => [i.id, i]))
  const kept = listOf(document, list).map((i) => put.get(i.id) ?? i)
  const known = new Set(kept.map((i) => i.id))
  return { ...document, [list]: [...kept, ...items.filter((i) => !known.has(i.id))].sort(order) }
}

/** A document without some items of one list. */
export function dropItems<D extends object>(document: D, list: string, ids: ReadonlySet<string>): D {
  return { ...document, [list]: listOf(document, list).filter((i) => !ids.has(i.id)) }
}
