/** Several choices, any number of which are right. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id } from '../../schema/parts'
import { EMPTY, lineOf } from '../../text/rich-text'
import { choiceProblems, renamed, textOf } from './choices'
import { Choices, keyParts, openParts, type QuestionKind } from './kind'

const kind = Type.Literal('several-right')
const open = Type.Object(
  {
    ...{ ...openParts, kind, choices: Choices },
    shuffled: Type.Boolean(),
    /**
     * What earns points: only all choices as they should be (`all`); each choice that is rightly chosen or rightly left
     * (`parts`); or each right one that is chosen, less each wrong one, but never less than nothing (`penalty`).
     */
    grading: Type.Union([Type.Literal('all'), Type.Literal('parts'), Type.Literal('penalty')]),
  },
  closed,
)
const key = Type.Object({ ...keyParts, kind, right: Type.Array(Id, { maxItems: 20, uniqueItems: true }) }, closed)
const answer = Type.Object({ kind, choices: Type.Array(Id, { maxItems: 20, uniqueItems: true }) }, closed)
export const severalRightSchemas = { open, key, answer }
type Open = Static<typeof open>
type Key = Static<typeof key>
type Answer = Static<typeof answer>

/** In the order of the choices, so that the same choice reads the same. */
const said = ({ choices }: Open, ids: readonly string[]) =>
  choices
    .filter((c) => ids.includes(c.id))
    .map((c) => lineOf(c.text))
    .join('; ') || (ids.length > 0 ? textOf(choices, ids[0] ?? '') : '(none of them)')

export const severalRight = {
  name: 'Several right choices',
  asks: 'Choose all that are right',
  fresh(newId) {
    const choices = Array.from({ length: 4 }, () => ({ id: newId(), text: EMPTY }))
    return {
      open: { kind: 'several-right', choices, shuffled: false, grading: 'parts' },
      key: { kind: 'several-right', right: [] },
    }
  },
  copy(open, key, newId) {
    const { choices, now } = renamed(open.choices, newId)
    return { open: { ...open, choices }, key: { ...key, right: key.right.map((id) => now.get(id) ?? id) } }
  },
  problems: ({ choices }, { right }) => [
    ...choiceProblems(choices),
    ...(choices.some((c) => right.includes(c.id)) ? [] : ['Mark at least one right choice.']),
  ],
  answerProblem: ({ choices }, answer) =>
    answer.choices.every((id) => choices.some((c) => c.id === id)) ? null : 'This question has no such choice.',
  share({ choices, grading }, { right }, answer) {
    const chosen = new Set(answer.choices)
    const wanted = choices.filter((c) => right.includes(c.id)).length
    const hits = choices.filter((c) => chosen.has(c.id) && right.includes(c.id)).length
    const misses = choices.filter((c) => chosen.has(c.id) && !right.includes(c.id)).length
    if (grading === 'penalty') return wanted > 0 ? Math.max(0, (hits - misses) / wanted) : 0
    const asTheyShould = choices.length - (wanted - hits) - misses
    if (grading === 'parts') return asTheyShould / choices.length
    return asTheyShould === choices.length ? 1 : 0
  },
  tally: ({ choices }, { right }, answers) =>
    choices.map(({ id, text }) => ({
      ...{ id, text: lineOf(text), right: right.includes(id) },
      count: answers.filter((a) => a.choices.includes(id)).length,
    })),
  say: (open, answer) => said(open, answer.choices),
  sayKey: (open, { right }) => said(open, right),
} satisfies QuestionKind<Open, Key, Answer>
