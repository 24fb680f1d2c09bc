import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { oneRight } from '../../test/questions'
import type { AnswerEvent, AttemptEvent, SetEvent } from '../schema/attempt'
import type { SetPolicy } from '../schema/questions'
import { canBegin, eventProblem, follow, handedInAt, NO_ATTEMPT, replay, withBegun, type AskedSet } from './attempt'
import { DEFAULT_POLICY } from './policy'
import { newQuestion } from './set'

let n = 0
const at = '2026-11-23T10:00:00.000Z'
const event = (kind: AnswerEvent['kind'], questionId: string, choice: string, more: Partial<AnswerEvent> = {}) =>
  ({ ...{ id: `e${++n}`, kind, questionId, at, answer: { kind: 'one-right', choice } }, ...more }) satisfies AnswerEvent
const step = (kind: SetEvent['kind'], attempt = 1): SetEvent => ({ id: `e${++n}`, kind, attempt, at, version: 'v' })
const asked = (policy: Partial<SetPolicy> = {}): AskedSet => ({
  id: 'set',
  policy: { ...DEFAULT_POLICY, ...policy },
  questions: [oneRight('q1').open, oneRight('q2').open],
})
const received = (events: readonly AttemptEvent[]) =>
  events.map((event, i) => ({ event, receivedAt: `2026-11-23T10:${String(i).padStart(2, '0')}:00.000Z` }))
const made = (events: readonly AttemptEvent[], policy: Partial<SetPolicy> = {}) =>
  replay(received(events), () => asked(policy)).get('set') ?? NO_ATTEMPT
/** What was chosen in each attempt, by question, in brackets where it is only begun. */
const told = (attempts: ReturnType<typeof made>) =>
  attempts.map(({ questions }) =>
    Object.fromEntries(
      [...questions].map(([q, { kind, answer }]) => {
        const choice = answer.kind === 'one-right' ? answer.choice : ''
        return [q, kind === 'answered' ? choice : `(${choice})`]
      }),
    ),
  )
const anyEvents = fc.array(
  fc.record({
    kind: fc.constantFrom('select', 'answer', 'begin', 'hand-in'),
    questionId: fc.constantFrom('q1', 'q2'),
    choice: fc.constantFrom('a', 'b'),
    attempt: fc.constantFrom(1, 2, 3),
    id: fc.integer({ min: 1, max: 14 }).map(String),
  }),
  { maxLength: 16 },
)
const eventsOf = (list: typeof anyEvents extends fc.Arbitrary<infer T> ? T : never): AttemptEvent[] =>
  list.map(({ kind, questionId, choice, attempt, id }) =>
    kind === 'begin' || kind === 'hand-in'
      ? { ...step(kind, attempt), id }
      : event(kind === 'select' ? 'select' : 'answer', questionId, choice, { attempt, id }),
  )
const anyPolicy = fc.record({
  changes: fc.boolean(),
  attempts: fc.record({ most: fc.constantFrom(1, 2, null), counts: fc.constant('best' as const) }),
})

