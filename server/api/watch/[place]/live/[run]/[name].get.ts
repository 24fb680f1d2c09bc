/** A segment of a lecture that is being held, or the init segment of a run. */
export default defineEventHandler(async (event) => {
  const [placeId, run] = [idParam(event, 'place'), indexParam(event, 'run')]
  await requireStudent(event, placeId)
  await openPlace(placeId)
  const name = getRouterParam(event, 'name') ?? ''
  const bytes = /^(init|\d{1,6})$/.test(name) ? await readLive(placeId, run, name) : null
  if (!bytes) refuse(404, 'This part of the lecture is not there any more.')
  setHeaders(event, { 'content-type': 'video/mp4', 'cache-control': 'private, max-age=3600' })
  return bytes
})
