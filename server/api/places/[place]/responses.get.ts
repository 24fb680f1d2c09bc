import type { PlaceResponses } from '#core/schema/publication'

/** What students sent back at a place, after the number the author already has, and what it is graded by. */
export default defineEventHandler(async (event): Promise<PlaceResponses> => {
  await requireAuthor(event)
  const placeId = idParam(event, 'place')
  const place = await places().read(placeId)
  const events = await answersAt(placeId)
  const grading = await gradingAt(placeId)
  const versions = new Set([
    ...events.flatMap((e) => e.event.version ?? []),
    ...grading.flatMap(({ entry }) => (entry.kind === 'regrade' ? [entry.version] : [])),
  ])
  const { sets, current } = place ? await gradedSets(place, versions) : { sets: [], current: [] }
  const [after, graded] = [numberQuery(event, 'after'), numberQuery(event, 'graded')]
  return {
    events: events.filter((e) => e.seq > after),
    grading: grading.filter((g) => g.seq > graded),
    ...{ sets, current },
  }
})
