import { describe, expect, it } from 'vitest'
import { longerAnswer, oneRight } from '../../test/questions'
import type { AttemptEvent } from '../schema/attempt'
import type { GradingEntry } from '../schema/grading'
import type { SetPolicy, ToldFrom } from '../schema/questions'
import { richOf } from '../text/rich-text'
import { NO_ATTEMPT, replay } from './attempt'
import { Decisions, type Keyed } from './grading'
import { newQuestion } from './set'
import { countedPoints, DEFAULT_POLICY, isTold } from './policy'
import { policyPresets, policyProblems } from './policy-presets'
import { sayRules } from './say-rules'
import { standingAt, type KeyedSet } from './standing'

const q1 = oneRight('q1', { a: 'ice', b: 'snow' }, { explanation: 'because', points: 2 })
const q2 = oneRight('q2', { a: 'ice', b: 'snow' }, { explanation: 'because', points: 3 })
const keyed = (policy: Partial<SetPolicy>, questions: Keyed[] = [q1, q2], version = 'v1'): KeyedSet => ({
  ...{ version, id: 'set', title: 'Set' },
  policy: { ...DEFAULT_POLICY, ...policy },
  checkpoints: questions.map(({ open }, i) => ({ id: `c${i}`, at: 10 * i, questions: [open] })),
  keys: questions.map((q) => q.key),
})
let n = 0
const base = (attempt: number, version = 'v1') => ({ id: `e${++n}`, at: '2026-11-23T10:00:00.000Z', attempt, version })
const answer = (questionId: string, choice: string, attempt = 1, version?: string): AttemptEvent => ({
  ...{ ...base(attempt, version), kind: 'answer', questionId },
  answer: { kind: 'one-right', choice },
})
const handIn = (attempt = 1): AttemptEvent => ({ ...base(attempt), kind: 'hand-in' })
const begin = (attempt: number): AttemptEvent => ({ ...base(attempt), kind: 'begin' })

const DAY = '2026-12-01T00:00:00.000Z'
function standing(
  set: KeyedSet,
  events: AttemptEvent[],
  now = '2026-11-24T00:00:00.000Z',
  earlier: KeyedSet[] = [],
  entries: GradingEntry[] = [],
) {
  const taken = events.map((event) => ({ event, receivedAt: event.at }))
  const attempts = replay(taken, () => 'set').get('set') ?? NO_ATTEMPT
  return standingAt(set, attempts, {
    ...{ who: 'w', now, earlier: new Map(earlier.map((s) => [s.version, s])) },
    decisions: new Decisions(entries),
  })
}
const reports = (at: ReturnType<typeof standing>) => at.checkpoints.flatMap((c) => c.questions.map((q) => q.report))
const first = (set: KeyedSet, events: AttemptEvent[], now?: string) => reports(standing(set, events, now))[0]
/** Whether a report tells what an author wrote as the key. */
const tells = (report: unknown) => /because|"right"/.test(JSON.stringify(report))

