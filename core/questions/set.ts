/** Sets of questions as an author writes them. */
import { InvalidDocument, parseAs } from '../schema/validate'
import { QuestionSet as QuestionSetSchema, type Checkpoint, type Question, type QuestionSet } from '../schema/questions'
import { EMPTY, isEmpty, lineOf, picturesOf, plainOf } from '../text/rich-text'
import type { RecordedTime } from '../time/units'
import { isGradedKind } from './grade'
import { textsIn } from './pictures'
import { kindOfQuestion, questionKinds, type OpenQuestion, type QuestionKey, type QuestionKindName } from './kinds'
import { DEFAULT_POLICY } from './policy'
import { upgradeSet } from './upgrade'

/** What keeps a question from being asked, as sentences; none when it is complete. */
export function questionProblems({ open, key }: Question): string[] {
  return [
    ...(isEmpty(open.prompt) ? [open.kind === 'note' ? 'Write the note.' : 'Write the question.'] : []),
    ...kindOfQuestion(open).problems(open, key),
    ...(textsIn({ open, key })
      .flatMap(picturesOf)
      .some((p) => p.description.trim() === '')
      ? ['Describe the picture, for those who cannot see it.']
      : []),
  ]
}

/** What keeps a checkpoint from being asked, as sentences; none when it is complete. */
export const checkpointProblems = ({ questions }: Checkpoint): string[] =>
  questions.flatMap((q, i) =>
    questionProblems(q).map((problem) => (questions.length > 1 ? `Question ${i + 1}: ${problem}` : problem)),
  )

/** A question as a person can tell it from another, with what is right. */
export function sayQuestion({ open, key }: Question): string {
  const kind = kindOfQuestion(open)
  const right = kind.sayKey(open, key)
  const choices =
    'choices' in open && open.kind !== 'order'
      ? kind.tally(open, key, []).map((c) => `${c.right ? '✓' : '–'} ${c.text}`)
      : right
        ? [`✓ ${right}`]
        : []
  return [plainOf(open.prompt) || 'A question without words yet', ...choices].join('\n')
}

export const sayCheckpoint = ({ questions }: Checkpoint): string => questions.map(sayQuestion).join('\n\n')

/** A checkpoint in a few words. */
export const nameCheckpoint = ({ questions }: Checkpoint): string =>
  questions.map((q) => lineOf(q.open.prompt)).find(Boolean) ?? 'Question'

/** Reads a question set of any version from outside. @throws {InvalidDocument} */
export function readQuestionSet(data: unknown): QuestionSet {
  const set = parseAs(QuestionSetSchema, upgradeSet(data), 'question set')
  for (const { id, questions } of set.checkpoints)
    for (const { open, key } of questions) {
      if (key.questionId !== open.id)
        throw new InvalidDocument('question set', [`a key of checkpoint ${id} belongs to another question`])
      if (key.kind !== open.kind)
        throw new InvalidDocument('question set', [`a key of checkpoint ${id} is of another kind than its question`])
    }
  return set
}

/** Two at one instant stand in a fixed order. */
export const byCheckpoint = (a: Checkpoint, b: Checkpoint): number => a.at - b.at || (a.id < b.id ? -1 : 1)

export const newQuestionSet = (title: string): QuestionSet => ({
  format: 'thaw-questions',
  version: 4,
  title,
  policy: DEFAULT_POLICY,
  checkpoints: [],
})

/** A question of a kind that nobody has written yet. */
export function newQuestion(kind: QuestionKindName, newId: () => string): Question {
  const id = newId()
  const { open, key } = questionKinds[kind].fresh(newId)
  const points = isGradedKind(kind) ? 1 : 0
  return {
    open: { id, prompt: EMPTY, hint: EMPTY, points, ...open } as OpenQuestion,
    key: { questionId: id, explanation: EMPTY, lookAt: null, ...key } as QuestionKey,
  }
}

/** The same question as another kind: what both have in common stays, and choices where both have some. */
export function asKind({ open, key }: Question, kind: QuestionKindName, newId: () => string): Question {
  if (open.kind === kind) return { open, key }
  const fresh = newQuestion(kind, newId)
  const { id, prompt, hint } = open
  const points = isGradedKind(kind) ? open.points || fresh.open.points : 0
  const same = { ...fresh.open, id, prompt, hint, points } as OpenQuestion
  const { questionId, explanation, lookAt } = key
  const sameKey = { ...fresh.key, questionId, explanation, lookAt } as QuestionKey
  if (!('choices' in open) || !('choices' in same)) return { open: same, key: sameKey }
  const { choices } = open
  const right = 'right' in key ? (Array.isArray(key.right) ? key.right : [key.right]) : []
  const ids = choices.map((c) => c.id)
  if (sameKey.kind === 'one-right') sameKey.right = ids.find((i) => right.includes(i)) ?? ids[0] ?? ''
  if (sameKey.kind === 'several-right') sameKey.right = key.kind === 'order' ? [] : ids.filter((i) => right.includes(i))
  if (sameKey.kind === 'order') sameKey.right = ids
  return { open: { ...same, choices }, key: sameKey }
}

/** A copy under ids of its own, as an answer names its question alone. */
export function copyQuestion({ open, key }: Question, newId: () => string): Question {
  const id = newId()
  const copy = kindOfQuestion(open).copy?.(open, key, newId) ?? { open, key }
  return { open: { ...copy.open, id }, key: { ...copy.key, questionId: id } }
}

export const copyCheckpoint = (checkpoint: Checkpoint, newId: () => string): Checkpoint => ({
  ...checkpoint,
  id: newId(),
  questions: checkpoint.questions.map((q) => copyQuestion(q, newId)),
})

/** A checkpoint with a question of a kind that nobody has written yet. */
export const newCheckpoint = (
  at: RecordedTime,
  newId: () => string,
  kind: QuestionKindName = 'one-right',
): Checkpoint => ({ id: newId(), at, questions: [newQuestion(kind, newId)] })
