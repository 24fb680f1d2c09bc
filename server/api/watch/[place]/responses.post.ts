import { AttemptEvents } from '#core/schema/attempt'

/** Requests of one person at one place; a hand that answers needs a few a minute. */
const pace = pacer(60, 30)

/**
 * Takes a student's events and answers with what differs since from what the player was told, and with the events that will
 * never be taken, each with its reason. The same events sent again change nothing.
 */
export default defineEventHandler(async (event) => {
  const placeId = idParam(event, 'place')
  const session = await requireStudent(event, placeId)
  const { place, publication } = await releasedAt(placeId)
  await pace(placeId, session.student)
  const { events, told = '' } = await bodyAs(event, AttemptEvents, 'answer', 1 << 17)
  const { taken, refused } = await sortEvents(place, publication, events)
  const late = await keepEvents(place, session.student, taken)
  setHeader(event, 'cache-control', 'no-store')
  // Whoever began with an earlier version goes on with it.
  const { version, sets } = getQuery(event)
  const watched = await readWatched(
    place.publicationId,
    String(version ?? ''),
    beganAt(session),
    String(sets ?? '')
      .split(',')
      .slice(0, 20),
  )
  const view = await watchView(place, watched ?? publication, session, publication)
  const change = changeSince(view, told)
  return { ...(change ? { change } : { view }), refused: [...refused, ...late] }
})
