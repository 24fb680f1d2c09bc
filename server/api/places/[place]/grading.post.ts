import { GradingEntries, type StoredGrading } from '#core/schema/grading'

/** Takes what an author decided about answers; the same sent again changes nothing. */
export default defineEventHandler(async (event): Promise<{ entries: StoredGrading[] }> => {
  await requireAuthor(event)
  const place = await places().read(idParam(event, 'place'))
  if (!place) refuse(404, 'This lecture does not stand at this place any more. What you decided stays in your browser.')
  const { entries } = await bodyAs(event, GradingEntries, 'decision', 4 << 20)
  const kept = await keepGrading(place, entries)
  const says = `${await titleAt(place.id)}: ${sayGrading(entries)}`
  await logActivity(event, { action: 'graded', placeId: place.id, says })
  return { entries: kept }
})
