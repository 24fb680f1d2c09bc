/** What an edge that is dragged goes to by itself when it comes near. */
import { bisector } from 'd3-array'
import type { RecordedTime } from './units'

export interface SnapTarget {
  at: RecordedTime
  /** What stands there, for a person. */
  what: string
  /** Whether it goes before what is nearer, as a person has put it there to be met. */
  isMeant?: boolean
}

const byInstant = bisector((t: SnapTarget) => t.at)

export const sortTargets = (targets: readonly SnapTarget[]): SnapTarget[] => [...targets].sort((a, b) => a.at - b.at)

/**
 * By how many seconds what is dragged has to move on for its nearest edge to meet a target: one that is meant, where one is near.
 * @param edges where its edges are, s
 * @param targets by their instants
 * @param reach how far an edge may be off, s
 * @returns null when nothing is that near
 */
export function snapTo(
  edges: readonly number[],
  targets: readonly SnapTarget[],
  reach: number,
): { by: number; target: SnapTarget } | null {
  const meant = targets.filter((t) => t.isMeant)
  return nearest(edges, meant, reach) ?? nearest(edges, targets, reach)
}

function nearest(
  edges: readonly number[],
  targets: readonly SnapTarget[],
  reach: number,
): { by: number; target: SnapTarget } | null {
  let best: { by: number; target: SnapTarget } | null = null
  for (const edge of edges) {
    const target = targets[byInstant.center(targets, edge)]
    const by = target ? target.at - edge : Infinity
    if (target && Math.abs(by) <= reach && Math.abs(by) < Math.abs(best?.by ?? Infinity)) best = { by, target }
  }
  return best
}

/** The next of some instants after `time`, or the last one before it, s; null when there is none. @param times sorted */
export function jump(times: readonly number[], time: number, to: 'next' | 'previous'): number | null {
  const near = 1e-3
  return (to === 'next' ? times.find((t) => t > time + near) : times.findLast((t) => t < time - near)) ?? null
}
