/** Results as tables, each cell of the type that it has. */
import { personKey } from '../course/people'
import type { Results } from './results'
import type { StudentWatching } from './watching'

export type Cell = string | number | Date | null
export interface ResultTable {
  name: string
  columns: readonly string[]
  rows: Cell[][]
}

/** One row per student. @param watching null where it is not known who watched */
export function studentsTable(results: Results, watching: readonly StudentWatching[] | null): ResultTable {
  const seen = new Map(watching?.map((w) => [personKey(w.student), w]))
  return {
    name: 'Students',
    columns: [
      ...['Student', 'Student id', 'Of site', 'Right', 'Partly right', 'Wrong', 'Not marked yet', 'Unanswered'],
      ...['Excused', 'Points', 'Possible', 'Per cent', 'Attempts', 'Last answer (UTC)'],
      ...(watching ? ['Watched, per cent', 'Sittings', 'Watched last (UTC)'] : []),
    ],
    rows: results.students.map((r) => {
      const own = seen.get(personKey(r.student))
      const watched = own
        ? [Math.round(1000 * own.share) / 10, own.sittings, new Date(own.lastAt)]
        : watching
          ? [0, 0, null]
          : []
      return [
        ...[r.student.name ?? '', r.student.subject, r.student.issuer],
        ...[r.right, r.partly, r.wrong, r.unmarked, r.unanswered, r.excused],
        ...[r.points, r.possible, r.percent, r.attempts],
        r.lastAnswerAt === null ? null : new Date(r.lastAnswerAt),
        ...watched,
      ]
    }),
  }
}

/** One row per answer of each question. */
export const questionsTable = (results: Results): ResultTable => ({
  name: 'Answers',
  columns: ['Question', 'Answer', 'Right answer', 'Given by', 'Answered'],
  rows: results.questions.flatMap((q) =>
    q.counts.map((c): Cell[] => [q.prompt, c.text, c.right === null ? null : c.right ? 1 : 0, c.count, q.answered]),
  ),
})

/** One row per question. */
export const itemsTable = (results: Results): ResultTable => ({
  name: 'Questions',
  columns: [
    ...['Question', 'Kind', 'Answered', 'Difficulty (share of points)', 'Discrimination (corrected item–total)'],
    ...['Upper less lower 27 %', 'Median time (s)', 'Read the hint'],
  ],
  rows: results.questions.map((q) => [
    ...[q.prompt, q.kind, q.answered, q.facility, q.item?.discrimination ?? null, q.item?.upperLower ?? null],
    ...[q.took, q.hinted],
  ]),
})
