/** The form of each kind of question; a thought and a note have nothing of their own. */
import type { Component } from 'vue'
import type { KeyOf, OpenOf, QuestionKindName } from '#core/questions/kinds'
import LongerForm from '~/components/questions/LongerForm.vue'
import NumberForm from '~/components/questions/NumberForm.vue'
import OneRightForm from '~/components/questions/OneRightForm.vue'
import OrderForm from '~/components/questions/OrderForm.vue'
import SeveralRightForm from '~/components/questions/SeveralRightForm.vue'
import TrueFalseForm from '~/components/questions/TrueFalseForm.vue'
import WordsForm from '~/components/questions/WordsForm.vue'

/** What of a question, and of its key, a form changes. @param field what is being written into, when something is */
export type FormChange<K extends QuestionKindName> = [open: Partial<OpenOf<K>>, key: Partial<KeyOf<K>>, field?: string]

export const questionForms: Readonly<Record<QuestionKindName, Component | null>> = {
  'one-right': OneRightForm,
  'several-right': SeveralRightForm,
  'true-false': TrueFalseForm,
  number: NumberForm,
  words: WordsForm,
  order: OrderForm,
  longer: LongerForm,
  thought: null,
  note: null,
}
