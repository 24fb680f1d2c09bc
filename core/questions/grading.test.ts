import { describe, expect, it } from 'vitest'
import { longerAnswer, oneRight } from '../../test/questions'
import type { GradingEntry } from '../schema/grading'
import { FIRST_ISSUER } from '../course/people'
import { Decisions, earned, gradedAs, gradingByStudent, type Keyed } from './grading'

const student = { issuer: FIRST_ISSUER, subject: 's1' }
let n = 0
const entry = <K extends GradingEntry['kind']>(
  kind: K,
  more: Omit<Extract<GradingEntry, { kind: K }>, 'id' | 'at' | 'student' | 'set' | 'kind'>,
): GradingEntry =>
  ({
    ...{ id: `g${++n}`, at: '2026-11-28T10:00:00.000Z', student, set: 's', kind },
    ...more,
  }) as unknown as GradingEntry
const q = oneRight('q', { a: 'ice', b: 'snow' }, { points: 4 })
const essay = longerAnswer('q')
const wrong = { answer: { kind: 'one-right', choice: 'b' } as const, eventId: 'e1' }
const text = { answer: { kind: 'longer', text: 'Ice creeps.' } as const, eventId: 'e1' }
const about = { attempt: 1, questionId: 'q' }
const judge = (entries: GradingEntry[], keyed: Keyed = q, given: Parameters<typeof earned>[1] = wrong, marks = true) =>
  earned(keyed, given, new Decisions(entries).about('s', 1, 'q'), marks)
const mark = (points: number, answerId = 'e1', comment = 'well seen') =>
  entry('mark', { ...about, answerId, points, rubric: {}, comment })

describe('what a person decided', () => {
  it('takes the place of what the key says, and is taken back', () => {
    expect(judge([])).toMatchObject({ points: 0, share: 0, by: 'key' })
    const given = entry('override', { ...about, points: 3, reason: 'ambiguous' })
    expect(judge([given])).toMatchObject({ points: 3, share: 0.75, by: 'override' })
    expect(judge([given, entry('override', { ...about, points: null, reason: 'no' })])).toMatchObject({ by: 'key' })
    expect(judge([entry('override', { ...about, points: 9, reason: 'more' })])).toMatchObject({ points: 9, share: 1 })
  })
  it('gives points also where nothing was answered, which earns none otherwise', () => {
    expect(judge([], q, null)).toMatchObject({ points: 0, by: 'key' })
    expect(judge([entry('override', { ...about, points: 2, reason: 'on paper' })], q, null)).toMatchObject({
      points: 2,
    })
  })
  it('excuses a question in every attempt, whatever it earned, until it counts again', () => {
    const excuse = entry('excuse', { questionId: 'q', excused: true, reason: 'ill' })
    expect(judge([excuse]).excused).toBe(true)
    expect(new Decisions([excuse]).about('s', 7, 'q').excuse).toBeDefined()
    expect(judge([excuse, entry('excuse', { questionId: 'q', excused: false, reason: 'well' })]).excused).toBe(false)
  })
  it('marks one answer, and not the one that takes its place', () => {
    expect(judge([mark(6)], essay, text)).toMatchObject({ points: 6, share: 0.6, by: 'marker', comment: 'well seen' })
    expect(judge([mark(6), mark(7)], essay, text).points).toBe(7)
    expect(judge([mark(6, 'e0')], essay, text)).toMatchObject({ points: null, by: 'key', comment: '' })
  })
  it('is not told of what a person marks before it is released, whoever gave the points', () => {
    const given = entry('override', { ...about, points: 3, reason: 'x' })
    expect(judge([mark(6)], essay, text, false)).toMatchObject({ points: null, comment: '' })
    expect(judge([given], essay, text, false)).toMatchObject({ points: null })
    expect(judge([given], q, wrong, false)).toMatchObject({ points: 3 })
  })
  it('is released by attempt, and taken back', () => {
    const release = (released: boolean) => entry('release', { attempt: 2, released })
    expect(new Decisions([release(true)]).isReleased('s', 2)).toBe(true)
    expect(new Decisions([release(true)]).isReleased('s', 1)).toBe(false)
    expect(new Decisions([release(true), release(false)]).isReleased('s', 2)).toBe(false)
  })
  it('grades by a changed question what still fits it', () => {
    const changed = { open: q.open, key: { ...q.key, right: 'b' } as typeof q.key }
    expect(gradedAs(q, changed, wrong.answer)).toBe(changed)
    expect(gradedAs(q, essay, wrong.answer)).toBe(q)
    expect(gradedAs(q, oneRight('q', { x: 'new', y: 'other' }), wrong.answer)).toBe(q)
    expect(gradedAs(q, null, wrong.answer)).toBe(q)
  })
  it('holds once, in the order of the server, for each student apart', () => {
    const [a, b] = [mark(1), mark(2)]
    const stored = (seq: number, one: GradingEntry) => ({ seq, receivedAt: one.at, placeId: 'p', entry: one })
    const other = { ...mark(5), student: { issuer: 'https://b.example', subject: 's1' } }
    const all = gradingByStudent([stored(9, b), stored(3, a), stored(9, b), stored(4, other)])
    expect([...all.values()].map((d) => d.about('s', 1, 'q').mark?.points)).toEqual([2, 5])
  })
})
