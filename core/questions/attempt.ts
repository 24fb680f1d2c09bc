/**
 * What one student did at a set, as a state machine over appended events. Replaying the same events, in whole or twice
 * over, gives the same state: that is what makes a lost connection or a second tab harmless.
 *
 *     attempt 1 ──answers──▶ handed in ──begin──▶ attempt 2 ──answers──▶ handed in …
 *
 *     a question of it:  unanswered ──select──▶ selected ──answer──▶ answered
 *
 * Where answers may be changed, the last one before the attempt is handed in counts; otherwise the first, and an attempt
 * at which every question is answered is handed in by that.
 *
 * A set may be published anew while students are at it. What may be done is decided by the version that counts when an
 * event arrives; an older version gives the wording of a question, and that for a while only (`GRACE`). An answer that
 * could not be changed at any time stays so for good, since its solution may have been seen.
 */
import { max } from 'd3-array'
import equal from 'fast-deep-equal'
import { personKey } from '../course/people'
import {
  isAnswerEvent,
  type AnswerEvent,
  type AttemptEvent,
  type RefusedEvent,
  type Selections,
  type StoredEvent,
} from '../schema/attempt'
import type { Answer, OpenQuestion, SetPolicy } from '../schema/questions'
import { kindOfQuestion } from './kinds'

/** A version of a set: since when it counts (ISO 8601 UTC), and whether answers may be changed while it does. */
export interface VersionSpan {
  version: string
  since: string
  changes: boolean
}

/** A set as it counts now, which is all that has to be known to follow what is done at it. */
export interface AskedSet {
  id: string
  policy: Pick<SetPolicy, 'changes' | 'attempts'>
  questions: readonly OpenQuestion[]
  /** Every version, in the order in which they were published; the last is the one that counts. */
  versions: readonly VersionSpan[]
  /** Whether an older version asks a question as the one that counts does, with the same key; without this, none does. */
  asksAlike?: (version: string, questionId: string) => boolean
}

/** For how long a question is taken as an older version asks it, from when that was replaced, ms. */
export const GRACE = 2 * 60 * 60 * 1000

/** An event with when it was taken (ISO 8601 UTC). */
export interface TakenEvent {
  event: AttemptEvent
  receivedAt: string
}

export type QuestionState =
  | { kind: 'selected'; answer: Answer }
  | {
      kind: 'answered'
      answer: Answer
      eventId: string
      receivedAt: string
      /** Of the set that the student saw; by its key the answer counts. */
      version?: string
      /** s */
      took?: number
      hinted?: boolean
    }

export interface Attempt {
  /** From 1. */
  number: number
  /** By question id; questions nobody touched are absent. */
  questions: ReadonlyMap<string, QuestionState>
  /** When the student ended it; null when they did not. */
  endedAt: string | null
  /** The version that was answered, or begun with, last; null for one in which nothing was done. */
  version: string | null
}

/** At a set, in the order of making; there is always a first. */
export type Attempts = readonly [Attempt, ...Attempt[]]

const fresh = (number: number, version: string | null = null): Attempt => ({
  ...{ number, version, questions: new Map(), endedAt: null },
})
export const NO_ATTEMPT: Attempts = [fresh(1)]

/** The one that is being made, or was made last. */
export const lastOf = (attempts: Attempts): Attempt => attempts.at(-1) ?? attempts[0]

/** Whether a question has to be answered for an attempt to be whole: a note asks nothing. */
const isAsked = ({ kind }: OpenQuestion) => kind !== 'note'

/** From when an answer could not be changed any more, once and for good; null while it can. */
export function finalSince({ receivedAt }: { receivedAt: string }, { versions }: AskedSet): string | null {
  const first = Math.max(
    0,
    versions.findLastIndex((v) => v.since <= receivedAt),
  )
  const fixed = versions.slice(first).find((v) => !v.changes)
  return fixed ? (fixed.since > receivedAt ? fixed.since : receivedAt) : null
}

