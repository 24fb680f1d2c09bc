import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { FIRST_ISSUER } from '../course/people'
import { parseAs } from '../schema/validate'
import { extensions, WatchStatement, type ReceivedStatement } from '../schema/watching'
import {
  formatStretches,
  lengthOf,
  parseStretches,
  PlayedStretches,
  foldStatements,
  reachedIn,
  sessionsOf,
  unionOf,
  watchStatement,
  type Stretch,
} from './played'

describe('stretches', () => {
  it('are written as the video profile has them, and read again', () => {
    const played: Stretch[] = [
      [0, 12.5],
      [30, 45.1234],
      [3, 4],
    ]
    expect(formatStretches(played)).toBe('0[.]12.5[,]30[.]45.123[,]3[.]4')
    expect(parseStretches(formatStretches(played))).toEqual([
      [0, 12.5],
      [30, 45.123],
      [3, 4],
    ])
    expect(parseStretches('')).toEqual([])
    expect(parseStretches('5[.]2[,][.]3[,]1[.]x[,]7[.]8')).toEqual([[7, 8]])
  })
  it('join where they overlap', () => {
    const all: Stretch[] = [
      [10, 20],
      [0, 5],
      [5, 7],
      [12, 15],
      [19, 22],
    ]
    expect(unionOf(all)).toEqual([
      [0, 7],
      [10, 22],
    ])
    expect(lengthOf(unionOf(all))).toBe(19)
    expect(all[0]).toEqual([10, 20])
  })
})

describe('what played', () => {
  /** Plays in steps of a quarter second. @returns the clock after, ms */
  const play = (p: PlayedStretches, [from, to]: Stretch, now: number, speed = 1) => {
    p.begin(from, now)
    for (let t = from; t <= to + 1e-9; t += 0.25 * speed) p.go(t, (now += 250), speed)
    return now
  }
  it('is told from what was only jumped over', () => {
    const p = new PlayedStretches()
    const now = play(p, [0, 10], 0)
    // Moved by something that nobody heard of.
    p.go(300, now + 250, 1)
    p.go(302, now + 2250, 1)
    p.end()
    expect(p.all()).toEqual([
      [0, 10],
      [300, 302],
    ])
  })
  it('grows as fast as the film plays, also three times as fast', () => {
    const p = new PlayedStretches()
    play(p, [0, 60], 0, 3)
    p.end()
    expect(lengthOf(p.all())).toBeCloseTo(60)
  })
  it('goes on after a pause as one stretch, and again where it is watched again', () => {
    const p = new PlayedStretches()
    let now = play(p, [0, 10], 0)
    p.end()
    now = play(p, [10.1, 20], now + 60_000)
    p.end()
    play(p, [5, 8], now)
    p.end()
    expect(p.all().map((s) => s.map(Math.round))).toEqual([
      [0, 20],
      [5, 8],
    ])
  })
  it('is nothing while it stands, and is bounded however often somebody jumps', () => {
    const p = new PlayedStretches()
    p.begin(5, 0)
    p.go(5, 60_000, 1)
    p.end()
    expect(p.all()).toEqual([])
    let now = 0
    for (let i = 0; i < 3000; i++) {
      now = play(p, [10 * i, 10 * i + 1], now)
      p.end()
    }
    expect(p.all().length).toBeLessThanOrEqual(800)
    expect(formatStretches(p.all()).length).toBeLessThan(20_000)
  })
})