describe('an attempt', () => {
  it('keeps the first answer that was handed in', () => {
    const attempts = made([
      ...[event('select', 'q1', 'b'), event('answer', 'q1', 'b')],
      ...[event('answer', 'q1', 'a'), event('select', 'q1', 'a')],
    ])
    expect(told(attempts)).toEqual([{ q1: 'b' }])
  })
  it('keeps the last one before it is handed in, where answers may be changed', () => {
    const events = [event('answer', 'q1', 'b'), event('answer', 'q1', 'a'), event('select', 'q1', 'b')]
    expect(told(made(events, { changes: true }))).toEqual([{ q1: 'a' }])
    const late = [...events, step('hand-in'), event('answer', 'q1', 'b')]
    expect(told(made(late, { changes: true }))).toEqual([{ q1: 'a' }])
  })
  it('is handed in by hand, or by the last answer there is to give where none can be changed', () => {
    const all = [event('answer', 'q1', 'a'), event('answer', 'q2', 'a')]
    const at = (events: AttemptEvent[], policy: Partial<SetPolicy> = {}) =>
      handedInAt(made(events, policy)[0], asked(policy))
    expect(at(all.slice(0, 1))).toBeNull()
    expect(at(all)).toBe('2026-11-23T10:01:00.000Z')
    expect(at(all, { changes: true })).toBeNull()
    expect(at([...all, step('hand-in')], { changes: true })).toBe('2026-11-23T10:02:00.000Z')
    expect(at([step('hand-in')])).toBe('2026-11-23T10:00:00.000Z')
  })
  it('takes it that a note was read after all is answered', () => {
    const { open } = newQuestion('note', () => 'n')
    const set = { ...asked(), questions: [...asked().questions, open] }
    const attempts = made([event('answer', 'q1', 'a'), event('answer', 'q2', 'a')])
    expect(handedInAt(attempts[0], set)).not.toBeNull()
    const read = { ...event('answer', 'n', ''), answer: { kind: 'note' as const } }
    expect(follow(attempts, { event: read, receivedAt: at }, set).kind).toBe('applied')
    const ended = made([step('hand-in')])
    expect(follow(ended, { event: read, receivedAt: at }, set).kind).toBe('nothing')
  })
  it('asks more when a question was added to the set, where nobody had handed in by hand', () => {
    const attempts = made([event('answer', 'q1', 'a'), event('answer', 'q2', 'a')])
    const grown = { ...asked(), questions: [...asked().questions, oneRight('q3').open] }
    expect(handedInAt(attempts[0], grown)).toBeNull()
    const next = follow(attempts, { event: event('answer', 'q3', 'a'), receivedAt: at }, grown)
    expect(next).toMatchObject({ kind: 'applied' })
  })
  it('follows another only where there are more, and the one before is handed in', () => {
    const several = { attempts: { most: 2, counts: 'best' as const } }
    const first = [event('answer', 'q1', 'a'), step('hand-in')]
    const refused = (events: AttemptEvent[], event: AttemptEvent, policy: Partial<SetPolicy>) => {
      const followed = follow(made(events, policy), { event, receivedAt: at }, asked(policy))
      return followed.kind === 'refused' ? followed.why : followed.kind
    }
    expect(canBegin(made(first, several), asked(several))).toBe(true)
    expect(canBegin(made([], several), asked(several))).toBe(false)
    expect(refused(first, step('begin', 2), {})).toMatch(/cannot begin/)
    expect(refused([], step('begin', 2), several)).toMatch(/cannot begin/)
    expect(refused(first, step('begin', 2), several)).toBe('applied')
    expect(refused(first, event('answer', 'q1', 'b', { attempt: 2 }), several)).toMatch(/not begun/)
    expect(refused(first, event('answer', 'q2', 'b'), several)).toMatch(/handed in before/)
    const both = [...first, step('begin', 2), event('answer', 'q1', 'b', { attempt: 2 })]
    expect(told(made(both, several))).toEqual([{ q1: 'a' }, { q1: 'b' }])
    expect(refused([...both, step('hand-in', 2)], step('begin', 3), several)).toMatch(/cannot begin/)
    expect(refused(both, step('begin', 2), several)).toBe('nothing')
  })
  it('is the same when everything is sent twice', () => {
    fc.assert(
      fc.property(anyEvents, anyPolicy, (list, policy) => {
        const events = eventsOf(list)
        expect(made([...events, ...events], policy)).toEqual(made(events, policy))
        const unique = events.filter((e, i) => events.findIndex((o) => o.id === e.id) === i)
        expect(
          told(
            made(
              unique.flatMap((e) => [e, e]),
              policy,
            ),
          ),
        ).toEqual(told(made(unique, policy)))
      }),
    )
  })
  it('never changes what was handed in, and never loses an answer', () => {
    fc.assert(
      fc.property(anyEvents, anyEvents, anyPolicy, (a, b, policy) => {
        const before = made(eventsOf(a), policy)
        const after = made([...eventsOf(a), ...eventsOf(b)], policy)
        before.forEach((attempt, i) => {
          const later = after[i]
          if (!later) throw new Error('an attempt is gone')
          if (handedInAt(attempt, asked(policy)) !== null) expect(told([later])).toEqual(told([attempt]))
          for (const [question, state] of attempt.questions)
            if (state.kind === 'answered') expect(later.questions.get(question)?.kind).toBe('answered')
        })
      }),
    )
  })
  it('is shown with what is begun, of the attempt that it belongs to', () => {
    const begun = (attempt: number) => ({ q1: { attempt, answer: { kind: 'one-right' as const, choice: 'b' } } })
    expect(told(withBegun(NO_ATTEMPT, begun(1)))).toEqual([{ q1: '(b)' }])
    expect(told(withBegun(NO_ATTEMPT, begun(2)))).toEqual([{}])
    expect(told(withBegun(made([event('answer', 'q1', 'a')]), begun(1)))).toEqual([{ q1: 'a' }])
    expect(told(withBegun(made([step('hand-in')]), begun(1)))).toEqual([{}])
  })
  it('takes only questions and choices there are', () => {
    const questions = [oneRight('q1').open]
    expect(eventProblem(event('answer', 'q1', 'a'), questions)).toBeNull()
    expect(eventProblem(step('hand-in'), questions)).toBeNull()
    expect(eventProblem(event('answer', 'q9', 'a'), questions)).toMatch(/no such question/)
    expect(eventProblem(event('answer', 'q1', 'z'), questions)).toMatch(/no such choice/)
  })
})
