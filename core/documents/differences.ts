/** What differs between two states of a document, as a person is told of it. */
import { changeBetween } from './change'
import { rangeOf, type Timed } from './items'
import { kinds, type Documents, type Kind } from './kinds'
import type { TimeMap } from '../time/time-map'
import type { RecordedRange } from '../time/units'

export interface Difference {
  kind: Kind
  how: 'added' | 'dropped' | 'changed'
  says: string
  /** Where it stands, or stood before it was dropped; null for what holds for the whole lecture. */
  range: RecordedRange | null
}

/**
 * By their places, what holds for the whole lecture first.
 * @param before null for a document that was not there
 * @param map of the edit that the lecture has now
 */
export function differences<K extends Kind>(
  kind: K,
  before: Documents[K] | null,
  after: Documents[K] | null,
  map: TimeMap,
): Difference[] {
  const { lists, say } = kinds[kind]
  const change = changeBetween(lists, before, after ?? {})
  const items = change.items.map(({ list, id, before: was, after: is }): Difference => {
    const item = (is ?? was) as Timed
    const words = (value: unknown) => say(list, id, value, map)
    return {
      kind,
      how: !was ? 'added' : !is ? 'dropped' : 'changed',
      says: was && is && words(was) !== words(is) ? `${words(was)} → ${words(is)}` : words(item),
      range: rangeOf(item),
    }
  })
  const fields = change.fields
    .filter(({ field }) => field !== 'format' && field !== 'version')
    .map(({ field, before: was, after: is }): Difference => ({
      kind,
      how: was === null ? 'added' : is === null ? 'dropped' : 'changed',
      says: say('', field, is ?? was, map),
      range: null,
    }))
  return [...fields, ...items.sort((a, b) => (a.range?.from ?? 0) - (b.range?.from ?? 0))]
}
