/** Something to read. It asks nothing; that it was read is kept. */
import { Type, type Static } from '@sinclair/typebox'
import { closed } from '../../schema/parts'
import { keyParts, openParts, type QuestionKind } from './kind'

const kind = Type.Literal('note')
const open = Type.Object({ ...openParts, points: Type.Literal(0), kind }, closed)
const key = Type.Object({ ...keyParts, kind }, closed)
const answer = Type.Object({ kind }, closed)
export const noteSchemas = { open, key, answer }
type Open = Static<typeof open>
type Key = Static<typeof key>
type Answer = Static<typeof answer>

export const note = {
  name: 'A note',
  asks: 'Read this',
  fresh: () => ({ open: { kind: 'note' }, key: { kind: 'note' } }),
  problems: () => [],
  answerProblem: () => null,
  share: () => null,
  tally: (_, __, answers) => [{ id: 'read', text: 'Read', right: null, count: answers.length }],
  say: () => 'Read',
  sayKey: () => '',
} satisfies QuestionKind<Open, Key, Answer>
