/** A caption track as WebVTT. A version of the captions never changes. */
export default defineEventHandler(async (event) => {
  onlyMethods(event, 'GET', 'HEAD')
  const placeId = idParam(event, 'place')
  await requireTicket(getRouterParam(event, 'ticket') ?? '', placeId)
  const place = await openPlace(placeId)
  const text = await readTrackOf(place.publicationId, idParam(event, 'version'), getRouterParam(event, 'name') ?? '')
  if (text === null) refuse(404, 'This lecture has no such captions. Open it anew.')
  setHeaders(event, { 'content-type': 'text/vtt; charset=utf-8', 'cache-control': 'private, max-age=3600, immutable' })
  return text
})
