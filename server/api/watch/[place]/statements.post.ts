import { WatchStatements } from '#core/schema/watching'

/** Requests of one person at one place; a player sends a few a minute. */
const pace = pacer(60, 30)

/** Takes what a student's player says was watched, and names what will never be taken; the same again changes nothing. */
export default defineEventHandler(async (event) => {
  const placeId = idParam(event, 'place')
  const session = await requireStudent(event, placeId)
  const { place } = await releasedAt(placeId)
  await pace(placeId, session.student)
  const { statements } = await bodyAs(event, WatchStatements, 'report', 1 << 20)
  setHeader(event, 'cache-control', 'no-store')
  return { refused: await keepStatements(place, session.student, statements) }
})
