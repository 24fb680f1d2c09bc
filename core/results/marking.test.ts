import { describe, expect, it } from 'vitest'
import { FIRST_ISSUER } from '../course/people'
import { DEFAULT_POLICY } from '../questions/policy'
import type { AttemptEvent, StoredEvent } from '../schema/attempt'
import type { GradingEntry, StoredGrading } from '../schema/grading'
import type { GradedSet } from '../schema/publication'
import { longerAnswer, oneRight } from '../../test/questions'
import { History } from './history'
import { answersToMark, byPerson, namesHidden, readyToRelease, regradeChanges, sayLog, usedComments } from './marking'
import { computeResults } from './results'

let n = 0
const [e1, e2, q1] = [longerAnswer('e1'), longerAnswer('e2'), oneRight('q1', { a: 'ice', b: 'snow' }, { points: 2 })]
const setOf = (version: string, questions = [e1, e2, q1], changes = false): GradedSet => ({
  ...{ version, id: 'set', title: 'Questions', publishedAt: '2026-11-20T10:00:00.000Z' },
  policy: { ...DEFAULT_POLICY, changes },
  checkpoints: [{ id: 'c', at: 5, questions: questions.map((q) => q.open) }],
  keys: questions.map((q) => q.key),
})
const people = { s1: 'Bo', s2: 'Al' }
const student = (subject: keyof typeof people) => ({ issuer: FIRST_ISSUER, subject, name: people[subject] })
let seq = 0
const gave = (who: keyof typeof people, questionId: string, id: string, version = 'v1'): StoredEvent => {
  const answer =
    questionId === 'q1' ? ({ kind: 'one-right', choice: 'b' } as const) : ({ kind: 'longer', text: `${id}!` } as const)
  const at = '2026-11-23T10:00:00.000Z'
  const event: AttemptEvent = { id, kind: 'answer', at, version, questionId, answer }
  return { seq: ++seq, receivedAt: at, placeId: 'p', student: student(who), event }
}
type Own = Omit<Extract<GradingEntry, { kind: 'mark' }>, 'id' | 'at' | 'student' | 'set' | 'attempt' | 'kind'>
const stored = (entry: Partial<GradingEntry>): StoredGrading => ({
  ...{ seq: ++seq, receivedAt: '2026-11-24T10:00:00.000Z', placeId: 'p' },
  entry: { id: `g${++n}`, at: `2026-11-24T10:00:${10 + n}.000Z`, set: 'set', attempt: 1, ...entry } as GradingEntry,
})
const marked = (who: keyof typeof people, questionId: string, answerId: string, points: number, comment = '') =>
  stored({ kind: 'mark', student: student(who), questionId, answerId, points, rubric: {}, comment } as Own & {
    kind: 'mark'
  })
const events = [
  ...[gave('s1', 'e1', 'zz'), gave('s1', 'e2', 'yy'), gave('s1', 'q1', 'x1')],
  ...[gave('s2', 'e1', 'aa'), gave('s2', 'q1', 'x2')],
]
const history = (grading: StoredGrading[] = [], sets = [setOf('v1')], all = events) =>
  new History({ sets, current: [sets.at(-1)?.version ?? ''], events: all, grading, roster: [] })
const ids = (answers: readonly { id: string }[]) => answers.map((a) => a.id)

