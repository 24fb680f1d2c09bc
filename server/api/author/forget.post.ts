import { Type } from '@sinclair/typebox'
import { Student } from '#core/schema/attempt'
import { sayCount } from '#core/text/words'

const Asked = Type.Object({ student: Student }, { additionalProperties: false })

/** Deletes what is kept of one student at every place. Who it was does not stand in the log. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const { student } = await bodyAs(event, Asked, 'request to delete', 1 << 14)
  const places = await forgetStudent(student)
  const says = `Answers, points and what was watched of one student, in ${sayCount(places, 'place', 'places')}`
  await logActivity(event, { action: 'deleted-student', says })
  return { places }
})
