/**
 * What a student can get at a set that is published anew again and again: random versions, policies and kinds, and a
 * student who names any version, answers in any order and looks in between.
 */
import { createHash } from 'node:crypto'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import equal from 'fast-deep-equal'
import fc from 'fast-check'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { WatchView } from '#core/packages/watch-view'
import { GRACE } from '#core/questions/attempt'
import { DEFAULT_POLICY } from '#core/questions/policy'
import { isAnswerEvent } from '#core/schema/attempt'
import type { SetUpload } from '#core/schema/publication'
import type { Answer, OpenQuestion, QuestionKey, SetPolicy, ToldFrom } from '#core/schema/questions'
import { richOf } from '#core/text/rich-text'
import { openFileStore } from '../store/files'
import { placeOf, publication, setOf } from '../../test/publication'
import { longerAnswer, oneRight } from '../../test/questions'
import * as publications from './publications'
import { answersOf, keepEvents, sortEvents } from './responses'
import { setStore } from './storage'
import { watchView } from './watch'

let folder: string
let close: () => Promise<void>
beforeEach(async () => {
  vi.useFakeTimers({ toFake: ['Date'] })
  folder = await mkdtemp(join(tmpdir(), 'thaw-rules-'))
})
afterEach(async () => {
  vi.useRealTimers()
  await close()
  await rm(folder, { recursive: true })
})

const student = { issuer: 'https://site.example', subject: 's' }
const session = { student, until: 4_000_000_000 } as Parameters<typeof watchView>[2]
const film = new Uint8Array(100)
const SET = setOf('p', '', []).set.id || publication('p', '', 5, { size: 1, parts: [] }, []).sets[0].set.id
const MINUTE = 60_000
/** Whoever began then may see any wording. */
const LONG_AGO = '2026-11-01T00:00:00.000Z'

type Kind = 'one-right' | 'true-false' | 'longer' | 'note'
const kinds: Record<string, Kind> = { q1: 'one-right', q2: 'true-false', q3: 'longer', q4: 'note', q5: 'one-right' }

/** A question whose key holds its own name, and that of its version, wherever a key has words. */
function question(id: string, version: number, right: boolean): { open: OpenQuestion; key: QuestionKey } {
  const explanation = richOf(`KEY ${id} ${version}`)
  const common = {
    open: { id, prompt: richOf('?'), hint: richOf('') },
    key: { questionId: id, explanation, lookAt: 3 },
  }
  const kind = kinds[id]
  if (kind === 'true-false')
    return { open: { ...common.open, kind, points: 1 }, key: { ...common.key, kind, right } } as never
  if (kind === 'note') return { open: { ...common.open, kind, points: 0 }, key: { ...common.key, kind } } as never
  if (kind === 'longer') {
    const { open, key } = longerAnswer(id)
    return { open, key: { ...key, explanation, model: `KEY ${id}` } }
  }
  const { open, key } = oneRight(id, undefined, { right: right ? 'a' : 'b' })
  return { open, key: { ...key, explanation } }
}
const answerTo = (id: string, yes: boolean): Answer => {
  const kind = kinds[id]
  if (kind === 'true-false') return { kind, value: yes } as never
  if (kind === 'longer') return { kind, text: yes ? 'so' : 'or so' }
  if (kind === 'note') return { kind }
  return { kind: 'one-right', choice: yes ? 'a' : 'b' }
}
const uploadOf = (version: number, policy: SetPolicy, asked: Record<string, boolean>): SetUpload => {
  const made = Object.entries(asked).map(([id, right]) => question(id, version, right))
  const upload = setOf('p', SET, [])
  return {
    set: {
      ...{ ...upload.set, policy },
      checkpoints: made.map(({ open }, i) => ({ id: `c${open.id}`, at: i, questions: [open] })),
    },
    keys: { ...upload.keys, keys: made.map((m) => m.key) },
  }
}

const told = fc.constantFrom<ToldFrom>('answered', 'handed-in', 'marked', 'never', { date: '2026-12-02T00:00:00.000Z' })
const policies = fc.record({
  changes: fc.boolean(),
  most: fc.constantFrom(1, 2, null),
  ...{ feedback: told, score: told, solutions: told },
})
const sets = fc.dictionary(fc.constantFrom(...Object.keys(kinds)), fc.boolean(), { minKeys: 1 })
const which = fc.nat(5)
const step = fc.oneof(
  { weight: 2, arbitrary: fc.record({ do: fc.constant('publish' as const), policy: policies, set: sets }) },
  {
    weight: 8,
    arbitrary: fc.record({
      do: fc.constantFrom('answer' as const, 'select' as const),
      ...{
        question: fc.constantFrom(...Object.keys(kinds)),
        yes: fc.boolean(),
        attempt: fc.integer({ min: 1, max: 3 }),
      },
      version: which,
    }),
  },
  {
    weight: 3,
    arbitrary: fc.record({
      do: fc.constantFrom('begin' as const, 'hand-in' as const),
      ...{ attempt: fc.integer({ min: 1, max: 3 }), version: which },
    }),
  },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('wait' as const), minutes: fc.constantFrom(1, 50, 130, 3000) }) },
)

it('gives no key before its time, no point by a rule that is over, and no attempt too many', async () => {
  let run = 0
  await fc.assert(
    fc.asyncProperty(policies, sets, fc.array(step, { minLength: 4, maxLength: 24 }), async (policy, set, steps) => {
      await close?.()
      const store = await openFileStore({ folder: join(folder, String(++run)), log: () => undefined })
      close = () => store.close()
      setStore(store)
      await walk(policy, set, steps)
    }),
    { numRuns: 60 },
  )
}, 120_000)

