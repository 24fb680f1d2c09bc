/** Courses as they were kept until terms stood apart: each said when its term begins, and its weeks. */
import { Type, type Static } from '@sinclair/typebox'
import { Course } from '../schema/lecture'
import { closed } from '../schema/parts'
import { Day, type Term } from '../schema/term'
import { parseAs } from '../schema/validate'
import { addDays, mondayOf } from './term'

export const EarlierCourse = Type.Composite(
  [
    Type.Pick(Course, ['id', 'code', 'title', 'language', 'draftsOnArrival', 'captionsGoOn']),
    Type.Object({ startsOn: Day, weeks: Type.Integer({ minimum: 1, maximum: 60 }) }),
  ],
  closed,
)
export type EarlierCourse = Static<typeof EarlierCourse>

const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' })

/**
 * A course with the term that it was in. Courses that began on the same day and went as long were in one.
 * @param timeZone IANA name, as none was kept
 */
export function upgradeCourse(
  { startsOn, weeks, ...course }: EarlierCourse,
  timeZone: string,
): { course: Course; term: Term } {
  const firstDay = mondayOf(startsOn)
  const id = `term-${firstDay}-${weeks}`
  return {
    course: { ...course, termId: id },
    term: {
      ...{ id, name: `Term from ${day.format(Date.parse(`${firstDay}T00:00:00Z`))}`, firstDay },
      ...{ lastDay: addDays(firstDay, 7 * weeks - 1), holidays: [], timeZone },
    },
  }
}

/** What an archive of a lecture says, of any version: until terms stood apart, the course that it stood in. */
export function upgradeArchive(data: unknown, timeZone: string): unknown {
  if (typeof data !== 'object' || data === null || !('version' in data) || data.version !== 1) return data
  const { course, ...same } = data as Record<string, unknown>
  return { ...same, version: 2, stood: upgradeCourse(parseAs(EarlierCourse, course, 'archive'), timeZone) }
}
