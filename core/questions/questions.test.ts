import { describe, expect, it } from 'vitest'
import { FIRST_ISSUER, sayStudent } from '../course/people'
import type { AnswerEvent, AttemptEvent, StoredEvent } from '../schema/attempt'
import type { Checkpoint } from '../schema/questions'
import { recorded } from '../time/units'
import { computeResults as resultsOf } from '../results/results'
import { History, type PublishedSets } from '../results/history'
import { tableCsv, toCsv } from '../results/csv'
import { questionsTable, studentsTable } from '../results/tables'
import { oneRight } from '../../test/questions'
import { grade } from './grade'
import { checkpointProblems, newCheckpoint, newQuestionSet, questionProblems, readQuestionSet } from './set'
import { DEFAULT_POLICY } from './policy'

const computeResults = (sets: PublishedSets, events: StoredEvent[], roster: StoredEvent['student'][]) =>
  resultsOf(new History({ ...sets, events, roster, grading: [] }))

const checkpoint = (id: string, points = 2): Checkpoint => ({
  id: `cp-${id}`,
  at: recorded(5),
  questions: [
    oneRight(
      id,
      { a: 'ice', b: 'snow', c: '=cmd()' },
      { prompt: `Question ${id}?`, hint: 'cold', explanation: 'because', points },
    ),
  ],
})
const only = (c: Checkpoint) => c.questions[0] as ReturnType<typeof oneRight>
let n = 0
const event = (kind: AnswerEvent['kind'], questionId: string, choice: string, id = `e${++n}`): AnswerEvent => ({
  id,
  kind,
  questionId,
  answer: { kind: 'one-right', choice },
  at: '2026-11-23T10:00:00.000Z',
})
const stored = (seq: number, student: string, e: AttemptEvent): StoredEvent => ({
  seq,
  receivedAt: `2026-11-23T10:00:${String(seq).padStart(2, '0')}.000Z`,
  placeId: 'p',
  student: { issuer: FIRST_ISSUER, subject: student, name: student.toUpperCase() },
  event: e,
})

describe('a question', () => {
  it('is graded by its key', () => {
    const { open, key } = only(checkpoint('q'))
    expect(grade(open, key, { kind: 'one-right', choice: 'a' })).toEqual({ share: 1, points: 2 })
    expect(grade(open, key, { kind: 'one-right', choice: 'b' })).toEqual({ share: 0, points: 0 })
  })
  it('says what it still needs', () => {
    const fresh = newCheckpoint(recorded(1), () => `id${++n}`)
    expect(checkpointProblems(fresh)).toEqual(['Write the question.', '4 choices are empty.'])
    const c = checkpoint('q')
    const { open, key } = only(c)
    expect(checkpointProblems(c)).toEqual([])
    expect(questionProblems({ open, key: { ...key, right: 'gone' } })).toEqual(['Mark the right choice.'])
    const same = oneRight('q', { a: 'Ice', b: 'ice' })
    expect(questionProblems(same)).toEqual(['Two choices say the same.'])
    expect(checkpointProblems({ ...c, questions: [only(c), same] })).toEqual(['Question 2: Two choices say the same.'])
  })
  it('set from outside has to fit together', () => {
    const set = { ...newQuestionSet('x'), checkpoints: [checkpoint('q')] }
    expect(readQuestionSet(JSON.parse(JSON.stringify(set)))).toEqual(set)
    const { open, key } = only(checkpoint('q'))
    const asking = (question: object) => ({ ...set, checkpoints: [{ ...checkpoint('q'), questions: [question] }] })
    expect(() => readQuestionSet(asking({ open, key: only(checkpoint('r')).key }))).toThrow(/another question/)
    expect(() => readQuestionSet(asking({ open, key: { ...key, kind: 'true-false', right: true } }))).toThrow(
      /another kind/,
    )
    expect(() => readQuestionSet(asking({ open: { ...open, kind: 'riddle' }, key }))).toThrow(/question set/)
    expect(() => readQuestionSet({ ...set, checkpoints: [{ ...checkpoint('q'), at: -1 }] })).toThrow(/question set/)
  })
  it('of an earlier version has one right choice and plain texts', () => {
    const choices = [
      { id: 'a', text: 'ice' },
      { id: 'b', text: 'snow' },
    ]
    const question = { id: 'q', kind: 'one-right', prompt: 'What?\nNow?', choices, hint: '', points: 1 }
    const key = { questionId: 'q', right: 'b', explanation: 'so' }
    const before = {
      ...newQuestionSet('x'),
      version: 2,
      policy: { feedback: 'at-once' },
      checkpoints: [{ id: 'cp', at: 3, question, key }],
    }
    const now = {
      ...newQuestionSet('x'),
      checkpoints: [
        {
          ...{ id: 'cp', at: 3 },
          questions: [oneRight('q', { a: 'ice', b: 'snow' }, { prompt: 'What?\nNow?', explanation: 'so', right: 'b' })],
        },
      ],
    }
    expect(readQuestionSet(before)).toEqual(now)
    const { policy: _, ...first } = before
    expect(readQuestionSet({ ...first, version: 1 })).toEqual(now)
  })
})

