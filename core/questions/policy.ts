/** What holds for a set of questions: what is told from when, and which attempt counts. */
import { max } from 'd3-array'
import type { SetPolicy, ToldFrom } from '../schema/questions'
import { EMPTY } from '../text/rich-text'

/** What holds for every set until something else is chosen. */
export const DEFAULT_POLICY: SetPolicy = {
  welcome: EMPTY,
  readBefore: false,
  changes: false,
  putOff: true,
  ahead: true,
  attempts: { most: 1, counts: 'best' },
  feedback: 'answered',
  score: 'answered',
  solutions: 'answered',
}

/** What is known of an answer when somebody asks whether something may be told. */
export interface Standing {
  /** Whether the answer cannot be changed any more. */
  final: boolean
  handedIn: boolean
  /** Whether everything that a person marks has been, and was released. */
  marked: boolean
}

/** @param now ISO 8601 UTC */
export function isTold(from: ToldFrom, { final, handedIn, marked }: Standing, now: string): boolean {
  if (typeof from === 'object') return handedIn && Date.parse(now) >= Date.parse(from.date)
  if (from === 'answered') return final
  if (from === 'handed-in') return handedIn
  return from === 'marked' && handedIn && marked
}

/** Points that count of several attempts, in the order that they were made in; null when there is none. */
export function countedPoints(points: readonly number[], counts: SetPolicy['attempts']['counts']): number | null {
  const [first] = points
  const last = points.at(-1)
  if (first === undefined || last === undefined) return null
  if (counts === 'first') return first
  if (counts === 'last') return last
  if (counts === 'best') return max(points) ?? -Infinity
  return Math.round((100 * points.reduce((sum, p) => sum + p, 0)) / points.length) / 100
}
