/**
 * Where the course site sends a student: the signed token becomes a session, and the player opens with it behind `#`,
 * which no log sees.
 */
export default defineEventHandler(async (event) => {
  const session = await takeLaunch(String(getQuery(event).token ?? ''))
  return sendRedirect(event, `/player/index.html#place=${session.placeId}&token=${await watchToken(session)}`, 302)
})
