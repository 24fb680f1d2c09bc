import { AttemptEvents } from '#core/schema/attempt'
import { eventProblem } from '#core/questions/attempt'

/** Takes a student's events and answers with the new state. The same events sent again change nothing. */
export default defineEventHandler(async (event) => {
  const placeId = idParam(event, 'place')
  const student = await requireStudent(event, placeId)
  const { place, publication } = await releasedAt(placeId)
  const { events } = await bodyAs(event, AttemptEvents, 'answer', 1 << 17)
  const questions = publication.manifest.checkpoints.map((c) => c.question)
  for (const one of events) {
    const problem = eventProblem(one, questions)
    if (problem) refuse(400, problem)
  }
  await appendEvents(place.publicationId, placeId, student, events)
  setHeader(event, 'cache-control', 'no-store')
  return watchView(placeId, publication, student)
})
