import { livePlaylist } from '#core/packages/live'

/** The playlist of a lecture that is being held. */
export default defineEventHandler(async (event) => {
  const placeId = idParam(event, 'place')
  const student = await requireStudent(event, placeId)
  await openPlace(placeId)
  const broadcast = await readBroadcast(placeId)
  if (!broadcast) refuse(404, 'This lecture is not held now.')
  isWatching(placeId, student)
  setHeaders(event, { 'content-type': 'application/vnd.apple.mpegurl', 'cache-control': 'no-store' })
  return livePlaylist(broadcast)
})
