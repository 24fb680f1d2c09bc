/** Several choices, one of which is right. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id } from '../../schema/parts'
import { EMPTY, lineOf } from '../../text/rich-text'
import { choiceProblems, renamed, textOf } from './choices'
import { Choices, keyParts, openParts, type QuestionKind } from './kind'

const kind = Type.Literal('one-right')
const open = Type.Object(
  {
    ...{ ...openParts, kind, choices: Choices },
    /** Whether each student sees the choices in an order of their own. */
    shuffled: Type.Boolean(),
  },
  closed,
)
const key = Type.Object({ ...keyParts, kind, right: Id }, closed)
const answer = Type.Object({ kind, choice: Id }, closed)
export const oneRightSchemas = { open, key, answer }
type Open = Static<typeof open>
type Key = Static<typeof key>
type Answer = Static<typeof answer>

export const oneRight = {
  name: 'One right choice',
  asks: 'Choose one',
  fresh(newId) {
    const choices = Array.from({ length: 4 }, () => ({ id: newId(), text: EMPTY }))
    return {
      open: { kind: 'one-right', choices, shuffled: false },
      key: { kind: 'one-right', right: choices[0]?.id ?? '' },
    }
  },
  copy(open, key, newId) {
    const { choices, now } = renamed(open.choices, newId)
    return { open: { ...open, choices }, key: { ...key, right: now.get(key.right) ?? key.right } }
  },
  problems: ({ choices }, { right }) => [
    ...choiceProblems(choices),
    ...(choices.some((c) => c.id === right) ? [] : ['Mark the right choice.']),
  ],
  answerProblem: ({ choices }, { choice }) =>
    choices.some((c) => c.id === choice) ? null : 'This question has no such choice.',
  share: (_, { right }, { choice }) => (choice === right ? 1 : 0),
  tally: ({ choices }, { right }, answers) =>
    choices.map(({ id, text }) => ({
      ...{ id, text: lineOf(text), right: id === right },
      count: answers.filter((a) => a.choice === id).length,
    })),
  say: ({ choices }, { choice }) => textOf(choices, choice),
  sayKey: ({ choices }, { right }) => textOf(choices, right),
} satisfies QuestionKind<Open, Key, Answer>
