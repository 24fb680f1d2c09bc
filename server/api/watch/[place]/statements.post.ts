import { RateLimiterMemory } from 'rate-limiter-flexible'
import { personKey } from '#core/course/people'
import { WatchStatements } from '#core/schema/watching'

/** Requests of one person at one place; a player sends a few a minute. */
const pace = new RateLimiterMemory({ points: 60, duration: 30 })

/** Takes what a student's player says was watched, and names what will never be taken; the same again changes nothing. */
export default defineEventHandler(async (event) => {
  const placeId = idParam(event, 'place')
  const session = await requireStudent(event, placeId)
  const { place } = await releasedAt(placeId)
  const inPace = await pace.consume(`${placeId} ${personKey(session.student)}`).then(
    () => true,
    () => false,
  )
  if (!inPace) refuse(429, 'Too much comes from here at once; it is taken in a moment.')
  const { statements } = await bodyAs(event, WatchStatements, 'report', 1 << 20)
  setHeader(event, 'cache-control', 'no-store')
  return { refused: await keepStatements(place, session.student, statements) }
})
