/** The schemas of all kinds of question, and of a question of any kind. */
import { Type, type Static, type TLiteral, type TObject } from '@sinclair/typebox'
import { longerSchemas } from './longer'
import { noteSchemas } from './note'
import { numberSchemas } from './number'
import { oneRightSchemas } from './one-right'
import { orderSchemas } from './order'
import { severalRightSchemas } from './several-right'
import { thoughtSchemas } from './thought'
import { trueFalseSchemas } from './true-false'
import { wordsSchemas } from './words'

const schemas = {
  'one-right': oneRightSchemas,
  'several-right': severalRightSchemas,
  'true-false': trueFalseSchemas,
  number: numberSchemas,
  words: wordsSchemas,
  order: orderSchemas,
  longer: longerSchemas,
  thought: thoughtSchemas,
  note: noteSchemas,
}
type Schemas = typeof schemas
export type QuestionKindName = keyof Schemas

export type OpenOf<K extends QuestionKindName> = Static<Schemas[K]['open']>
export type KeyOf<K extends QuestionKindName> = Static<Schemas[K]['key']>
export type AnswerOf<K extends QuestionKindName> = Static<Schemas[K]['answer']>
type OfAny<Part extends 'open' | 'key' | 'answer'> = {
  [K in QuestionKindName]: Static<Schemas[K][Part]>
}[QuestionKindName]

/** What a student may read before answering. */
export type OpenQuestion = OfAny<'open'>
/** What stays on the server until an answer has been handed in. */
export type QuestionKey = OfAny<'key'>
export type Answer = OfAny<'answer'>

/** The kind says which of the shapes it is: the checker tries no other, and names what is wrong in that one. */
const ofAny = <Part extends 'open' | 'key' | 'answer'>(part: Part) =>
  Type.Unsafe<OfAny<Part>>({
    type: 'object',
    properties: { kind: { type: 'string' } },
    required: ['kind'],
    discriminator: { propertyName: 'kind' },
    oneOf: Object.values(schemas).map((of) => of[part] as unknown as TObject<{ kind: TLiteral }>),
  })
export const OpenQuestion = ofAny('open')
export const QuestionKey = ofAny('key')
export const Answer = ofAny('answer')
