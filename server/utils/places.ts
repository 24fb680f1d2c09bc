/** Places: where a publication stands in a course, and from when until when. */
import { Place as PlaceSchema, type Place } from '#core/schema/publication'
import { releaseState } from '#core/course/release'
import { upgradePlace } from '#core/packages/upgrade'
import { refuse } from './border'
import { readPublication, type StoredPublication } from './publications'
import { useStore } from './storage'

export const places = () => useStore().documents('places', PlaceSchema, upgradePlace)

/** What changes a place, or what is announced there, goes one after the other. */
export const inPlaceTurn = <T>(placeId: string, task: () => Promise<T>): Promise<T> =>
  useStore().exclusive(`place ${placeId}`, task)

/** A place that students may see now; refuses outside the release window, with the reason. */
export async function openPlace(placeId: string): Promise<Place> {
  const place = await places().read(placeId)
  if (!place) refuse(404, 'There is no lecture at this address.')
  const state = releaseState(place, new Date().toISOString())
  if (state === 'waiting') refuse(403, `This lecture is not released yet. It will be on ${place.from.slice(0, 10)}.`)
  if (state === 'over') refuse(403, 'This lecture is not released any more.')
  return place
}

/** What a student may watch at a place now. */
export async function releasedAt(placeId: string): Promise<{ place: Place; publication: StoredPublication }> {
  const place = await openPlace(placeId)
  const publication = await readPublication(place.publicationId)
  if (!publication) refuse(404, 'There is no lecture at this address.')
  return { place, publication }
}
