/** Terms and courses: made, changed, copied, put away and deleted, with what depends on them. */
import { addDays, countWeeks, daysBetween, mondayOf } from '#core/course/term'
import type { CourseLine } from '#core/course/course-csv'
import type { Course } from '#core/schema/lecture'
import type { Term } from '#core/schema/term'
import { sayCount } from '#core/text/words'
import { db } from '~/db/database'
import { storing } from '~/db/files'
import { changeLecture, lectureTables } from './cards'
import { newId } from './ids'

/** All terms, the earliest first. */
export const allTerms = async (): Promise<Term[]> =>
  (await db.terms.toArray()).sort(
    (a, b) => a.firstDay.localeCompare(b.firstDay) || a.name.localeCompare(b.name, undefined, { numeric: true }),
  )

/** Courses as lists show them. */
export const byCode = (a: Course, b: Course): number => a.code.localeCompare(b.code, undefined, { numeric: true })

/** A course that something can go to, with its term; `says` tells it from those of other terms. */
export interface OpenCourse {
  course: Course
  term: Term
  says: string
}

/** The courses that are not archived, nor their terms; and one that is, where something stands in it already. */
export async function openCourses(kept = ''): Promise<OpenCourse[]> {
  const terms = new Map((await allTerms()).map((t) => [t.id, t]))
  const all = (await db.courses.toArray()).sort(byCode).flatMap((course) => {
    const term = terms.get(course.termId)
    return term && (course.id === kept || (!course.archived && !term.archived)) ? [{ course, term }] : []
  })
  const several = new Set(all.map(({ term }) => term.id)).size > 1
  return all.map(({ course, term }) => ({
    ...{ course, term },
    says: `${course.code} ${course.title}${several ? ` (${term.name})` : ''}`,
  }))
}

const coursesOf = (termId: string): Promise<Course[]> => db.courses.where({ termId }).toArray()
const lecturesOf = (courses: readonly Course[]) => db.lectures.where('courseId').anyOf(courses.map((c) => c.id))

/** A change of terms and courses, and of the lectures that it reaches. */
const changing = (act: () => Promise<void>): Promise<void> =>
  storing(() => db.transaction('rw', [...lectureTables(), db.terms, db.courses, db.words, db.rosters], act))

/** Moves what stands in a week that there is no more to the last one that there is. */
async function keepInWeeks(courses: readonly Course[], weeks: number): Promise<void> {
  for (const { id } of await lecturesOf(courses)
    .filter((l) => l.week > weeks)
    .toArray())
    await changeLecture(id, () => db.lectures.update(id, { week: weeks }))
}

/** How many lectures of a term, or of a course that goes to it, stand in weeks that it has not. */
export const countBeyond = async (courses: readonly Course[], weeks: number): Promise<number> =>
  lecturesOf(courses)
    .filter((l) => l.week > weeks)
    .count()
export const countBeyondTerm = async (termId: string, weeks: number): Promise<number> =>
  countBeyond(await coursesOf(termId), weeks)

/** Keeps a term as it was written, new or changed. */
export const saveTerm = (term: Term): Promise<void> =>
  changing(async () => {
    await db.terms.put(term)
    await keepInWeeks(await coursesOf(term.id), countWeeks(term))
  })

/** A copy of a term a year later, on the same days of the week, to be changed before it is kept. */
export function termLike(term: Term): Term {
  const days = 52 * 7
  const later = (day: string) => addDays(day, days)
  const holidays = term.holidays.map((h) => ({ ...h, from: later(h.from), to: later(h.to) }))
  const { archived: _, ...same } = term
  return {
    ...{ ...same, id: newId(), name: `${term.name} (copy)`.slice(0, 80), holidays },
    ...{ firstDay: later(term.firstDay), lastDay: later(term.lastDay) },
  }
}

/** A term as it is offered when a new one is begun: of twelve weeks, from this one, or from after the last term. */
export function newTerm(today: string, latest?: Term): Term {
  const after = latest && daysBetween(today, latest.lastDay) >= 0 ? mondayOf(addDays(latest.lastDay, 7)) : null
  const firstDay = after ?? mondayOf(today)
  const { timeZone } = new Intl.DateTimeFormat().resolvedOptions()
  return { id: newId(), name: '', firstDay, lastDay: addDays(firstDay, 12 * 7 - 1), holidays: [], timeZone }
}

/** Keeps a copy of a term, with its courses and their word lists, and without lectures. */
export const saveTermCopy = (term: Term, of: string): Promise<void> =>
  changing(async () => {
    await db.terms.put(term)
    for (const { archived, ...course } of await coursesOf(of)) {
      if (archived) continue
      await copyWords(course.id, await put({ ...course, id: newId(), termId: term.id }))
    }
  })

async function put(course: Course): Promise<string> {
  await db.courses.put(course)
  return course.id
}
async function copyWords(from: string, courseId: string): Promise<void> {
  const list = await db.words.get(from)
  if (list) await db.words.put({ ...list, courseId })
}

/** Puts a term away, or takes it back. */
export const archiveTerm = (id: string, archived: boolean): Promise<void> =>
  changing(() => db.terms.update(id, { archived }).then(() => undefined))

