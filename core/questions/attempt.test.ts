import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { oneRight } from '../../test/questions'
import type { AnswerEvent, AttemptEvent, SetEvent } from '../schema/attempt'
import type { SetPolicy } from '../schema/questions'
import {
  canBegin,
  eventProblem,
  follow,
  GRACE,
  handedInAt,
  NO_ATTEMPT,
  replay,
  takeEvents,
  withBegun,
  type AskedSet,
  type Attempts,
  type TakenEvent,
} from './attempt'
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
  versions: [{ version: 'v', since: '', changes: policy.changes ?? DEFAULT_POLICY.changes }],
})
/** What is taken of events that come one a minute. */
function taken(events: readonly AttemptEvent[], set: AskedSet): TakenEvent[] {
  const held: TakenEvent[] = []
  for (const [i, event] of events.entries()) {
    const receivedAt = `2026-11-23T10:${String(i).padStart(2, '0')}:00.000Z`
    for (const one of takeEvents(held, [event], () => set, receivedAt).taken) held.push({ event: one, receivedAt })
  }
  return held
}
const made = (events: readonly AttemptEvent[], policy: Partial<SetPolicy> = {}): Attempts =>
  replay(taken(events, asked(policy)), () => 'set').get('set') ?? NO_ATTEMPT
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
  it('is what was taken of it, in whole or twice over', () => {
    const events = taken([event('answer', 'q1', 'a'), step('hand-in')], asked())
    expect(replay([...events, ...events], () => 'set')).toEqual(replay(events, () => 'set'))
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
  it('is the same when what was taken is sent again', () => {
    fc.assert(
      fc.property(anyEvents, anyPolicy, (list, policy) => {
        const events = eventsOf(list)
        const again = taken(events, asked(policy)).map(({ event }) => event)
        expect(made([...events, ...again], policy)).toEqual(made(events, policy))
        expect(
          told(
            made(
              again.flatMap((e) => [e, e]),
              policy,
            ),
          ),
        ).toEqual(told(made(again, policy)))
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
  const HOUR = 60 * 60 * 1000
  const start = Date.parse('2026-11-23T08:00:00.000Z')
  const hour = (h: number) => new Date(start + h * HOUR).toISOString()
  /** A set of which each version counts from an hour on, as it is at an hour. */
  const published =
    (...list: { at: number; changes: boolean; most?: number }[]) =>
    (now: number): AskedSet => {
      const known = list.filter(({ at }) => at <= now)
      const { changes = false, most = 1 } = known.at(-1) ?? {}
      return {
        ...asked({ changes, attempts: { most, counts: 'best' } }),
        versions: known.map(({ at, changes }, i) => ({ version: `v${i}`, since: hour(at), changes })),
      }
    }
  /** Lets events come at their hours. @returns what becomes of the last */
  function come(setAt: (now: number) => AskedSet, ...list: [at: number, event: AttemptEvent][]) {
    const held: TakenEvent[] = []
    let last: ReturnType<typeof takeEvents> = { taken: [], refused: [] }
    for (const [at, event] of list) {
      last = takeEvents(held, [event], () => setAt(at), hour(at))
      held.push(...last.taken.map((event) => ({ event, receivedAt: hour(at) })))
    }
    return last.refused[0]?.why ?? (last.taken.length > 0 ? 'taken' : 'nothing')
  }
  it('goes by the version that counts now, whichever one is named', () => {
    const v0 = { version: 'v0' }
    // Answers could be changed, and cannot any more; so it stays when they can be once more.
    const fixed = published({ at: 0, changes: true }, { at: 2, changes: false })
    const [wrong, right] = [event('answer', 'q1', 'b', v0), event('answer', 'q1', 'a', v0)]
    expect(come(fixed, [1, wrong], [1.5, right])).toBe('taken')
    expect(come(fixed, [1, wrong], [3, right])).toBe('nothing')
    const freed = published({ at: 0, changes: true }, { at: 2, changes: false }, { at: 3, changes: true })
    expect(come(freed, [1, wrong], [3.5, { ...right, version: 'v2' }])).toBe('nothing')
    expect(come(freed, [3.2, { ...wrong, version: 'v2' }], [3.5, { ...right, version: 'v2' }])).toBe('taken')
    // Attempts were several, and are one.
    const fewer = published({ at: 0, changes: false, most: 3 }, { at: 2, changes: false, most: 1 })
    const done = { ...step('hand-in'), ...v0 }
    expect(come(fewer, [1, done], [3, { ...step('begin', 2), ...v0 }])).toMatch(/cannot begin/)
    // What was handed in by answering all stays so.
    const all = [event('answer', 'q1', 'a', v0), event('answer', 'q2', 'a', v0)] as const
    expect(come(freed, [2.5, all[0]], [2.6, all[1]], [3.5, { ...right, version: 'v2' }])).toBe('nothing')
  })
  it('takes an older version for a while only, and never after a newer one', () => {
    const set = published({ at: 0, changes: true }, { at: 2, changes: true })
    const old = event('answer', 'q1', 'b', { version: 'v0' })
    const grace = GRACE / HOUR
    expect(come(set, [2 + grace, old])).toBe('taken')
    expect(come(set, [2 + grace + 0.1, old])).toMatch(/Reload the page/)
    expect(come(set, [2 + grace + 0.1, { ...old, version: 'v1' }])).toBe('taken')
    expect(come(set, [2.1, event('answer', 'q2', 'b', { version: 'v1' })], [2.2, old])).toMatch(/Reload the page/)
    expect(come(set, [90, { ...step('hand-in'), version: 'v0' }])).toBe('taken')
  })
  it('passes over the same answer given again, also where it may be changed', () => {
    const set = published({ at: 0, changes: true })
    const give = (choice: string) => event('answer', 'q1', choice, { version: 'v0' })
    expect(come(set, [1, give('a')], [1.1, give('a')])).toBe('nothing')
    expect(come(set, [1, give('a')], [1.1, give('b')])).toBe('taken')
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
