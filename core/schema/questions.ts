/**
 * A question set: checkpoints in recorded time, at each of which one or several questions are asked. The part a student
 * may see and the key are separate types, so that one cannot be sent for the other.
 */
import { Type, type Static } from '@sinclair/typebox'
import { OpenQuestion, QuestionKey } from '../questions/kinds/schemas'
import { closed, Id, Instant, Line, oneOf, Seconds } from './parts'
import { RichText } from './rich-text'

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

/**
 * From when a student is told something: once the answer is final, once the attempt is handed in, once everything in it
 * has been marked, from a date on after it was handed in, or never.
 */
export const ToldFrom = Type.Union([
  oneOf('answered', 'handed-in', 'marked', 'never'),
  Type.Object({ date: Instant }, closed),
])
export type ToldFrom = Static<typeof ToldFrom>

/** What holds for a whole set. */
export const SetPolicy = Type.Object(
  {
    /** What students read before they begin. */
    welcome: RichText,
    /** Whether the questions may be read, and printed, before watching. */
    readBefore: Type.Boolean(),
    /** Whether answers may be changed until the attempt is handed in. */
    changes: Type.Boolean(),
    /** Whether watching may go on before a question is answered. */
    putOff: Type.Boolean(),
    /** Whether one may jump ahead to what was not watched yet. */
    ahead: Type.Boolean(),
    attempts: Type.Object(
      {
        /** How many a student has; null for as many as they like. */
        most: Type.Union([Type.Integer({ minimum: 1, maximum: 20 }), Type.Null()]),
        /** Which of them counts; the mean is of those that were handed in. */
        counts: oneOf('best', 'first', 'last', 'mean'),
      },
      closed,
    ),
    /** From when students are told whether they are right, with the explanation. */
    feedback: ToldFrom,
    /** From when they are told their points. */
    score: ToldFrom,
    /** From when they are told what is right. */
    solutions: ToldFrom,
  },
  closed,
)
export type SetPolicy = Static<typeof SetPolicy>

/** What holds for a set without what is written for one, kept under a name. */
export const KeptPolicy = Type.Object(
  { id: Id, name: Line(80), rules: Type.Omit(SetPolicy, ['welcome'], closed) },
  closed,
)
export type KeptPolicy = Static<typeof KeptPolicy>

export const QuestionSet = Type.Object(
  {
    format: Type.Literal('thaw-questions'),
    version: Type.Literal(4),
    title: Line(),
    policy: SetPolicy,
    checkpoints: Type.Array(Checkpoint, { maxItems: 200 }),
  },
  { ...closed, $id: 'thaw-questions-4' },
)
export type QuestionSet = Static<typeof QuestionSet>
