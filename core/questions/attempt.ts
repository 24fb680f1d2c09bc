/**
 * One student's attempt as a state machine over appended events. Replaying the same events, in whole or twice
 * over, gives the same state: that is what makes a lost connection or a second tab harmless.
 *
 *     unanswered ──select──▶ selected ──answer──▶ handed in (final)
 *          └───────────────answer───────────────────▲
 */
import { personKey } from '../course/people'
import type { AttemptEvent, StoredEvent } from '../schema/attempt'
import type { Answer, OpenQuestion, QuestionKey, SetPolicy } from '../schema/questions'
import { kindOfQuestion } from './kinds'
import { grade, type Grade } from './grade'

export type QuestionState =
  | { kind: 'unanswered' }
  | { kind: 'selected'; answer: Answer }
  | {
      kind: 'handed-in'
      answer: Answer
      eventId: string
      /** Of the set that the student saw; by its key the answer counts. */
      version?: string
    }

/** By question id; questions nobody touched are absent. */
export type AttemptState = ReadonlyMap<string, QuestionState>

/** Applies one event. A question that was handed in stays as it was: the first answer counts. */
export function applyEvent(state: AttemptState, event: AttemptEvent): AttemptState {
  if (state.get(event.questionId)?.kind === 'handed-in') return state
  const next: QuestionState =
    event.kind === 'answer'
      ? {
          kind: 'handed-in',
          answer: event.answer,
          eventId: event.id,
          ...(event.version && { version: event.version }),
        }
      : { kind: 'selected', answer: event.answer }
  return new Map(state).set(event.questionId, next)
}

/**
 * The state after all `events`, in order; an event id that comes again is passed over.
 * @param begun what was answered before without being handed in, by question
 */
export function attemptState(
  events: readonly AttemptEvent[],
  begun: Readonly<Record<string, Answer>> = {},
): AttemptState {
  const seen = new Set<string>()
  let state: AttemptState = new Map(
    Object.entries(begun).map(([questionId, answer]) => [questionId, { kind: 'selected', answer }]),
  )
  for (const event of events) {
    if (seen.has(event.id)) continue
    seen.add(event.id)
    state = applyEvent(state, event)
  }
  return state
}

/** Why an event cannot be taken, as a sentence, or null when it can. What is only begun need not be whole. */
export function eventProblem(
  { kind, questionId, answer }: AttemptEvent,
  questions: readonly OpenQuestion[],
): string | null {
  const question = questions.find((q) => q.id === questionId)
  if (!question) return 'This lecture has no such question.'
  if (question.kind !== answer.kind) return 'This question asks for another kind of answer.'
  return kind === 'answer' ? kindOfQuestion(question).answerProblem(question, answer) : null
}

/**
 * What a student is told about a question: the verdict and the key only once it is handed in, and of one that is only
 * `taken` not then.
 */
export type QuestionReport =
  | { kind: 'unanswered' }
  | { kind: 'selected'; answer: Answer }
  | { kind: 'taken'; answer: Answer }
  | ({ kind: 'handed-in'; answer: Answer; key: QuestionKey } & Grade)

/** The report the server sends. Nothing of a key is in it before the answer is final. */
export function report(
  state: QuestionState | undefined,
  { feedback }: SetPolicy,
  question: OpenQuestion,
  key: QuestionKey,
): QuestionReport {
  if (state?.kind !== 'handed-in') return state ?? { kind: 'unanswered' }
  const { answer } = state
  return feedback === 'none'
    ? { kind: 'taken', answer }
    : { kind: 'handed-in', answer, key, ...grade(question, key, answer) }
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
