import { SiteCourse } from '#core/schema/course-site'

/** Makes a course known to the course site, or changes what it is called there. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'course')
  const course = await bodyAs(event, SiteCourse, 'course', 1 << 14)
  await connectCourse(id, course)
  return course
})
