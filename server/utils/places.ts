/** Places: where a publication stands in a course, and from when until when. */
import { Place as PlaceSchema, type Place } from '#core/schema/publication'
import { parseAs } from '#core/schema/validate'
import { releaseState } from '#core/course/release'
import { refuse } from './border'
import { readPublication, type StoredPublication } from './publications'
import { store } from './storage'

export async function readPlace(placeId: string): Promise<Place | null> {
  const place = await store().getItem(`places:${placeId}`)
  return place ? parseAs(PlaceSchema, place, 'stored place') : null
}

export async function writePlace(place: Place): Promise<void> {
  await store().setItem(`places:${place.id}`, place)
}

export async function removePlace(placeId: string): Promise<void> {
  await store().removeItem(`places:${placeId}`)
}

/** A place that students may see now; refuses outside the release window, with the reason. */
export async function openPlace(placeId: string): Promise<Place> {
  const place = await readPlace(placeId)
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
