/** All kinds of question. A new one is one entry here and in `schemas.ts`, one form at the desk and one view in the player. */
import type { QuestionKind } from './kind'
import { longer } from './longer'
import { note } from './note'
import { number } from './number'
import { oneRight } from './one-right'
import { order } from './order'
import type { Answer, OpenQuestion, QuestionKey, QuestionKindName } from './schemas'
import { severalRight } from './several-right'
import { thought } from './thought'
import { trueFalse } from './true-false'
import { words } from './words'

export type { Answer, AnswerOf, KeyOf, OpenOf, OpenQuestion, QuestionKey, QuestionKindName } from './schemas'

export const questionKinds = {
  'one-right': oneRight,
  'several-right': severalRight,
  'true-false': trueFalse,
  number,
  words,
  order,
  longer,
  thought,
  note,
}
export const kindNames = Object.keys(questionKinds) as QuestionKindName[]

/**
 * The kind of a question, for whoever has a question, a key and answers of the same kind; that they are is checked where
 * they come in (`readQuestionSet`, `eventProblem`).
 */
export const kindOfQuestion = ({ kind }: Pick<OpenQuestion, 'kind'>): QuestionKind<OpenQuestion, QuestionKey, Answer> =>
  questionKinds[kind] as unknown as QuestionKind<OpenQuestion, QuestionKey, Answer>
