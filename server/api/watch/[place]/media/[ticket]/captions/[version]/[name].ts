/** A caption track as WebVTT. A version of the captions never changes. */
export default defineEventHandler(async (event) => {
  onlyMethods(event, 'GET', 'HEAD')
  const placeId = idParam(event, 'place')
  const session = await requireTicket(getRouterParam(event, 'ticket') ?? '', placeId)
  const place = await openPlace(placeId)
  const name = getRouterParam(event, 'name') ?? ''
  const text = await readTrackOf(place.publicationId, idParam(event, 'version'), name, beganAt(session))
  if (text === null) refuse(404, 'This lecture has no such captions. Open it anew.')
  setHeaders(event, { 'content-type': 'text/vtt; charset=utf-8', 'cache-control': 'private, max-age=3600, immutable' })
  return text
})