describe('a student is told', () => {
  it('nothing of a key before an answer is final, whatever the policy', () => {
    for (const from of ['answered', 'handed-in', 'marked', 'never', { date: '2020-01-01T00:00:00.000Z' }] as ToldFrom[])
      for (const changes of [true, false]) {
        const set = keyed({ changes, feedback: from, score: from, solutions: from })
        expect(tells(reports(standing(set, [])))).toBe(false)
        const one = standing(set, [answer('q1', 'b')])
        expect(tells(reports(one)[1])).toBe(false)
        if (changes) expect(tells(reports(one)[0])).toBe(false)
      }
  })
  it('each thing from when the policy says', () => {
    const when = (from: ToldFrom, events: AttemptEvent[], now?: string, changes = false) => {
      const report = first(keyed({ changes, feedback: from, score: from, solutions: from }), events, now)
      if (report?.kind !== 'answered') throw new Error('not answered')
      const { feedback, score, solution } = report
      const told = [feedback, score, solution].map((x) => x !== null)
      expect(new Set(told).size).toBe(1)
      return told[0]
    }
    const [one, both] = [[answer('q1', 'a')], [answer('q1', 'a'), answer('q2', 'b')]]
    expect([when('answered', one), when('answered', one, undefined, true)]).toEqual([true, false])
    expect([when('handed-in', one), when('handed-in', both), when('handed-in', [...one, handIn()])]).toEqual([
      ...[false, true, true],
    ])
    expect(when('answered', [...one, handIn()], undefined, true)).toBe(true)
    expect([when({ date: DAY }, both), when({ date: DAY }, both, DAY), when({ date: DAY }, one, DAY)]).toEqual([
      ...[false, true, false],
    ])
    expect(when('never', both, DAY)).toBe(false)
  })
  it('apart whether it is right, the points, and what is right', () => {
    const told = first(keyed({ solutions: 'never' }), [answer('q1', 'b')])
    expect(told).toMatchObject({ feedback: { share: 0 }, score: { points: 0 }, solution: null })
    const silent = first(keyed({ feedback: 'never', solutions: 'never' }), [answer('q1', 'a')])
    expect(silent).toMatchObject({ feedback: null, score: { points: 2 }, solution: null })
    // Why it is right is told with whether it is.
    const key = first(keyed({ feedback: 'never' }), [answer('q1', 'b')])
    expect(key).toMatchObject({ feedback: null, solution: { kind: 'one-right', right: 'a', lookAt: null } })
    expect(JSON.stringify(key)).not.toMatch(/because/)
  })
  it('nothing “after marking” while a longer answer is not marked', () => {
    const { open, key } = newQuestion('longer', () => `i${++n}`)
    const set = keyed({ feedback: 'marked', score: 'marked' })
    const longer: KeyedSet = {
      ...set,
      checkpoints: [...set.checkpoints, { id: 'c9', at: 90, questions: [open] }],
      keys: [...set.keys, key],
    }
    const written: AttemptEvent = {
      ...{ ...base(1), kind: 'answer', questionId: open.id },
      answer: { kind: 'longer', text: 'so' },
    }
    const events = [answer('q1', 'a'), answer('q2', 'a')]
    expect(first(set, events)).toMatchObject({ feedback: { share: 1 } })
    expect(first(longer, [...events, written])).toMatchObject({ feedback: null, score: null })
  })
  it('what a marker says once it is released, and not before', () => {
    const [asked, marks] = [longerAnswer('q9'), { id: 'w', points: 7 }]
    const { open } = asked
    for (const from of ['answered', 'marked'] as ToldFrom[]) {
      const set = keyed({ feedback: from, score: from }, [asked, q1])
      const written: AttemptEvent = {
        ...{ ...base(1), id: 'w', kind: 'answer', questionId: open.id },
        answer: { kind: 'longer', text: 'so' },
      }
      const events = [written, answer('q1', 'a')]
      const common = { at: DAY, student: { issuer: 'i', subject: 's' }, set: 'set', attempt: 1 }
      const mark: GradingEntry = {
        ...{ ...common, ...marks, kind: 'mark', questionId: open.id, answerId: 'w' },
        ...{ rubric: {}, comment: 'well seen' },
      }
      const release: GradingEntry = { ...common, id: 'r', kind: 'release', released: true }
      const before = standing(set, events, undefined, [], [mark])
      expect(JSON.stringify(before)).not.toMatch(/well seen|"points":7/)
      expect(before.set).toMatchObject({ counted: null, attempts: [{ points: null }] })
      const after = standing(set, events, undefined, [], [mark, release])
      expect(reports(after)[0]).toMatchObject({
        feedback: { share: 0.7, comment: 'well seen' },
        score: { points: 7, excused: false },
      })
      expect(after.set).toMatchObject({ counted: 9, possible: 12 })
    }
  })
  it('points that were given, and what does not count, also of what was never answered', () => {
    const common = { at: DAY, student: { issuer: 'i', subject: 's' }, set: 'set', reason: 'x' }
    const at = standing(
      keyed({}),
      [answer('q1', 'b'), handIn()],
      undefined,
      [],
      [
        { ...common, id: 'o', kind: 'override', attempt: 1, questionId: 'q2', points: 2 },
        { ...common, id: 'x', kind: 'excuse', questionId: 'q1', excused: true },
      ],
    )
    expect(reports(at)).toMatchObject([
      { kind: 'answered', score: { excused: true } },
      { kind: 'unanswered', score: { points: 2, excused: false } },
    ])
    expect(at.set).toMatchObject({ possible: 3, counted: 2 })
  })
  it('how attempts stand, and the points that count', () => {
    const set = keyed({ attempts: { most: 3, counts: 'best' } })
    const events = [answer('q1', 'a'), answer('q2', 'b'), begin(2), answer('q1', 'b', 2), answer('q2', 'a', 2)]
    const { set: stands } = standing(set, events)
    expect(stands.attempts.map((a) => a.points)).toEqual([2, 3])
    expect(stands).toMatchObject({ counted: 3, possible: 5, canBegin: true })
    const open = standing(set, [...events, begin(3)])
    expect(open.set).toMatchObject({ counted: 3, canBegin: false })
    expect(open.set.attempts.at(-1)).toMatchObject({ number: 3, handedInAt: null, points: null })
    expect(reports(open).map((r) => r.kind)).toEqual(['unanswered', 'unanswered'])
  })
  it('by the version that was answered', () => {
    const before = keyed({}, [oneRight('q1', { a: 'ice', b: 'snow' }, { right: 'b', points: 1 }), q2], 'v0')
    const at = standing(keyed({}), [answer('q1', 'b', 1, 'v0'), answer('q2', 'a')], undefined, [before])
    expect(reports(at)[0]).toMatchObject({ score: { points: 1 }, solution: { right: 'b' } })
    expect(at.set.attempts[0]?.points).toBe(4)
  })
})

