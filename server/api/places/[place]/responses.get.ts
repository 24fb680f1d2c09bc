import type { PlaceResponses } from '#core/schema/publication'

/** What students sent back at a place, after the number the author already has, and what it is graded by. */
export default defineEventHandler(async (event): Promise<PlaceResponses> => {
  await requireAuthor(event)
  const after = String(getQuery(event).after ?? '0')
  if (!/^\d{1,16}$/.test(after)) refuse(400, '“after” is the number of the last response you have.')
  const placeId = idParam(event, 'place')
  const place = await places().read(placeId)
  const events = await answersAt(placeId)
  const answered = new Set(events.flatMap((e) => e.event.version ?? []))
  const { sets, current } = place ? await gradedSets(place, answered) : { sets: [], current: [] }
  return { events: events.filter((e) => e.seq > Number(after)), sets, current }
})
