/** Renews the player's token, as long as the session lasts that began on the course page. */
export default defineEventHandler(async (event) => {
  const session = await requireStudent(event, idParam(event, 'place'))
  setHeader(event, 'cache-control', 'no-store')
  return { token: await watchToken(session) }
})
