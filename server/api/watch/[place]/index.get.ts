import type { LiveView, WatchView } from '#core/packages/watch-view'

/** Views of one person at one place: a page that is opened needs one, and one that waits for a live lecture 20 a minute. */
const pace = pacer(150, 60)

/** The lecture at a place, for the student who came through the course site: as it is held, and then its recording. */
export default defineEventHandler(async (event): Promise<WatchView | LiveView> => {
  const placeId = idParam(event, 'place')
  const session = await requireStudent(event, placeId)
  await pace(placeId, session.student)
  setHeader(event, 'cache-control', 'no-store')
  await openPlace(placeId)
  const broadcast = await broadcasts().read(placeId)
  if (broadcast) return liveView(broadcast, session)
  const { place, publication } = await releasedAt(placeId)
  return watchView(place, publication, session)
})
