/** Grading of one answer. The key is an argument of its own: only the server and the author's browser have one. */
import type { Checkpoint, OpenQuestion, QuestionKey, QuestionSet, SetPolicy } from '../schema/questions'
import { InvalidDocument, parseAs } from '../schema/validate'
import { QuestionSet as QuestionSetSchema } from '../schema/questions'
import type { RecordedTime } from '../time/units'

export interface Grade {
  right: boolean
  points: number
}

/** @param choiceId what was handed in */
export function grade(question: OpenQuestion, key: QuestionKey, choiceId: string): Grade {
  const right = choiceId === key.right
  return { right, points: right ? question.points : 0 }
}

/** What keeps a checkpoint from being asked, as sentences; none when it is complete. */
export function checkpointProblems({ question, key }: Checkpoint): string[] {
  const problems: string[] = []
  if (!question.prompt.trim()) problems.push('Write the question.')
  const empty = question.choices.filter((c) => !c.text.trim()).length
  if (empty) problems.push(empty === 1 ? 'One choice is empty.' : `${empty} choices are empty.`)
  const texts = question.choices.map((c) => c.text.trim().toLowerCase()).filter(Boolean)
  if (new Set(texts).size < texts.length) problems.push('Two choices say the same.')
  if (!question.choices.some((c) => c.id === key.right)) problems.push('Mark the right choice.')
  return problems
}

/** A question as a person can tell it from another, with its right choice marked. */
export const sayCheckpoint = ({ question, key }: Checkpoint): string =>
  [
    question.prompt || 'A question without words yet',
    ...question.choices.map((c) => `${c.id === key.right ? '✓' : '–'} ${c.text}`),
  ].join('\n')

/** What held for every set before there was a choice. */
export const DEFAULT_POLICY: SetPolicy = { feedback: 'at-once' }

/** Version 1 had no policy. What is something else stays as it is. */
const upgraded = (data: unknown): unknown =>
  typeof data === 'object' && data !== null && 'version' in data && data.version === 1
    ? { policy: DEFAULT_POLICY, ...data, version: 2 }
    : data

/** Reads a question set of any version from outside. @throws {InvalidDocument} */
export function readQuestionSet(data: unknown): QuestionSet {
  const set = parseAs(QuestionSetSchema, upgraded(data), 'question set')
  for (const { id, question, key } of set.checkpoints)
    if (key.questionId !== question.id)
      throw new InvalidDocument('question set', [`the key of checkpoint ${id} belongs to another question`])
  return set
}

/** Two at one instant stand in a fixed order. */
export const byCheckpoint = (a: Checkpoint, b: Checkpoint): number => a.at - b.at || (a.id < b.id ? -1 : 1)

export function newQuestionSet(title: string): QuestionSet {
  return { format: 'thaw-questions', version: 2, title, policy: DEFAULT_POLICY, checkpoints: [] }
}

/** A copy under ids of its own, as an answer names its question alone. */
export function copyCheckpoint(checkpoint: Checkpoint, newId: () => string): Checkpoint {
  const questionId = newId()
  return {
    ...checkpoint,
    id: newId(),
    question: { ...checkpoint.question, id: questionId },
    key: { ...checkpoint.key, questionId },
  }
}

/** A checkpoint with an unwritten question of four choices, the first marked right. */
export function newCheckpoint(at: RecordedTime, newId: () => string): Checkpoint {
  const questionId = newId()
  const choices = Array.from({ length: 4 }, () => ({ id: newId(), text: '' }))
  return {
    id: newId(),
    at,
    question: { id: questionId, kind: 'one-right', prompt: '', choices, hint: '', points: 1 },
    key: { questionId, right: choices[0]?.id ?? '', explanation: '' },
  }
}
