/** The lecture at a place, for the student who came through the course site. */
export default defineEventHandler(async (event) => {
  const placeId = idParam(event, 'place')
  const student = await requireStudent(event, placeId)
  const { publication } = await releasedAt(placeId)
  setHeader(event, 'cache-control', 'no-store')
  return watchView(placeId, publication, student)
})
