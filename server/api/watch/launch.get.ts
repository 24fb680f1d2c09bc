/** Where the course site sends a student: the signed token becomes a session, and the player opens. */
export default defineEventHandler(async (event) => {
  const token = String(getQuery(event).token ?? '')
  const { placeId, student } = await readLaunch(token)
  await openWatchSession(event, placeId, student)
  return sendRedirect(event, `/player/index.html#${placeId}`, 302)
})
