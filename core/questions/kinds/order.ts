/** Things to put in order. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id } from '../../schema/parts'
import { EMPTY } from '../../text/rich-text'
import { choiceProblems, renamed, textOf } from './choices'
import { Choices, keyParts, openParts, tallyBy, type QuestionKind } from './kind'

const kind = Type.Literal('order')
const open = Type.Object(
  {
    /** In no order that says anything; the key has the right one. */
    ...{ ...openParts, kind, choices: Choices },
    /** What earns points: only the right order (`all`), or each that rightly comes right after another (`parts`). */
    grading: Type.Union([Type.Literal('all'), Type.Literal('parts')]),
  },
  closed,
)
const Ids = Type.Array(Id, { minItems: 2, maxItems: 20, uniqueItems: true })
const key = Type.Object({ ...keyParts, kind, right: Ids }, closed)
const answer = Type.Object({ kind, order: Ids }, closed)
export const orderSchemas = { open, key, answer }
type Open = Static<typeof open>
type Key = Static<typeof key>
type Answer = Static<typeof answer>

const isSameSet = ({ choices }: Open, ids: readonly string[]) =>
  ids.length === choices.length && choices.every((c) => ids.includes(c.id))
const said = ({ choices }: Open, ids: readonly string[]) => ids.map((id) => textOf(choices, id)).join(' → ')

/** Of the pairs of neighbours, how many are rightly so. */
const share = ({ grading }: Open, { right }: Key, { order }: Answer): number => {
  if (order.every((id, i) => id === right[i])) return 1
  if (grading === 'all') return 0
  const after = new Map(right.map((id, i) => [id, right[i + 1]]))
  const rightly = order.slice(0, -1).filter((id, i) => after.get(id) === order[i + 1]).length
  return rightly / (right.length - 1)
}

export const order = {
  name: 'Put in order',
  asks: 'Put them in order',
  fresh(newId) {
    const choices = Array.from({ length: 4 }, () => ({ id: newId(), text: EMPTY }))
    return {
      open: { kind: 'order', choices, grading: 'parts' },
      key: { kind: 'order', right: choices.map((c) => c.id) },
    }
  },
  copy(open, key, newId) {
    const { choices, now } = renamed(open.choices, newId)
    return { open: { ...open, choices }, key: { ...key, right: key.right.map((id) => now.get(id) ?? id) } }
  },
  problems: (open, { right }) => [
    ...choiceProblems(open.choices, 'thing'),
    ...(isSameSet(open, right) ? [] : ['The right order does not name each thing once.']),
  ],
  answerProblem: (open, { order }) => (isSameSet(open, order) ? null : 'The order does not name each thing once.'),
  share,
  tally: (open, key, answers) =>
    tallyBy(
      answers,
      (a) => said(open, a.order),
      (a) => share(open, key, a) === 1,
    ),
  say: (open, { order }) => said(open, order),
  sayKey: (open, { right }) => said(open, right),
} satisfies QuestionKind<Open, Key, Answer>
