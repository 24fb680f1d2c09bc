import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { FIRST_ISSUER, sayStudent } from '../course/people'
import type { AttemptEvent, StoredEvent } from '../schema/attempt'
import type { Checkpoint } from '../schema/questions'
import { recorded } from '../time/units'
import { computeResults } from '../results/results'
import { questionsCsv, studentsCsv, toCsv } from '../results/csv'
import { attemptState, eventProblem, report } from './attempt'
import { oneRight } from '../../test/questions'
import { grade } from './grade'
import { checkpointProblems, newCheckpoint, newQuestionSet, questionProblems, readQuestionSet } from './set'
import { DEFAULT_POLICY } from './upgrade'

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
const event = (kind: AttemptEvent['kind'], questionId: string, choice: string, id = `e${++n}`): AttemptEvent => ({
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

describe('an attempt', () => {
  const events = fc.array(
    fc
      .record({
        kind: fc.constantFrom('select' as const, 'answer' as const),
        questionId: fc.constantFrom('q1', 'q2'),
        answer: fc.constantFrom('a', 'b').map((choice) => ({ kind: 'one-right' as const, choice })),
        id: fc.constantFrom('1', '2', '3', '4', '5', '6'),
      })
      .map((e) => ({ ...e, at: '2026-11-23T10:00:00.000Z' })),
    { maxLength: 12 },
  )

  it('keeps the first answer that was handed in', () => {
    const state = attemptState([
      event('select', 'q1', 'b'),
      event('answer', 'q1', 'b'),
      event('answer', 'q1', 'a'),
      event('select', 'q1', 'a'),
    ])
    expect(state.get('q1')).toMatchObject({ kind: 'handed-in', answer: { choice: 'b' } })
  })
  it('is the same when everything is sent twice', () => {
    fc.assert(
      fc.property(events, (list) => {
        expect(attemptState([...list, ...list])).toEqual(attemptState(list))
        expect(attemptState(list.flatMap((e) => [e, e]))).toEqual(attemptState(list))
      }),
    )
  })
  it('never takes an answer back', () => {
    fc.assert(
      fc.property(events, events, (before, after) => {
        for (const [question, state] of attemptState(before))
          if (state.kind === 'handed-in') expect(attemptState([...before, ...after]).get(question)).toEqual(state)
      }),
    )
  })
  it('tells nothing of the key before it is handed in', () => {
    const { open: question, key } = only(checkpoint('q1'))
    for (const state of [undefined, attemptState([event('select', 'q1', 'a')]).get('q1')]) {
      const text = JSON.stringify(report(state, DEFAULT_POLICY, question, key))
      expect(text).not.toMatch(/because|"right"/)
    }
    const handedIn = attemptState([event('answer', 'q1', 'c')]).get('q1')
    expect(report(handedIn, { feedback: 'none' }, question, key)).toEqual({
      kind: 'taken',
      answer: { kind: 'one-right', choice: 'c' },
    })
    expect(report(handedIn, DEFAULT_POLICY, question, key)).toEqual({
      kind: 'handed-in',
      answer: { kind: 'one-right', choice: 'c' },
      share: 0,
      points: 0,
      key,
    })
  })
  it('takes only questions and choices there are', () => {
    const questions = [only(checkpoint('q1')).open]
    expect(eventProblem(event('answer', 'q1', 'a'), questions)).toBeNull()
    expect(eventProblem(event('answer', 'q9', 'a'), questions)).toMatch(/no such question/)
    expect(eventProblem(event('answer', 'q1', 'z'), questions)).toMatch(/no such choice/)
  })
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
    const before = { ...newQuestionSet('x'), version: 2, checkpoints: [{ id: 'cp', at: 3, question, key }] }
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
  const published = (version: string, list: Checkpoint[], id = 'set') => ({
    version,
    id,
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
    const [, bo] = studentsCsv(results)
      .split('\r\n')
      .filter((l) => /^.?(Student|Bo)/.test(l))
    expect(bo).toBe('Bo,s1,https://courses.norrhaven.example,1,0,1,0,0,2,5,40,2026-11-23T10:00:02.000Z')
    expect(questionsCsv(results)).toContain('Question q1?,ice,1,1,1\r\n')
  })
  it('never become a formula', () => {
    expect(toCsv([['=1+1', '-2', '@x', 'a,"b"', -2, null]])).toBe('\ufeff\'=1+1,\'-2,\'@x,"a,""b""",-2,\r\n')
  })
})
