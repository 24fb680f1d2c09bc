/** A segment of a lecture that is being held, or the init segment of a run. */
export default defineEventHandler(async (event) => {
  onlyMethods(event, 'GET', 'HEAD')
  const [placeId, run] = [idParam(event, 'place'), indexParam(event, 'run')]
  await requireTicket(getRouterParam(event, 'ticket') ?? '', placeId)
  await openPlace(placeId)
  const name = getRouterParam(event, 'name') ?? ''
  const size = /^(init|\d{1,6})$/.test(name) ? await liveSize(placeId, run, name) : null
  if (size === null) refuse(404, 'This part of the lecture is not there any more.')
  setHeaders(event, {
    'content-type': 'video/mp4',
    'cache-control': 'private, max-age=3600, immutable',
    'content-length': size,
  })
  return sendSlices(event, readLive(placeId, run, name, size))
})
