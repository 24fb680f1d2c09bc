import type { PlaceWatching } from '#core/schema/watching'

/** What was watched at a place, after the number that the author already has. */
export default defineEventHandler(async (event): Promise<PlaceWatching> => {
  await requireAuthor(event)
  const place = await places().read(idParam(event, 'place'))
  if (place) await logRead(event, place.id, 'Watching')
  return place ? watchingAt(place, numberQuery(event, 'after')) : { sessions: [], versions: [] }
})
