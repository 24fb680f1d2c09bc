/** Takes a course off the course site. What its students sent back stays. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  await disconnectCourse(idParam(event, 'course'))
  return { disconnected: true }
})