describe('results', () => {
  const checkpoints = [checkpoint('q1'), checkpoint('q2', 3)]
  const roster = [
    { issuer: FIRST_ISSUER, subject: 's1', name: 'Bo' },
    { issuer: FIRST_ISSUER, subject: 's2', name: 'Al' },
    { issuer: FIRST_ISSUER, subject: 's3', name: 'Cy' },
  ]
  const events = [
    stored(1, 's1', event('answer', 'q1', 'a')),
    stored(2, 's1', event('answer', 'q2', 'b')),
    stored(3, 's2', event('select', 'q1', 'a')),
    stored(4, 's9', event('answer', 'q2', 'a')),
  ]
  const published = (version: string, list: Checkpoint[], id = 'set', policy = DEFAULT_POLICY) => ({
    version,
    id,
    policy,
    title: 'Questions',
    publishedAt: '2026-11-23T10:00:00.000Z',
    checkpoints: list.map(({ id, at, questions }) => ({ id, at, questions: questions.map((q) => q.open) })),
    keys: list.flatMap((c) => c.questions).map((q) => q.key),
  })
  const sets = { sets: [published('v1', checkpoints)], current: ['v1'] }
  const results = computeResults(sets, events, roster)

  it('count right, wrong, unanswered, points and per cent for everyone, those who never came included', () => {
    expect(results.students.map((s) => [s.student.name, s.right, s.wrong, s.unanswered, s.points, s.percent])).toEqual([
      ['Al', 0, 0, 2, 0, 0],
      ['Bo', 1, 1, 0, 2, 40],
      ['Cy', 0, 0, 2, 0, 0],
      ['S9', 1, 0, 1, 3, 60],
    ])
    expect(results.possible).toBe(5)
  })
  it('count who chose what', () => {
    expect(results.questions.map((q) => [q.counts.map((c) => c.count), q.answered, q.facility])).toEqual([
      [[1, 0, 0], 1, 1],
      [[1, 1, 0], 2, 0.5],
    ])
    expect(computeResults(sets, [], roster).questions[0]?.facility).toBeNull()
  })
  it('count an answer once, however often and in whatever order it comes', () => {
    expect(computeResults(sets, [...events, ...events].reverse(), roster)).toEqual(results)
  })
  it('of several sets are those of all that are asked, each by its own versions', () => {
    const [q1, q2] = checkpoints as [Checkpoint, Checkpoint]
    const later = checkpoint('q3')
    const both = {
      sets: [published('a1', [q1], 'a'), published('b1', [q2], 'b'), published('b2', [q2, later], 'b')],
      current: ['a1', 'b2'],
    }
    const seen = { ...event('answer', 'q2', 'a'), version: 'b1' }
    const { students, possible } = computeResults(both, [stored(1, 's1', seen)], roster)
    expect(possible).toBe(2 + 3 + 2)
    // Bo was asked the first version of the second set, and all of the first.
    expect(students.map((s) => [s.student.name, s.right, s.unanswered])).toEqual([
      ['Al', 0, 3],
      ['Bo', 1, 1],
      ['Cy', 0, 3],
    ])
  })
  it('are graded by the version that was answered, whatever is published later', () => {
    const [q1, q2] = checkpoints as [Checkpoint, Checkpoint]
    const { open, key } = only(q1)
    const later = [{ ...q1, questions: [{ open, key: { ...key, right: 'b' } }] }, checkpoint('q3')]
    const both = { sets: [published('v1', [q1, q2]), published('v2', later)], current: ['v2'] }
    const on = (version: string, e: AttemptEvent) => ({ ...e, version })
    const { students, questions, possible } = computeResults(
      both,
      [
        stored(1, 's1', on('v1', event('answer', 'q1', 'a'))),
        stored(2, 's1', on('v1', event('answer', 'q2', 'a'))),
        stored(3, 's2', on('v2', event('answer', 'q1', 'a'))),
        stored(4, 's2', on('v2', event('answer', 'q3', 'a'))),
      ],
      roster,
    )
    expect(
      students.map((s) => [s.student.name, s.right, s.wrong, s.unanswered, s.points, s.possible, s.percent]),
    ).toEqual([
      ['Al', 1, 1, 0, 2, 4, 50],
      ['Bo', 2, 0, 0, 5, 5, 100],
      ['Cy', 0, 0, 2, 0, 4, 0],
    ])
    expect(possible).toBe(4)
    expect(questions.map((q) => [q.questionId, q.answered, q.facility, q.earlier])).toEqual([
      ['q1', 2, 0.5, false],
      ['q3', 1, 1, false],
      ['q2', 1, 1, true],
    ])
  })
  it('of several attempts are those of the one that counts; questions tell of the first', () => {
    const policy = (counts: 'best' | 'first' | 'last' | 'mean') => ({
      ...DEFAULT_POLICY,
      changes: true,
      attempts: { most: 3, counts },
    })
    const at = (attempt: number, e: AttemptEvent) => ({ ...e, attempt, version: 'v1' })
    const step = (kind: 'begin' | 'hand-in') => ({
      ...{ id: `e${++n}`, kind, version: 'v1', at: '2026-11-23T10:00:00.000Z' },
    })
    const made = [
      // All right at first, handed in; a worse one; one that is still open.
      ...[at(1, event('answer', 'q1', 'a')), at(1, event('answer', 'q2', 'a')), at(1, step('hand-in'))],
      ...[at(2, step('begin')), at(2, event('answer', 'q1', 'b')), at(2, event('answer', 'q2', 'a'))],
      ...[at(2, step('hand-in')), at(3, step('begin')), at(3, event('answer', 'q1', 'a'))],
    ].map((e, i) => stored(i + 1, 's1', e))
    const bo = (counts: 'best' | 'first' | 'last' | 'mean') => {
      const set = published('v1', checkpoints, 'set', policy(counts))
      const { students, questions } = computeResults({ sets: [set], current: ['v1'] }, made, roster)
      expect(questions.map((q) => q.counts.map((c) => c.count))).toEqual([
        [1, 0, 0],
        [1, 0, 0],
      ])
      const row = students.find((s) => s.student.name === 'Bo')
      return [row?.points, row?.right, row?.wrong, row?.attempts]
    }
    expect(bo('best')).toEqual([5, 2, 0, 3])
    expect(bo('first')).toEqual([5, 2, 0, 3])
    expect(bo('last')).toEqual([3, 1, 1, 3])
    expect(bo('mean')).toEqual([4, 1, 1, 3])
  })
  it('tell how the questions go together, of those who handed in, and how long they took', () => {
    const at = (seq: number, who: string, q: string, choice: string, took: number, hinted = false) =>
      stored(seq, who, { ...event('answer', q, choice), took, ...(hinted && { hinted }) })
    const all = [
      ...[at(1, 's1', 'q1', 'a', 10), at(2, 's1', 'q2', 'a', 30)],
      ...[at(3, 's2', 'q1', 'b', 20, true), at(4, 's2', 'q2', 'b', 50)],
      // Did not hand in: counts for the question, and not for how they go together.
      at(5, 's3', 'q1', 'a', 60),
    ]
    const { sets: told, questions } = computeResults(sets, all, roster)
    expect(told).toMatchObject([{ id: 'set', items: ['q1', 'q2'], statistics: { count: 2, mean: 2.5, most: 5 } }])
    expect(told[0]?.statistics.kr20).toBeCloseTo(1, 9)
    expect(questions.map((q) => [q.item?.discrimination, q.took, q.hinted])).toEqual([
      [expect.closeTo(1, 9), 20, 1],
      [expect.closeTo(1, 9), 40, 0],
    ])
  })
  it('of two people whom two sites call alike stay apart, and who has no name is told by what a site calls them', () => {
    const elsewhere = { issuer: 'https://other.example', subject: 's1' }
    const other = { ...stored(5, 's1', event('answer', 'q1', 'b')), student: elsewhere }
    const { students } = computeResults(sets, [...events, other], [...roster, elsewhere])
    expect(students.map((s) => [sayStudent(s.student), s.right, s.wrong])).toEqual([
      ['Al', 0, 0],
      ['Bo', 1, 1],
      ['Cy', 0, 0],
      ['No name (s1)', 0, 1],
      ['S9', 1, 0],
    ])
  })
  it('open in a spreadsheet as numbers', () => {
    const [, bo] = tableCsv(studentsTable(results, null))
      .split('\r\n')
      .filter((l) => /^.?(Student|Bo)/.test(l))
    expect(bo).toBe('Bo,s1,https://courses.norrhaven.example,1,0,1,0,0,0,2,5,40,1,2026-11-23T10:00:02.000Z')
    expect(tableCsv(questionsTable(results))).toContain('Question q1?,ice,1,1,1\r\n')
  })
  it('never become a formula', () => {
    expect(toCsv([['=1+1', '-2', '@x', 'a,"b"', -2, null]])).toBe('\ufeff\'=1+1,\'-2,\'@x,"a,""b""",-2,\r\n')
  })
})
