import { describe, expect, it } from 'vitest'
import { FIRST_ISSUER } from '../course/people'
import { DEFAULT_POLICY } from '../questions/policy'
import type { StoredEvent } from '../schema/attempt'
import type { GradedSet } from '../schema/publication'
import type { WatchedSession, WatchedVersion } from '../schema/watching'
import { buildTimeMap } from '../time/time-map'
import { recorded } from '../time/units'
import { oneRight } from '../../test/questions'
import { computeWatching, unreachedAnswers } from './watching'

const student = (subject: string) => ({ issuer: FIRST_ISSUER, subject })
const day = (n: number, minute = 0) => `2026-11-${20 + n}T10:${String(minute).padStart(2, '0')}:00.000Z`
let seq = 0
const sitting = (
  who: string | null,
  played: [number, number][],
  { version = 'v1', until = day(0) } = {},
): WatchedSession => ({
  ...{ seq: ++seq, session: `s${seq}`, student: who === null ? null : student(who), version },
  ...{ from: until, until, played, reached: played.map(([, to]) => [until, to]) },
})
/** 100 s of recording as they are, and with a title card of 10 s before and 20–40 s taken out. */
const whole: WatchedVersion = { version: 'v1', duration: 100, kept: [{ from: 0, to: 100, at: 0 }] }
const cut: WatchedVersion = {
  ...{ version: 'v2', duration: 90 },
  kept: [
    { from: 0, to: 20, at: 10 },
    { from: 40, to: 100, at: 30 },
  ],
}
const unplaced: WatchedVersion = { version: 'v0', duration: 100, kept: null }
const versions = [whole, cut, unplaced]
const map = (removed: [number, number][] = [], insertAt?: number) =>
  buildTimeMap(
    recorded(100),
    removed.map(([from, to]) => ({ from: recorded(from), to: recorded(to) })),
    insertAt === undefined ? [] : [{ id: 'card', at: recorded(insertAt), length: 10 }],
  )
const round = (x: number | null) => (x === null ? null : Math.round(100 * x) / 100)

describe('what was watched', () => {
  it('is of people, each once, and of plays, as often as it played', () => {
    const sessions = [
      sitting('a', [
        [0, 50],
        [20, 50],
      ]),
      sitting('a', [[40, 100]], { until: day(1) }),
      sitting('b', [[0, 25]]),
    ]
    const { students, curve, left, days, sums } = computeWatching({ sessions, versions }, map(), 10)
    expect(students.map((s) => [s.student.subject, s.seconds, s.share, s.total, s.sittings, s.lastAt])).toEqual([
      ['a', 100, 1, 140, 2, day(1)],
      ['b', 25, 0.25, 25, 1, day(0)],
    ])
    expect(curve.map((c) => [c.people, c.plays].map(round))).toEqual([
      ...[
        [2, 2],
        [2, 2],
        [1.5, 2.5],
        [1, 2],
        [1, 3],
      ],
      ...Array.from({ length: 5 }, () => [1, 1]),
    ])
    expect(left).toEqual([0, 0, 1, 0, 0, 0, 0, 0, 0, 0])
    expect(days.map((d) => [d.day, d.people, round(d.hours)])).toEqual([
      ['2026-11-20', 2, round(105 / 3600)],
      ['2026-11-21', 1, round(60 / 3600)],
    ])
    expect(sums).toBe(false)
  })
  it('stands in the time of the present edit, whatever edit was watched', () => {
    // 30 s of the second version are what was recorded at 40 s.
    const sessions = [sitting('a', [[0, 40]], { version: 'v2' }), sitting('b', [[0, 50]])]
    const { students, elsewhere, curve } = computeWatching({ sessions, versions }, map([[0, 10]]), 9)
    expect(students.map((s) => s.once)).toEqual([
      [
        [0, 10],
        [30, 40],
      ],
      [[0, 40]],
    ])
    // Ten seconds of each are taken out now; the title card was never recorded.
    expect(elsewhere).toBe(20)
    expect(curve.slice(0, 5).map((c) => round(c.people))).toEqual([2, 1, 1, 2, 0])
  })
  it('is all of a lecture, where all that was recorded was seen', () => {
    const at = computeWatching({ sessions: [sitting('a', [[0, 100]])], versions }, map([], 50), 11)
    expect(at.students[0]?.share).toBe(1)
    expect(at.left.every((n) => n === 0)).toBe(true)
    expect(at.curve.map((c) => c.people)).toEqual([1, 1, 1, 1, 1, null, 1, 1, 1, 1, 1].map((x) => x && 1))
    const closing = computeWatching({ sessions: [sitting('a', [[0, 100]])], versions }, map([], 100), 11)
    expect([closing.students[0]?.share, closing.left.some((n) => n > 0)]).toEqual([1, false])
  })
  it('is not made up where a version cannot be placed, or where nothing is left of the lecture', () => {
    const lost = [sitting('a', [[0, 50]], { version: 'v0' }), sitting('a', [[0, 10]], { version: 'gone' })]
    const at = computeWatching({ sessions: lost, versions }, map(), 10)
    expect([at.students[0]?.seconds, at.elsewhere]).toEqual([0, 60])
    const none = computeWatching({ sessions: [sitting('a', [[0, 50]])], versions }, map([[0, 100]]), 10)
    expect([none.students[0]?.share, none.elsewhere, none.curve.every((c) => c.people === null)]).toEqual([0, 50, true])
  })
  it('is of nobody where only sums are kept', () => {
    const at = computeWatching({ sessions: [sitting(null, [[0, 50]]), sitting(null, [[0, 50]])], versions }, map(), 2)
    expect([at.students, at.sums, at.curve.map((c) => c.plays)]).toEqual([[], true, [2, 0]])
  })
})

describe('an answer that watching cannot have reached', () => {
  const set = (ahead: boolean): GradedSet => ({
    ...{ version: 'set1', id: 'set', title: 'Questions', publishedAt: day(0), keys: [oneRight('q').key] },
    policy: { ...DEFAULT_POLICY, ahead },
    checkpoints: [{ id: 'c', at: 60, questions: [oneRight('q').open] }],
  })
  const answered = (who: string, minute: number): StoredEvent => ({
    ...{ seq: ++seq, receivedAt: day(0, minute), placeId: 'p', student: student(who) },
    event: {
      ...{ id: `e-${who}`, kind: 'answer', at: day(0, minute), version: 'set1', questionId: 'q' },
      answer: { kind: 'one-right', choice: 'a' },
    },
  })
  const found = (sessions: WatchedSession[], ahead = false) =>
    unreachedAnswers(
      { sets: [set(ahead)], events: ['early', 'right', 'never'].map((who) => answered(who, 10)) },
      sessions,
    ).map((a) => [a.student.subject, a.at, a.reached])
  const sessions = [
    sitting('early', [[0, 20]], { until: day(0, 9) }),
    sitting('early', [[20, 90]], { until: day(0, 30) }),
    // Said a little later than the answer, as it waited for its turn.
    sitting('right', [[0, 60]], { until: day(0, 11) }),
  ]
  it('is told, with how far watching had come', () => {
    expect(found(sessions)).toEqual([
      ['early', 60, 20],
      ['never', 60, 0],
    ])
  })
  it('is nothing where jumping ahead is allowed, or where nobody is told from another', () => {
    expect(found(sessions, true)).toEqual([])
    expect(found([...sessions, sitting(null, [[0, 20]])])).toEqual([])
  })
})
