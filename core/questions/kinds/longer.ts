/** A longer answer, which a person marks. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Line, Prose } from '../../schema/parts'
import { keyParts, openParts, tallyBy, type QuestionKind } from './kind'

const kind = Type.Literal('longer')
/** What is looked for in an answer, and how many points it earns at most. */
export const Criterion = Type.Object(
  { id: Id, text: Line(300), points: Type.Number({ minimum: 0, maximum: 1000 }) },
  closed,
)
export type Criterion = Static<typeof Criterion>
const open = Type.Object(
  {
    ...{ ...openParts, kind },
    /** Words that it should have at most; 0 for any number. */
    words: Type.Integer({ minimum: 0, maximum: 5000 }),
  },
  closed,
)
const key = Type.Object(
  { ...keyParts, kind, rubric: Type.Array(Criterion, { maxItems: 12 }), model: Prose(10_000) },
  closed,
)
const answer = Type.Object({ kind, text: Prose(10_000) }, closed)
export const longerSchemas = { open, key, answer }
type Open = Static<typeof open>
type Key = Static<typeof key>
type Answer = Static<typeof answer>

export const longer = {
  name: 'A longer answer',
  asks: 'Write your answer',
  fresh: () => ({ open: { kind: 'longer', words: 0 }, key: { kind: 'longer', rubric: [], model: '' } }),
  copy: (open, key, newId) => ({ open, key: { ...key, rubric: key.rubric.map((c) => ({ ...c, id: newId() })) } }),
  problems({ points }, { rubric }) {
    const sum = rubric.reduce((total, c) => total + c.points, 0)
    return [
      ...(rubric.some((c) => !c.text.trim()) ? ['Say what each line of the rubric looks for.'] : []),
      ...(rubric.length > 0 && Math.abs(sum - points) > 1e-9
        ? [`The rubric has ${sum} points, and the question ${points}.`]
        : []),
    ]
  },
  answerProblem: (_, { text }) => (text.trim() ? null : 'Nothing is written.'),
  share: () => null,
  tally: (_, __, answers) =>
    tallyBy(
      answers,
      (a) => a.text.trim(),
      () => null,
    ),
  say: (_, { text }) => text,
  sayKey: (_, { model }) => model,
} satisfies QuestionKind<Open, Key, Answer>
