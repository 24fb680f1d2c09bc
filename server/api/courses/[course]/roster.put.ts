import { Enrolment } from '#core/schema/course-site'

/** Says who attends a course on the course site. @returns the roster */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'course')
  return enrol(id, await bodyAs(event, Enrolment, 'enrolment', 1 << 18))
})
