/**
 * What a student is told of a set: the questions, how the own attempts stand, and of what is right as much as its policy
 * has them know by now. The server and the trial beside the desk work it out alike.
 */
import type { Answer, OpenQuestion, QuestionKey, SetPolicy } from '../schema/questions'
import type { PublishedCheckpoint } from '../schema/publication'
import type { RichText } from '../schema/rich-text'
import { EMPTY } from '../text/rich-text'
import {
  canBegin,
  finalSince,
  handedInAt,
  lastOf,
  type AskedSet,
  type Attempt,
  type Attempts,
  type QuestionState,
  type VersionSpan,
} from './attempt'
import { isGraded } from './grade'
import { Decisions, earned, gradedAs, isMarkedByPerson, type Earned, type Keyed } from './grading'
import { countedPoints, isTold, type Standing } from './policy'
import { shuffledFor } from './shuffle'

/** Points earned; null where a person has yet to mark it. What is excused does not count. */
export interface Score {
  points: number | null
  excused: boolean
}

/** What a student is told about a question. What is not told yet is null. */
export type QuestionReport =
  /** Points that somebody gave all the same, and whether it counts for this student, where that is told. */
  | { kind: 'unanswered'; score: Score | null }
  | { kind: 'selected'; answer: Answer }
  | {
      kind: 'answered'
      answer: Answer
      /** Whether it cannot be changed any more. */
      final: boolean
      /** How much of it is right, 0…1 (null: a person marks it, or nothing is graded), why, and what a marker says. */
      feedback: { share: number | null; explanation: RichText; lookAt: number | null; comment: string } | null
      score: Score | null
      solution: QuestionKey | null
    }

export interface StandingQuestion {
  open: OpenQuestion
  report: QuestionReport
}

/** An attempt as a student sees it in a list. */
export interface StandingAttempt {
  number: number
  handedInAt: string | null
  /** Null while they are not told, or not known. */
  points: number | null
}

/** A set as one student sees it. */
export interface SetStanding {
  /** Of the set: its version, id and title. */
  version: string
  id: string
  title: string
  policy: SetPolicy
  /** Points to be had. */
  possible: number
  /** In the order of making; the last is the one that the questions' reports are about. */
  attempts: StandingAttempt[]
  /** Points that count, as far as they are told. */
  counted: number | null
  canBegin: boolean
}

/** A version of a set with its keys. */
export interface KeyedSet {
  version: string
  id: string
  title: string
  policy: SetPolicy
  checkpoints: readonly PublishedCheckpoint[]
  keys: readonly QuestionKey[]
}

export const questionsOf = ({ checkpoints }: Pick<KeyedSet, 'checkpoints'>): OpenQuestion[] =>
  checkpoints.flatMap((c) => c.questions)

/**
 * @param versions every version of the set; this one alone, where there never was another
 * @param asksAlike as in `AskedSet`
 */
export const askedSet = (
  { version, id, policy, checkpoints }: Omit<KeyedSet, 'keys'>,
  versions: readonly VersionSpan[] = [{ version, since: '', changes: policy.changes }],
  asksAlike?: AskedSet['asksAlike'],
): AskedSet => ({
  ...{ id, policy, versions },
  ...(asksAlike && { asksAlike }),
  questions: questionsOf({ checkpoints }),
})

/** The questions of a version with their keys, by their ids. */
export function keyedQuestions(set: Pick<KeyedSet, 'checkpoints' | 'keys'>): Map<string, Keyed> {
  const keys = new Map(set.keys.map((key) => [key.questionId, key]))
  const questions = new Map<string, Keyed>()
  for (const open of questionsOf(set)) {
    const key = keys.get(open.id)
    if (key) questions.set(open.id, { open, key })
  }
  return questions
}

export interface StandingContext {
  /** Names the student and the place, for the order of choices. */
  who: string
  /** ISO 8601 UTC */
  now: string
  /** Other versions that the student answered, or was graded by, by version. */
  earlier: ReadonlyMap<string, KeyedSet>
  decisions: Decisions
  /** As for `askedSet`. */
  versions?: readonly VersionSpan[]
  /** Whether everything counts as marked, as somebody who tries it may want to see what is told then. */
  asMarked?: boolean
}

/**
 * @param set as it is worded for the student, with the policy that counts now
 * @param attempts at this set
 * @throws {Error} when a question has no key
 */
