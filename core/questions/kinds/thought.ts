/** A thought to write down: kept, shown to the lecturer, and not graded. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Prose } from '../../schema/parts'
import { keyParts, openParts, tallyBy, type QuestionKind } from './kind'

const kind = Type.Literal('thought')
const open = Type.Object({ ...openParts, points: Type.Literal(0), kind }, closed)
const key = Type.Object({ ...keyParts, kind }, closed)
const answer = Type.Object({ kind, text: Prose(10_000) }, closed)
export const thoughtSchemas = { open, key, answer }
type Open = Static<typeof open>
type Key = Static<typeof key>
type Answer = Static<typeof answer>

export const thought = {
  name: 'A thought',
  asks: 'Write down what you think',
  fresh: () => ({ open: { kind: 'thought' }, key: { kind: 'thought' } }),
  problems: () => [],
  answerProblem: (_, { text }) => (text.trim() ? null : 'Nothing is written.'),
  share: () => null,
  tally: (_, __, answers) =>
    tallyBy(
      answers,
      (a) => a.text.trim(),
      () => null,
    ),
  say: (_, { text }) => text,
  sayKey: () => '',
} satisfies QuestionKind<Open, Key, Answer>