describe('answers to mark', () => {
  it('come question by question, person by person, or in an order that says nothing of the writer', () => {
    const all = answersToMark(history())
    expect(ids(all)).toEqual(['aa', 'zz', 'yy'])
    expect(ids(byPerson(all))).toEqual(['aa', 'zz', 'yy'])
    expect(byPerson(all).map((a) => a.student.name)).toEqual(['Al', 'Bo', 'Bo'])
    expect(ids(namesHidden(all))).toEqual(['aa', 'zz', 'yy'])
    const swapped = events.map((e) => ({ ...e, student: student(e.student.subject === 's1' ? 's2' : 's1') }))
    expect(ids(namesHidden(answersToMark(history([], [setOf('v1')], swapped))))).toEqual(['aa', 'zz', 'yy'])
  })
  it('count in the results when they are marked, told or not, and are said to be not told', () => {
    const bo = (grading: StoredGrading[]) =>
      computeResults(history(grading)).students.find((s) => s.student.name === 'Bo')
    expect(bo([])).toMatchObject({ unmarked: 2, points: 0, possible: 22 })
    const both = [marked('s1', 'e1', 'zz', 6), marked('s1', 'e2', 'yy', 10)]
    expect(bo(both)).toMatchObject({ unmarked: 0, unreleased: 2, right: 1, partly: 1, wrong: 1, points: 16 })
    // What waits to be marked takes nothing from what is earned.
    expect(bo([marked('s1', 'e2', 'yy', 10)])).toMatchObject({ unmarked: 1, points: 10, possible: 22, percent: 83.3 })
    const released = stored({ kind: 'release', student: student('s1'), released: true })
    expect(bo([...both, released])).toMatchObject({ unreleased: 0, points: 16 })
    const excused = stored({ kind: 'excuse', student: student('s1'), questionId: 'e2', excused: true, reason: 'ill' })
    expect(bo([...both, excused])).toMatchObject({ excused: 1, points: 6, possible: 12, percent: 50 })
  })
  it('are ready for their writers when all of the attempt is marked', () => {
    const ready = (grading: StoredGrading[]) =>
      readyToRelease(answersToMark(history(grading))).map((r) => r.student.name)
    expect(ready([])).toEqual([])
    expect(ready([marked('s2', 'e1', 'aa', 1), marked('s1', 'e1', 'zz', 1)])).toEqual(['Al'])
    expect(
      ready([marked('s2', 'e1', 'aa', 1), stored({ kind: 'release', student: student('s2'), released: true })]),
    ).toEqual([])
  })
  it('need a mark again when another answer took the place of the one that has it', () => {
    const again = [...events, gave('s1', 'e1', 'zz2')]
    const [, bo] = answersToMark(history([marked('s1', 'e1', 'zz', 6)], [setOf('v1', undefined, true)], again))
    expect(bo).toMatchObject({ id: 'zz2', mark: null, changed: true, final: false })
  })
  it('get comments that were given before, those used most first', () => {
    const entries = [
      marked('s1', 'e1', 'a1', 1, 'Say why.'),
      marked('s1', 'e1', 'a2', 1, 'Good.'),
      marked('s1', 'e1', 'a3', 1, 'Good. '),
      marked('s1', 'e2', 'a4', 1, 'Of another question.'),
      marked('s1', 'e1', 'a5', 1, 'Taken back.'),
      marked('s1', 'e1', 'a5', 1, ''),
    ].map((s) => s.entry)
    expect(usedComments(entries, 'e1')).toEqual(['Good.', 'Say why.'])
  })
})

describe('a changed question', () => {
  const right = { ...q1, key: { ...q1.key, right: 'b' } as typeof q1.key }
  const sets = [setOf('v1'), setOf('v2', [e1, e2, right])]
  it('changes nothing by itself, and says who would have other points', () => {
    const changes = regradeChanges(history([], sets))
    expect(changes).toMatchObject([
      { student: { name: 'Bo' }, questionId: 'q1', before: 0, after: 2, version: 'v2' },
      { student: { name: 'Al' }, questionId: 'q1', before: 0, after: 2, version: 'v2' },
    ])
    const points = (grading: StoredGrading[]) => computeResults(history(grading, sets)).students.map((s) => s.points)
    expect(points([])).toEqual([0, 0])
    const regraded = changes.map(({ before: _, after: __, prompt: ___, ...c }) =>
      stored({ kind: 'regrade', reason: 'the key was wrong', ...c }),
    )
    expect(points(regraded)).toEqual([2, 2])
    expect(regradeChanges(history(regraded, sets))).toEqual([])
  })
  it('leaves what a person decided', () => {
    const given = stored({ kind: 'override', student: student('s1'), questionId: 'q1', points: 1, reason: 'x' })
    expect(regradeChanges(history([given], sets)).map((c) => c.student.name)).toEqual(['Al'])
  })
})

it('the log says what was decided, the latest first', () => {
  const grading = [
    marked('s1', 'e1', 'zz', 1, 'Say why.'),
    stored({ kind: 'release', student: student('s1'), released: true }),
    stored({ kind: 'override', student: student('s1'), questionId: 'q1', points: 2, reason: 'ambiguous' }),
  ]
  expect(sayLog(history(grading), grading).map((e) => [e.student, e.about, e.what, e.reason])).toEqual([
    ['Bo', expect.any(String), '2 points given in place', 'ambiguous'],
    ['Bo', 'Questions, attempt 1', 'Released', ''],
    ['Bo', 'About e1', 'Marked with 1 point', 'Say why.'],
  ])
})
