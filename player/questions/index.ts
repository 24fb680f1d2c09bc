/** The field of each kind of question; a note has none. */
import type { Component } from 'vue'
import type { QuestionKindName } from '#core/questions/kinds'
import NumberField from './NumberField.vue'
import OneRight from './OneRight.vue'
import OrderList from './OrderList.vue'
import SeveralRight from './SeveralRight.vue'
import TextField from './TextField.vue'
import TrueFalse from './TrueFalse.vue'
import WordsField from './WordsField.vue'

export const fields: Readonly<Record<QuestionKindName, Component | null>> = {
  'one-right': OneRight,
  'several-right': SeveralRight,
  'true-false': TrueFalse,
  number: NumberField,
  words: WordsField,
  order: OrderList,
  longer: TextField,
  thought: TextField,
  note: null,
}