describe('a policy', () => {
  it('counts the attempts that it says', () => {
    const points = [4, 1, 2.5]
    expect((['best', 'first', 'last', 'mean'] as const).map((counts) => countedPoints(points, counts))).toEqual([
      ...[4, 4, 2.5, 2.5],
    ])
    expect(countedPoints([], 'best')).toBeNull()
  })
  it('says what a student should know, and nothing where there is nothing', () => {
    const say = (policy: Partial<SetPolicy>) => sayRules({ ...DEFAULT_POLICY, ...policy }, () => 'the 1st').join(' ')
    expect(say({})).toBe('')
    expect(say({ attempts: { most: 3, counts: 'last' } })).toBe('You have 3 attempts. The last counts.')
    expect(say({ attempts: { most: null, counts: 'mean' } })).toMatch(/as many attempts as you like\. The mean/)
    expect(say({ changes: true })).toMatch(/change your answers .* told when you have handed in whether you are right/)
    expect(say({ solutions: { date: DAY } })).toMatch(/at once whether .* points; from the 1st what is right\./)
    expect(say({ feedback: 'never', score: 'never', solutions: 'never' })).toMatch(/not told here/)
    expect(say({ putOff: false, ahead: false })).toMatch(/answered before .* cannot jump ahead/)
  })
  it('is warned of where it gives the answers away', () => {
    const problems = (policy: Partial<SetPolicy>) => policyProblems({ ...DEFAULT_POLICY, ...policy })
    expect(problems({})).toEqual([])
    expect(problems({ attempts: { most: 2, counts: 'best' } })[0]).toMatch(/before their next attempt/)
    expect(problems({ changes: true })[0]).toMatch(/means then/)
    for (const { id, rules } of policyPresets.filter((p) => p.id !== 'practice'))
      expect([id, policyProblems({ welcome: richOf(''), ...rules })]).toEqual([id, []])
  })
  it('tells nothing from a date that is not over', () => {
    const all = { final: true, handedIn: true, marked: true }
    expect(isTold({ date: DAY }, all, '2026-11-30T23:59:59.999Z')).toBe(false)
    expect(isTold({ date: DAY }, all, DAY)).toBe(true)
  })
})
