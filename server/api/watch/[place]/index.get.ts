import type { LiveView, WatchView } from '#core/packages/watch-view'

/** The lecture at a place, for the student who came through the course site: as it is held, and then its recording. */
export default defineEventHandler(async (event): Promise<WatchView | LiveView> => {
  const placeId = idParam(event, 'place')
  const student = await requireStudent(event, placeId)
  setHeader(event, 'cache-control', 'no-store')
  await openPlace(placeId)
  const broadcast = await readBroadcast(placeId)
  if (broadcast) return liveView(broadcast, student)
  const { publication } = await releasedAt(placeId)
  return watchView(placeId, publication, student)
})