export function standingAt(
  set: KeyedSet,
  attempts: Attempts,
  { who, now, earlier, decisions, versions, asMarked = false }: StandingContext,
): { set: SetStanding; checkpoints: { id: string; at: number; questions: StandingQuestion[] }[] } {
  const { version, id, title, policy } = set
  const asked = askedSet(set, versions)
  const indexed = new Map([[version, keyedQuestions(set)]])
  function inVersion(wanted: string | undefined, questionId: string): Keyed | undefined {
    const other = wanted === undefined ? undefined : earlier.get(wanted)
    const name = other ? other.version : version
    const questions = indexed.get(name) ?? keyedQuestions(other ?? set)
    indexed.set(name, questions)
    return questions.get(questionId)
  }
  /** A question as it was asked when it was answered, or as it is asked now, and what was earned with it. */
  function judge(attempt: Attempt, questionId: string): Judged {
    const state = attempt.questions.get(questionId)
    const given = state?.kind === 'answered' ? state : null
    const seen = inVersion(given?.version, questionId) ?? inVersion(version, questionId)
    if (!seen) throw new Error(`question ${questionId} of ${id} has no key`)
    const decision = decisions.about(id, attempt.number, questionId)
    const regraded = decision.regrade ? inVersion(decision.regrade.version, questionId) : null
    const keyed = given ? gradedAs(seen, regraded ?? null, given.answer) : seen
    return { ...keyed, state, earned: earned(keyed, given, decision, decisions.isReleased(id, attempt.number)) }
  }
  function judged(attempt: Attempt) {
    const handedIn = handedInAt(attempt, asked)
    const questions = new Map(asked.questions.map((q) => [q.id, judge(attempt, q.id)]))
    const all = [...questions.values()]
    const answered = all.filter(({ state }) => state?.kind === 'answered')
    const isMarked = answered.every(({ open, earned }) => earned.points !== null || earned.excused || !isGraded(open))
    const needsRelease = answered.some(({ open }) => isMarkedByPerson(open))
    const marked = asMarked || (isMarked && (!needsRelease || decisions.isReleased(id, attempt.number)))
    const counting = all.filter(({ earned }) => !earned.excused)
    const points = Math.round(100 * counting.reduce((sum, { earned }) => sum + (earned.points ?? 0), 0)) / 100
    return { attempt, handedIn, marked, points: isMarked ? points : null, questions }
  }
  const each = attempts.map(judged)
  const present = lastOf(attempts)
  const own = each.at(-1) ?? judged(present)
  const context = { handedIn: own.handedIn !== null, marked: own.marked }
  const checkpoints = set.checkpoints.map(({ id, at, questions }) => ({
    ...{ id, at },
    questions: questions.map((q) => {
      const { state, earned, ...keyed } = own.questions.get(q.id) ?? judge(present, q.id)
      const final = context.handedIn || (state?.kind === 'answered' && finalSince(state, asked) !== null)
      return {
        open: shuffledFor(keyed.open, who),
        report: report(state, policy, keyed, earned, { ...context, final }, now),
      }
    }),
  }))
  const list = each.map(({ attempt, handedIn, marked, points }): StandingAttempt & { counts: boolean } => {
    const told = isTold(policy.score, { final: handedIn !== null, handedIn: handedIn !== null, marked }, now)
    return { number: attempt.number, handedInAt: handedIn, points: told ? points : null, counts: handedIn !== null }
  })
  const told = list.flatMap(({ counts, points }) => (counts && points !== null ? [points] : []))
  const excused = (q: OpenQuestion) => decisions.about(id, present.number, q.id).excuse !== undefined
  return {
    set: {
      ...{ version, id, title, policy },
      possible: asked.questions.reduce((sum, q) => sum + (excused(q) ? 0 : q.points), 0),
      attempts: list.map(({ counts: _, ...attempt }) => attempt),
      counted: countedPoints(told, policy.attempts.counts),
      canBegin: canBegin(attempts, asked),
    },
    checkpoints,
  }
}

/** A question as an answer to it is judged. */
type Judged = Keyed & { state: QuestionState | undefined; earned: Earned }

/** Nothing of a key is in it before its time. */
export function report(
  state: QuestionState | undefined,
  policy: SetPolicy,
  { open, key }: Keyed,
  { share, points, comment, excused, by }: Earned,
  standing: Standing,
  now: string,
): QuestionReport {
  if (state?.kind === 'selected') return state
  const is = (from: SetPolicy['feedback']) => isTold(from, standing, now)
  const score = is(policy.score) && isGraded(open) ? { points, excused } : null
  if (!state) return { kind: 'unanswered', score: by === 'override' || excused ? score : null }
  const { explanation, lookAt } = key
  return {
    ...{ kind: 'answered', answer: state.answer, final: standing.final },
    feedback: is(policy.feedback) ? { share, explanation, lookAt, comment } : null,
    score,
    // Why it is right is part of the feedback, and told when that is.
    solution: is(policy.solutions) ? { ...key, explanation: EMPTY, lookAt: null } : null,
  }
}
