/**
 * A question set: checkpoints in recorded time, each with one question. The part a student may see and the
 * key are separate types, so that one cannot be sent for the other.
 */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Line, Prose, Seconds } from './parts'

export const Choice = Type.Object({ id: Id, text: Line(500) }, closed)
export type Choice = Static<typeof Choice>

/** What a student may read before answering. */
export const OpenQuestion = Type.Object(
  {
    id: Id,
    kind: Type.Literal('one-right'),
    prompt: Prose(2000),
    choices: Type.Array(Choice, { minItems: 2, maxItems: 12 }),
    hint: Prose(2000),
    points: Type.Number({ minimum: 0, maximum: 1000 }),
  },
  closed,
)
export type OpenQuestion = Static<typeof OpenQuestion>

/** What stays on the server until an answer has been handed in. */
export const QuestionKey = Type.Object({ questionId: Id, right: Id, explanation: Prose(5000) }, closed)
export type QuestionKey = Static<typeof QuestionKey>

/** A moment at which the video stops and asks. */
export const Checkpoint = Type.Object({ id: Id, at: Seconds, question: OpenQuestion, key: QuestionKey }, closed)
export type Checkpoint = Static<typeof Checkpoint>

/** What holds for a whole set. */
export const SetPolicy = Type.Object(
  {
    /** Whether students are told, once they have handed an answer in, if it was right and why. */
    feedback: Type.Union([Type.Literal('at-once'), Type.Literal('none')]),
  },
  closed,
)
export type SetPolicy = Static<typeof SetPolicy>

export const QuestionSet = Type.Object(
  {
    format: Type.Literal('thaw-questions'),
    version: Type.Literal(2),
    title: Line(),
    policy: SetPolicy,
    checkpoints: Type.Array(Checkpoint, { maxItems: 200 }),
  },
  { ...closed, $id: 'thaw-questions-2' },
)
export type QuestionSet = Static<typeof QuestionSet>