/** Deletes a term with its courses. Their lectures stay, in no course. */
export const deleteTerm = (id: string): Promise<void> =>
  changing(async () => {
    for (const course of await coursesOf(id)) await removeCourse(course.id)
    await db.terms.delete(id)
  })

/** Whatever keeps a course from being kept as it is written, as a sentence; empty when nothing does. */
export async function courseProblem({ id, code, title, termId, meetings = [] }: Course): Promise<string> {
  if (!code.trim()) return 'Give the course a code, such as BIO 101.'
  if (!title.trim()) return 'Give the course a title.'
  if (!(await db.terms.get(termId))) return 'Choose the term that the course is in.'
  if (meetings.some((m) => !m.from || !m.to)) return 'Say for each meeting when it begins and ends.'
  const ends = meetings.find((m) => m.to <= m.from)
  if (ends) return `A meeting has to end after it begins; one begins at ${ends.from}.`
  const same = (await coursesOf(termId)).find((c) => c.id !== id && c.code.toLowerCase() === code.trim().toLowerCase())
  return same ? `There is a course ${same.code} in this term already.` : ''
}

/**
 * Keeps a course as it was written, new or changed. @param wordsOf a course whose word list it gets too
 * @throws {Error} with a sentence when it cannot be kept as it is
 */
export const saveCourse = (course: Course, wordsOf = ''): Promise<void> =>
  changing(async () => {
    const problem = await courseProblem(course)
    if (problem) throw new Error(problem)
    await db.courses.put({ ...course, code: course.code.trim(), title: course.title.trim() })
    if (wordsOf) await copyWords(wordsOf, course.id)
    const term = await db.terms.get(course.termId)
    if (term) await keepInWeeks([course], countWeeks(term))
  })

/** Puts a course away, or takes it back. */
export const archiveCourse = (id: string, archived: boolean): Promise<void> =>
  changing(() => db.courses.update(id, { archived }).then(() => undefined))

async function removeCourse(id: string): Promise<void> {
  for (const lecture of await db.lectures.where({ courseId: id }).primaryKeys())
    await changeLecture(lecture, () => db.lectures.update(lecture, { courseId: '' }))
  for (const table of [db.courses, db.words, db.rosters]) await table.delete(id)
}

/** Deletes a course. Its lectures stay, in no course. */
export const deleteCourse = (id: string): Promise<void> => changing(() => removeCourse(id))

/** Adds courses that were read from a table. @throws {Error} with a sentence; then none is added */
export const addCourses = (termId: string, lines: readonly CourseLine[]): Promise<void> =>
  changing(async () => {
    for (const { code, title, lecturer, language, meetings } of lines) {
      const course: Course = {
        ...{ id: newId(), code, title, termId },
        ...(lecturer && { lecturer }),
        ...(language && { language }),
        ...(meetings.length > 0 && { meetings }),
      }
      const problem = await courseProblem(course)
      if (problem) throw new Error(problem)
      await db.courses.put(course)
    }
  })

/** What depends on courses that are to be deleted, as sentences. */
async function sayDependants(courses: readonly Course[]): Promise<string> {
  const ids = courses.map((c) => c.id)
  const [lectures, lists, places] = await Promise.all([
    lecturesOf(courses).count(),
    db.words.bulkGet(ids),
    db.places.filter((p) => !p.removed && ids.includes(p.place.courseId)).count(),
  ])
  const words = lists.reduce((sum, list) => sum + (list?.words.length ?? 0), 0)
  const its = courses.length === 1 ? 'its' : 'their'
  return [
    lectures === 0
      ? `No lectures are in ${courses.length === 1 ? 'it' : 'them'}.`
      : `${sayCount(lectures, 'lecture stays', 'lectures stay')}, without a course.`,
    words > 0 && `${sayCount(words, 'word of its word list goes', `words of ${its} word lists go`)} with it.`,
    places > 0 &&
      `What is published stays on ${its} course ${courses.length === 1 ? 'page' : 'pages'} for students until you take it off there: ${sayCount(places, 'lecture', 'lectures')}.`,
  ]
    .filter(Boolean)
    .join(' ')
}

export const sayCourseDependants = async (course: Course): Promise<string> => sayDependants([course])

export async function sayTermDependants(termId: string): Promise<string> {
  const courses = (await coursesOf(termId)).sort(byCode)
  if (courses.length === 0) return 'No courses are in it.'
  const named = courses.slice(0, 5).map((c) => c.code)
  const more = courses.length - named.length
  return `${sayCount(courses.length, 'course is', 'courses are')} deleted with it: ${named.join(', ')}${more > 0 ? ` and ${more} more` : ''}. ${await sayDependants(courses)}`
}

/** The term that is shown when none was chosen: the one that goes on now, the next, or the last. */
export function presentTerm(terms: readonly Term[], today: string): Term | undefined {
  const open = terms.filter((t) => !t.archived)
  return (
    open.filter((t) => t.firstDay <= today && today <= t.lastDay).at(-1) ??
    open.find((t) => t.firstDay > today) ??
    open.at(-1)
  )
}
