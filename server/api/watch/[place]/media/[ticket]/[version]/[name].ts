import { requestedRange } from '../../../../../../utils/range'

/**
 * Streams a published file, whole or a single range of it (RFC 9110 §14). A version never changes, so that it is the
 * file's ETag: whoever began with one goes on with it after the lecture was published anew.
 */
export default defineEventHandler(async (event) => {
  onlyMethods(event, 'GET', 'HEAD')
  const placeId = idParam(event, 'place')
  const session = await requireTicket(getRouterParam(event, 'ticket') ?? '', placeId)
  const place = await openPlace(placeId)
  const publication = await readWatched(place.publicationId, idParam(event, 'version'), beganAt(session))
  const name = getRouterParam(event, 'name', { decode: true })
  const file = publication?.manifest.files.find((f) => f.name === name)
  if (!publication || !file) refuse(404, 'This lecture has no such file.')
  const etag = `"${publication.version}-${file.name}"`
  setHeaders(event, {
    'content-type': file.type,
    'accept-ranges': 'bytes',
    'cache-control': 'private, max-age=3600, immutable',
    etag,
  })
  if (getRequestHeader(event, 'if-none-match') === etag) {
    setResponseStatus(event, 304)
    return null
  }
  const { from, to } = requestedRange(event, file.size, etag)
  setHeader(event, 'content-length', to - from + 1)
  return sendSlices(event, readRange(publication.version, file, from, to))
})
