/**
 * A question set: checkpoints in recorded time, at each of which one or several questions are asked. The part a student
 * may see and the key are separate types, so that one cannot be sent for the other.
 */
import { Type, type Static } from '@sinclair/typebox'
import { OpenQuestion, QuestionKey } from '../questions/kinds/schemas'
import { closed, Id, Line, Seconds } from './parts'

export { Answer, OpenQuestion, QuestionKey } from '../questions/kinds/schemas'

/** A question with its key, both of one kind. */
export const Question = Type.Object({ open: OpenQuestion, key: QuestionKey }, closed)
export type Question = Static<typeof Question>

/** A moment at which the video stops and asks. */
export const Checkpoint = Type.Object(
  { id: Id, at: Seconds, questions: Type.Array(Question, { minItems: 1, maxItems: 20 }) },
  closed,
)
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
    version: Type.Literal(3),
    title: Line(),
    policy: SetPolicy,
    checkpoints: Type.Array(Checkpoint, { maxItems: 200 }),
  },
  { ...closed, $id: 'thaw-questions-3' },
)
export type QuestionSet = Static<typeof QuestionSet>
