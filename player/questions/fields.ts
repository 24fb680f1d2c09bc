/** What the fields of all kinds of question have in common: what is asked, what is answered, and what was told of it. */
import type { AnswerOf, KeyOf, OpenOf, QuestionKindName } from '#core/questions/kinds'

export interface FieldProps<K extends QuestionKindName> {
  open: OpenOf<K>
  /** Null until something is answered. */
  answer: AnswerOf<K> | null
  /** Null until the student is told. */
  told: KeyOf<K> | null
  disabled: boolean
}