const sitting = {
  ...{ placeId: 'p', version: 'v1', length: 100 },
  session: '11111111-2222-4333-8444-555555555555',
}
const idOf = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`
const at = (minute: number) => `2026-11-23T10:${String(minute).padStart(2, '0')}:00.000Z`

describe('a statement', () => {
  it('of every verb is one that the server takes', () => {
    const played: Stretch[] = [
      [0, 10],
      [5, 40],
    ]
    for (const verb of ['initialized', 'played', 'paused', 'seeked', 'completed', 'terminated'] as const) {
      const result = verb === 'seeked' ? { from: 2, to: 1e9 } : { time: 40, ...(verb !== 'played' && { played }) }
      const made = watchStatement(sitting, verb, result, { id: idOf(1), at: at(0) })
      expect(() => parseAs(WatchStatement, JSON.parse(JSON.stringify(made)), 'statement')).not.toThrow()
      expect(made.result === undefined).toBe(verb === 'initialized')
    }
    const { result } = watchStatement(sitting, 'completed', { time: 40, played }, { id: idOf(1), at: at(0) })
    expect(result).toMatchObject({ completion: true, extensions: { [extensions.progress]: 0.4 } })
  })
  it('that says what nobody can read is not', () => {
    const made = watchStatement(sitting, 'paused', { time: 1, played: [[0, 1]] }, { id: idOf(1), at: at(0) })
    for (const text of ['0[.]', '0[.]1[,]', 'a[.]b', '0.1', '0[.]123456', '0[.]1 '])
      expect(() =>
        parseAs(WatchStatement, { ...made, result: { extensions: { [extensions.segments]: text } } }, 'statement'),
      ).toThrow()
    expect(() => parseAs(WatchStatement, { ...made, actor: { name: 'S' } }, 'statement')).toThrow()
  })
})

describe('sittings', () => {
  const student = { issuer: FIRST_ISSUER, subject: 's1' }
  const received = (seq: number, minute: number, played: Stretch[], more: Partial<typeof sitting> = {}) => {
    const statement = watchStatement(
      { ...sitting, ...more },
      'paused',
      { time: played.at(-1)?.[1] ?? 0, played },
      { id: idOf(seq), at: at(minute) },
    )
    return { seq, receivedAt: at(minute), placeId: 'p', student, statement } satisfies ReceivedStatement & {
      seq: number
    }
  }
  it('are each as their last statement has it, whatever order the statements came in', () => {
    const first = received(1, 0, [[0, 10]])
    const late = received(3, 9, [[0, 5]])
    const second = received(2, 1, [[0, 30]])
    const other = received(4, 20, [[50, 60]], { session: '99999999-2222-4333-8444-555555555555', version: 'v2' })
    expect(sessionsOf([late, other, second, first])).toEqual([
      {
        ...{ seq: 3, session: sitting.session, student, version: 'v1', from: at(0), until: at(9), played: [[0, 30]] },
        reached: [
          [at(0), 10],
          [at(1), 30],
        ],
      },
      expect.objectContaining({ version: 'v2', played: [[50, 60]] }),
    ])
  })
  it('are each of one person: nobody changes another’s by knowing its session', () => {
    const other = { ...received(2, 1, [[0, 90]]), student: { ...student, subject: 's2' } }
    expect(sessionsOf([received(1, 0, [[0, 10]]), other]).map((s) => [s.student?.subject, s.played])).toEqual([
      ['s1', [[0, 10]]],
      ['s2', [[0, 90]]],
    ])
  })
  it('are told by a few of their statements as by all of them', () => {
    const one = fc.record({
      session: fc.constantFrom('1', '2', '3'),
      played: fc.array(fc.tuple(fc.nat(90), fc.integer({ min: 1, max: 20 })), { maxLength: 4 }),
      subject: fc.constantFrom('s1', 's2'),
    })
    fc.assert(
      fc.property(fc.array(one, { maxLength: 60 }), (list) => {
        const all = list.map(({ session, played, subject }, i) => ({
          ...received(
            i + 1,
            i,
            played.map(([from, long]): Stretch => [from, from + long]),
            { session: `${session.repeat(8)}-2222-4333-8444-555555555555` },
          ),
          student: { ...student, subject },
        }))
        const few = foldStatements(all)
        const told = (of: typeof all) => sessionsOf(of).map(({ reached, ...s }) => ({ ...s, reached: reached.at(-1) }))
        expect(told(few)).toEqual(told(all))
        expect(reachedIn(few)).toBe(reachedIn(all))
        expect(few.length).toBeLessThanOrEqual(6 * 11)
        const later = [...few, ...all.slice(-1).map((s) => ({ ...s, seq: 99 }))]
        expect(told(foldStatements(later))).toEqual(told([...all, ...later.slice(few.length)]))
      }),
    )
  })
})