/** When an attempt was handed in, by hand or by the last answer there was to give; null while it is open. */
export function handedInAt({ questions, endedAt }: Attempt, set: AskedSet): string | null {
  if (endedAt !== null) return endedAt
  let last = ''
  for (const { id } of set.questions.filter(isAsked)) {
    const state = questions.get(id)
    const since = state?.kind === 'answered' ? finalSince(state, set) : null
    if (since === null) return null
    if (since > last) last = since
  }
  return last || null
}

/** Whether a further attempt may begin. */
export function canBegin(attempts: Attempts, set: AskedSet): boolean {
  const { most } = set.policy.attempts
  return handedInAt(lastOf(attempts), set) !== null && (most === null || attempts.length < most)
}

/** What was done at a set once an event that was taken is added; one that fits nowhere changes nothing. */
function applied(attempts: Attempts, { event, receivedAt }: TakenEvent): Attempts {
  const number = event.attempt ?? 1
  if (event.kind === 'begin')
    return number === attempts.length + 1 ? [...attempts, fresh(number, event.version)] : attempts
  const attempt = attempts[number - 1]
  if (!attempt) return attempts
  const changed = (next: Partial<Attempt>): Attempts => {
    const [first, ...more] = attempts.map((a) => (a === attempt ? { ...a, ...next } : a))
    return first ? [first, ...more] : attempts
  }
  if (event.kind === 'hand-in') return attempt.endedAt === null ? changed({ endedAt: receivedAt }) : attempts
  if (!isAnswerEvent(event)) return attempts
  const questions = new Map(attempt.questions).set(event.questionId, stateOf(event, receivedAt))
  return changed({ questions, ...(event.kind === 'answer' && { version: event.version ?? attempt.version }) })
}

/** What becomes of an event: it changes something, or nothing more, or cannot be taken (why, as a sentence). */
export type Followed = { kind: 'applied'; attempts: Attempts } | { kind: 'nothing' } | { kind: 'refused'; why: string }

const nothing: Followed = { kind: 'nothing' }
const refused = (why: string): Followed => ({ kind: 'refused', why })
const CHANGED = 'This was changed since you opened the lecture. Reload the page, and answer it as it is asked now.'

/**
 * Whether what an event names was replaced too long ago, or by a version that the student has gone on to; a question that
 * is still asked alike never is.
 */
function isOutdated(attempts: Attempts, { event, receivedAt }: TakenEvent, { versions, asksAlike }: AskedSet): boolean {
  if (isAnswerEvent(event) && event.version && asksAlike?.(event.version, event.questionId)) return false
  const indexOf = (version: string | null | undefined) => versions.findIndex((v) => v.version === version)
  const named = indexOf(event.version)
  const next = named < 0 ? undefined : versions[named + 1]
  if (!next) return false
  const newest = max(attempts.slice(0, event.attempt ?? 1).map((a) => indexOf(a.version))) ?? -Infinity
  return named < newest || Date.parse(receivedAt) - Date.parse(next.since) > GRACE
}

/** Lets one event follow on what was done at its set, by the rules that count now. */
export function follow(attempts: Attempts, taken: TakenEvent, set: AskedSet): Followed {
  const { event } = taken
  const number = event.attempt ?? 1
  const change = (): Followed => ({ kind: 'applied', attempts: applied(attempts, taken) })
  if (event.kind === 'begin') {
    if (number <= attempts.length) return nothing
    if (number > attempts.length + 1 || !canBegin(attempts, set))
      return refused('A further attempt cannot begin: the one before is not handed in, or there are no more.')
    return isOutdated(attempts, taken, set) ? refused(CHANGED) : change()
  }
  const attempt = attempts[number - 1]
  if (!attempt) return refused('This attempt has not begun.')
  // Who has had enough may say so at any version.
  if (event.kind === 'hand-in') return handedInAt(attempt, set) === null ? change() : nothing
  if (!isAnswerEvent(event)) return nothing
  const before = attempt.questions.get(event.questionId)
  if (before?.kind === 'answered') {
    // What is only chosen after an answer takes nothing of that back, and the same again is no change.
    if (event.kind === 'select' || finalSince(before, set) !== null) return nothing
    if (before.version === event.version && equal(before.answer, event.answer)) return nothing
  }
  const isNote = event.answer.kind === 'note'
  if (attempt.endedAt !== null && isNote) return nothing
  // A note that is read when everything is answered still is.
  if (handedInAt(attempt, set) !== null && !isNote)
    return refused('This was handed in before, so it is not changed any more.')
  return isOutdated(attempts, taken, set) ? refused(CHANGED) : change()
}

