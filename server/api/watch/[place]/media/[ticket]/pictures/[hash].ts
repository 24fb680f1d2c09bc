/** A picture of a question, by the hash of its bytes: it never changes. */
export default defineEventHandler(async (event) => {
  onlyMethods(event, 'GET', 'HEAD')
  const placeId = idParam(event, 'place')
  await requireTicket(getRouterParam(event, 'ticket') ?? '', placeId)
  const place = await openPlace(placeId)
  const found = await readPicture(place.publicationId, getRouterParam(event, 'hash') ?? '')
  if (!found) refuse(404, 'There is no such picture.')
  setHeaders(event, { 'content-type': found.type, 'cache-control': 'private, max-age=3600, immutable' })
  return found.bytes
})
