import type { PlaceResponses } from '#core/schema/publication'

/** What students sent back at a place, after the number the author already has, and what it is graded by. */
export default defineEventHandler(async (event): Promise<PlaceResponses> => {
  await requireAuthor(event)
  const placeId = idParam(event, 'place')
  const place = await places().read(placeId)
  await logRead(event, placeId, 'Answers')
  const events = await answersAt(placeId, numberQuery(event, 'after'))
  const grading = await gradingAt(placeId, numberQuery(event, 'graded'))
  // Those of what was told before were told with it.
  const versions = new Set([
    ...events.flatMap((e) => e.event.version ?? []),
    ...grading.flatMap(({ entry }) => (entry.kind === 'regrade' ? [entry.version] : [])),
  ])
  return { events, grading, ...(place ? await gradedSets(place, versions) : { sets: [], current: [] }) }
})
