/** The release window of a place: from when until when students see the lecture. */
import type { Place } from '../schema/publication'

export type ReleaseState = 'waiting' | 'released' | 'over'

/**
 * @param now ISO 8601 UTC. `from` is the first instant of the window, `until` the first after it; what cannot be read
 * as a date counts as not released
 */
export function releaseState(place: Pick<Place, 'from' | 'until'>, now: string): ReleaseState {
  const at = Date.parse(now)
  if (!(at >= Date.parse(place.from))) return 'waiting'
  return place.until === null || at < Date.parse(place.until) ? 'released' : 'over'
}