type Rules = { changes: boolean; most: number | null; feedback: ToldFrom; score: ToldFrom; solutions: ToldFrom }
const policyOf = ({ most, ...rules }: Rules): SetPolicy => ({
  ...{ ...DEFAULT_POLICY, ...rules },
  attempts: { most, counts: 'best' },
})

async function walk(
  first: Rules,
  asked: Record<string, boolean>,
  steps: readonly (typeof step extends fc.Arbitrary<infer S> ? S : never)[],
): Promise<void> {
  let now = Date.parse('2026-11-30T10:00:00.000Z')
  vi.setSystemTime(now)
  const place = { ...placeOf('place', 'p', 'c'), sets: [SET] }
  const hash = createHash('sha256').update(film).digest('hex')
  const start = publication('p', 'one', 60, { size: film.length, parts: [hash] }, [])
  const upload = await publications.startUpload('p', { ...start, sets: [uploadOf(0, policyOf(first), asked)] })
  await publications.putPart('p', upload.version, 'screen.mp4', 0, film)
  await publications.commitUpload('p', upload.version)
  const versions = [{ version: upload.sets[SET] ?? '', since: now, rules: first, asked }]
  /** What was seen of keys, by attempt and question, and the answer that it was about. */
  const seen = new Map<string, Answer>()
  let attempts = 1

  async function look(): Promise<void> {
    const current = (await publications.readPublication('p'))!
    const { rules } = versions.at(-1)!
    for (const wanted of [undefined, ...versions.map((v) => v.version)]) {
      const watched = await publications.readWatched('p', current.version, LONG_AGO, wanted ? [wanted] : [])
      const view = await watchView(place, watched!, session, current)
      check(view, rules)
    }
  }
  function check(view: WatchView, rules: Rules): void {
    const attempt = view.sets[0]!.attempts.at(-1)!
    if (attempt.number > attempts) throw new Error(`${attempt.number} attempts instead of ${attempts}`)
    if (rules.score === 'never') expect([view.sets[0]!.counted, attempt.points]).toEqual([null, null])
    for (const { open, report } of view.checkpoints.flatMap((c) => c.questions)) {
      expect(JSON.stringify(open)).not.toMatch(/KEY/)
      if (report.kind !== 'answered') {
        expect(JSON.stringify(report)).not.toMatch(/KEY|"right":/)
        continue
      }
      const { feedback, solution, score, answer } = report
      for (const [is, from] of [
        [feedback !== null, rules.feedback],
        [solution !== null, rules.solutions],
        [score !== null, rules.score],
      ] as const) {
        if (!is) continue
        expect(report.final).toBe(true)
        expect(from).not.toBe('never')
        if (from !== 'answered') expect(attempt.handedInAt).not.toBeNull()
        if (typeof from === 'object') expect(now).toBeGreaterThanOrEqual(Date.parse(from.date))
      }
      if (!feedback) expect(JSON.stringify(solution?.explanation ?? '')).not.toMatch(/KEY/)
      const key = `${attempt.number} ${open.id}`
      // Whoever has seen what is right answers that no more.
      if (seen.has(key)) expect(answer).toEqual(seen.get(key))
      if (feedback || solution) seen.set(key, answer)
    }
  }

  await look()
  for (const [i, one] of steps.entries()) {
    now += 7000
    if (one.do === 'wait') now += one.minutes * MINUTE
    vi.setSystemTime(now)
    if (one.do === 'publish') {
      const sent = uploadOf(versions.length, policyOf(one.policy), one.set)
      const { sets } = await publications.publishSets('p', { version: upload.version, sets: [sent] })
      versions.push({ version: sets[SET] ?? '', since: now, rules: one.policy, asked: one.set })
    } else if (one.do !== 'wait') {
      const index = one.version % versions.length
      const named = versions[index]!
      const at = { id: `e${i}`, at: new Date(now).toISOString(), attempt: one.attempt, version: named.version }
      const event =
        'question' in one
          ? { ...at, kind: one.do, questionId: one.question, answer: answerTo(one.question, one.yes), took: i }
          : { ...at, kind: one.do }
      const before = await answersOf('place', student)
      const sorted = await sortEvents(place, (await publications.readPublication('p'))!, [event])
      await keepEvents(place, student, sorted.taken)
      const taken = (await answersOf('place', student)).slice(before.length)
      for (const { event } of taken) {
        const { rules } = versions.at(-1)!
        if (event.kind === 'begin') {
          expect(event.attempt).toBe(++attempts)
          expect(attempts).toBeLessThanOrEqual(rules.most ?? Infinity)
        }
        if (!isAnswerEvent(event)) continue
        const by = versions.findIndex((v) => v.version === event.version)
        const next = versions[by + 1]
        // An older wording for a while only, and never once a newer one was answered.
        if (next) expect(now - next.since).toBeLessThanOrEqual(GRACE)
        const others = before.filter(({ event: e }) => isAnswerEvent(e) || e.kind === 'begin')
        const newest = Math.max(-1, ...others.map((o) => versions.findIndex((v) => v.version === o.event.version)))
        expect(by).toBeGreaterThanOrEqual(newest)
        const earlier = before.findLast(
          ({ event: e }) => isAnswerEvent(e) && e.questionId === event.questionId && e.attempt === event.attempt,
        )
        if (earlier) {
          expect(rules.changes).toBe(true)
          expect(equal(earlier.event, { ...event, id: earlier.event.id })).toBe(false)
        }
      }
    }
    await look()
  }
}
