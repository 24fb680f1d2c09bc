import { livePlaylist } from '#core/packages/live'

/** The playlist of a lecture that is being held; what it names stands below the same ticket. */
export default defineEventHandler(async (event) => {
  onlyMethods(event, 'GET', 'HEAD')
  const placeId = idParam(event, 'place')
  const { who } = await requireTicket(getRouterParam(event, 'ticket') ?? '', placeId)
  await openPlace(placeId)
  const broadcast = await broadcasts().read(placeId)
  if (!broadcast) refuse(404, 'This lecture is not held now.')
  isWatching(placeId, who)
  setHeaders(event, { 'content-type': 'application/vnd.apple.mpegurl', 'cache-control': 'no-store' })
  return livePlaylist(broadcast)
})
