/** A statement that is true or false. */
import { Type, type Static } from '@sinclair/typebox'
import { closed } from '../../schema/parts'
import { keyParts, openParts, type QuestionKind } from './kind'

const kind = Type.Literal('true-false')
const open = Type.Object({ ...openParts, kind }, closed)
const key = Type.Object({ ...keyParts, kind, right: Type.Boolean() }, closed)
const answer = Type.Object({ kind, value: Type.Boolean() }, closed)
export const trueFalseSchemas = { open, key, answer }
type Open = Static<typeof open>
type Key = Static<typeof key>
type Answer = Static<typeof answer>

const word = (value: boolean) => (value ? 'True' : 'False')

export const trueFalse = {
  name: 'True or false',
  asks: 'True or false?',
  fresh: () => ({ open: { kind: 'true-false' }, key: { kind: 'true-false', right: true } }),
  problems: () => [],
  answerProblem: () => null,
  share: (_, { right }, { value }) => (value === right ? 1 : 0),
  tally: (_, { right }, answers) =>
    [true, false].map((value) => ({
      ...{ id: String(value), text: word(value), right: value === right },
      count: answers.filter((a) => a.value === value).length,
    })),
  say: (_, { value }) => word(value),
  sayKey: (_, { right }) => word(right),
} satisfies QuestionKind<Open, Key, Answer>
