/** Courses from a table: CSV as spreadsheets write it (RFC 4180), parted by commas, semicolons or tabs. */
import { dsvFormat } from 'd3-dsv'
import { toCsv } from '../results/csv'
import type { Meeting } from '../schema/term'

/** A course as it stands in a table. */
export interface CourseLine {
  code: string
  title: string
  lecturer: string
  /** BCP 47; empty where the table says none. */
  language: string
  meetings: Meeting[]
}

export interface CourseTable {
  courses: CourseLine[]
  /** What cannot be taken, by line of the file, from 1. */
  problems: { line: number; says: string }[]
}

const columns = ['Code', 'Title', 'Lecturer', 'Language', 'Meets'] as const
type Column = (typeof columns)[number]
const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
/** Longest code and longest title, as a course may have them. */
const LONGEST = { Code: 40, Title: 300, Lecturer: 200 }
const MOST_COURSES = 1000
const MOST_MEETINGS = 14

export const sayMeeting = ({ weekday, from, to }: Meeting): string => `${WEEKDAYS[weekday - 1] ?? ''} ${from}–${to}`

/**
 * Reads when a course meets, such as `Mon 10:15-12:00; Thu 14:00-15:30`.
 * @returns a sentence when it cannot be read
 */
export function readMeetings(text: string): Meeting[] | string {
  const meetings: Meeting[] = []
  for (const piece of text.split(/[;,]/).map((p) => p.trim())) {
    if (!piece) continue
    const [, day = '', ...times] =
      /^([a-z]{3,9})\.?\s+(\d{1,2})[:.](\d{2})\s*(?:-|–|to)\s*(\d{1,2})[:.](\d{2})$/i.exec(piece) ?? []
    const weekday = WEEKDAYS.findIndex((w) => day.toLowerCase().startsWith(w.toLowerCase())) + 1
    const [h1, m1, h2, m2] = times.map(Number)
    const isTime = (h = 99, m = 99) => h < 24 && m < 60
    if (weekday === 0 || !isTime(h1, m1) || !isTime(h2, m2))
      return `“${piece}” is not a day and times. Write it as Mon 10:15-12:00.`
    const clock = (h = 0, m = 0) => `${String(h).padStart(2, '0')}:${String(m).padStart(2, '0')}`
    const [from, to] = [clock(h1, m1), clock(h2, m2)]
    if (to <= from) return `“${piece}” ends before it begins.`
    meetings.push({ weekday, from, to })
  }
  return meetings.length <= MOST_MEETINGS ? meetings : `A course meets at most ${MOST_MEETINGS} times a week.`
}

/** What a table parts its fields by: what stands most often in its first line. */
function delimiterOf(text: string): string {
  const [first = ''] = text.split(/\r?\n/, 1)
  const count = (mark: string) => first.split(mark).length
  return [',', ';', '\t'].reduce((most, mark) => (count(mark) > count(most) ? mark : most))
}

const plain = (field: string) =>
  field
    .replace(/^'(?=[=+\-@])/, '')
    .replace(/\s+/g, ' ')
    .trim()

/** The line of the file in which each row begins, from 1: a quoted field may go over several. */
function linesOf(rows: readonly string[][]): number[] {
  let line = 1
  return rows.map((row) => {
    const begins = line
    line += 1 + row.reduce((sum, field) => sum + field.split(/\r\n|\r|\n/).length - 1, 0)
    return begins
  })
}

/**
 * @param known codes of courses that are there already, whose lines are refused
 * @param isLanguage whether something is a language that can be chosen
 * @throws {Error} with a sentence when it is no table of courses
 */
export function readCourses(text: string, known: readonly string[], isLanguage: (tag: string) => boolean): CourseTable {
  const whole = text.replace(/^\ufeff/, '')
  const rows = dsvFormat(delimiterOf(whole)).parseRows(whole)
  const lines = linesOf(rows)
  const header = (rows[0] ?? []).map((name) => plain(name).toLowerCase())
  const at = new Map(columns.map((name) => [name, header.indexOf(name.toLowerCase())]))
  const missing = (['Code', 'Title'] as const).filter((name) => (at.get(name) ?? -1) < 0)
  if (missing.length > 0)
    throw new Error(
      `The first line of the file has to name its columns; ${missing.join(' and ')} ${missing.length === 1 ? 'is' : 'are'} missing. The columns are ${columns.join(', ')}.`,
    )
  const found: CourseTable = { courses: [], problems: [] }
  const seen = new Map(known.map((code) => [code.toLowerCase(), 0]))
  rows.slice(1).forEach((row, i) => {
    const line = lines[i + 1] ?? 0
    if (row.every((field) => !field.trim())) return
    const field = (name: Column) => plain(row[at.get(name) ?? -1] ?? '')
    const [code, title, lecturer, language] = columns.map(field) as [string, string, string, string]
    const meetings = readMeetings(row[at.get('Meets') ?? -1] ?? '')
    const before = seen.get(code.toLowerCase())
    const tooLong = (['Code', 'Title', 'Lecturer'] as const).find((name) => field(name).length > LONGEST[name])
    const problem = !code
      ? 'The code is missing.'
      : !title
        ? `${code} has no title.`
        : tooLong
          ? `The ${tooLong.toLowerCase()} is longer than ${LONGEST[tooLong]} characters.`
          : before !== undefined
            ? before === 0
              ? `There is a course ${code} already.`
              : `${code} is in line ${before} already.`
            : language && !isLanguage(language)
              ? `“${language}” is not a language. Write it as en, de or pt-BR.`
              : typeof meetings === 'string'
                ? meetings
                : found.courses.length >= MOST_COURSES
                  ? `Only ${MOST_COURSES} courses are imported at once.`
                  : ''
    if (problem || typeof meetings === 'string') {
      found.problems.push({ line, says: problem })
      return
    }
    seen.set(code.toLowerCase(), line)
    found.courses.push({ code, title, lecturer, language, meetings })
  })
  if (found.courses.length === 0 && found.problems.length === 0)
    throw new Error('There are no courses in this file: below the line that names the columns there is nothing.')
  return found
}

/** A table that can be read again. */
export const writeCourses = (courses: readonly CourseLine[]): string =>
  toCsv([
    [...columns],
    ...courses.map(({ code, title, lecturer, language, meetings }) => [
      ...[code, title, lecturer, language],
      meetings.map(sayMeeting).join('; '),
    ]),
  ])
