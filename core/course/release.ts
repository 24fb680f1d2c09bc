/** Release windows of places: from when until when students see the lecture. */
import type { Place } from '../schema/publication'

export type ReleaseWindow = Pick<Place, 'from' | 'until'>

export type ReleaseState = 'waiting' | 'released' | 'over'

/**
 * @param now ISO 8601 UTC. `from` is the first instant of the window, `until` the first after it; what cannot be read
 * as a date counts as not released
 */
export function releaseState(place: ReleaseWindow, now: string): ReleaseState {
  const at = Date.parse(now)
  if (!(at >= Date.parse(place.from))) return 'waiting'
  return place.until === null || at < Date.parse(place.until) ? 'released' : 'over'
}

/** How a lecture with several places stands: released when it is anywhere, over when it is everywhere. */
export function bestReleaseState(places: readonly ReleaseWindow[], now: string): ReleaseState {
  const states = places.map((place) => releaseState(place, now))
  return states.find((s) => s === 'released') ?? states.find((s) => s === 'waiting') ?? 'over'
}

/** When the last of the windows ends, ISO 8601 UTC; null when one never does, or there is none. */
export const releaseEnd = (places: readonly ReleaseWindow[]): string | null =>
  places.some((p) => p.until === null)
    ? null
    : (places
        .flatMap((p) => p.until ?? [])
        .sort()
        .at(-1) ?? null)
