import { readRange } from '../../../../utils/publications'

/** Streams a published file, whole or a single range of it (RFC 9110, §14). */
export default defineEventHandler(async (event) => {
  const placeId = idParam(event, 'place')
  await requireStudent(event, placeId)
  const { place, publication } = await releasedAt(placeId)
  const name = getRouterParam(event, 'name', { decode: true })
  const file = publication.manifest.files.find((f) => f.name === name)
  if (!file) refuse(404, 'This lecture has no such file.')
  setHeaders(event, { 'content-type': file.type, 'accept-ranges': 'bytes', 'cache-control': 'private, max-age=3600' })
  const range = /^bytes=(\d*)-(\d*)$/.exec(getRequestHeader(event, 'range') ?? '')
  let from = 0
  let to = file.size - 1
  if (range && (range[1] || range[2])) {
    if (range[1]) {
      from = Number(range[1])
      if (range[2]) to = Math.min(to, Number(range[2]))
    } else from = Math.max(0, file.size - Number(range[2]))
    if (from > to) {
      setHeader(event, 'content-range', `bytes */${file.size}`)
      refuse(416, 'There is nothing in this range.')
    }
    setResponseStatus(event, 206)
    setHeader(event, 'content-range', `bytes ${from}-${to}/${file.size}`)
  }
  setHeader(event, 'content-length', to - from + 1)
  return readRange(place.publicationId, publication, file, from, to)
})
