/** Who is in a course, from the course site. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return courseRoster(idParam(event, 'course'))
})