function stateOf({ kind, id, answer, version, took, hinted }: AnswerEvent, receivedAt: string): QuestionState {
  if (kind === 'select') return { kind: 'selected', answer }
  return {
    ...{ kind: 'answered', answer, eventId: id, receivedAt },
    ...(version && { version }),
    ...(took !== undefined && { took }),
    ...(hinted && { hinted }),
  }
}

/**
 * What one student did at each set after all `events` that were taken, in order; one that comes again is passed over.
 * What was taken once counts, whatever the rules have become since.
 * @param setOf the id of the set that an event is about; null for what is not known
 */
export function replay(
  events: readonly TakenEvent[],
  setOf: (event: AttemptEvent) => string | null,
): Map<string, Attempts> {
  const seen = new Set<string>()
  const sets = new Map<string, Attempts>()
  for (const taken of events) {
    if (seen.has(taken.event.id)) continue
    seen.add(taken.event.id)
    const set = setOf(taken.event)
    if (set !== null) sets.set(set, applied(sets.get(set) ?? NO_ATTEMPT, taken))
  }
  return sets
}

/**
 * Which of some events are taken after others, in their turn; those that change nothing more are passed over, and those
 * about what nobody knows are taken, for whoever reads them to decide.
 */
export function takeEvents<E extends AttemptEvent>(
  before: readonly TakenEvent[],
  events: readonly E[],
  setOf: (event: AttemptEvent) => AskedSet | null,
  receivedAt: string,
): { taken: E[]; refused: RefusedEvent[] } {
  const sets = replay(before, (event) => setOf(event)?.id ?? null)
  const ids = new Set(before.map((b) => b.event.id))
  const taken: E[] = []
  const refused: RefusedEvent[] = []
  for (const event of events) {
    if (ids.has(event.id)) continue
    ids.add(event.id)
    const set = setOf(event)
    const followed = set && follow(sets.get(set.id) ?? NO_ATTEMPT, { event, receivedAt }, set)
    if (followed?.kind === 'refused') refused.push({ id: event.id, why: followed.why })
    if (set && followed?.kind === 'applied') sets.set(set.id, followed.attempts)
    if (!followed || followed.kind === 'applied') taken.push(event)
  }
  return { taken, refused }
}

/** With what is begun and kept apart, where the attempt that it belongs to is still being made. */
export function withBegun(attempts: Attempts, begun: Selections['answers']): Attempts {
  const present = lastOf(attempts)
  const questions = new Map(present.questions)
  for (const [questionId, { attempt, answer }] of Object.entries(begun))
    if (attempt === present.number && present.endedAt === null && !questions.has(questionId))
      questions.set(questionId, { kind: 'selected', answer })
  const [first = present, ...more] = attempts.map((a) => (a === present ? { ...a, questions } : a))
  return [first, ...more]
}

/** Why an event cannot be taken, as a sentence, or null when it can. What is only begun need not be whole. */
export function eventProblem(event: AttemptEvent, questions: readonly OpenQuestion[]): string | null {
  if (!isAnswerEvent(event)) return null
  const question = questions.find((q) => q.id === event.questionId)
  if (!question) return 'This lecture has no such question.'
  if (question.kind !== event.answer.kind) return 'This question asks for another kind of answer.'
  return event.kind === 'answer' ? kindOfQuestion(question).answerProblem(question, event.answer) : null
}

/** Groups stored events by `personKey`, in the order the server took them. */
export function byStudent(events: readonly StoredEvent[]): Map<string, StoredEvent[]> {
  const groups = new Map<string, StoredEvent[]>()
  for (const stored of [...events].sort((a, b) => a.seq - b.seq)) {
    const key = personKey(stored.student)
    const group = groups.get(key)
    if (group) group.push(stored)
    else groups.set(key, [stored])
  }
  return groups
}
