/**
 * Questions, keys and answers as earlier versions wrote them. Up to version 2 of a set each checkpoint asked one
 * question, of which one choice was right, and all texts were plain.
 */
import { richOf } from '../text/rich-text'
import type { RichText } from '../schema/rich-text'
import type { SetPolicy } from '../schema/questions'

type Fields = Record<string, unknown>
const isFields = (data: unknown): data is Fields => typeof data === 'object' && data !== null && !Array.isArray(data)
const rich = (text: unknown): RichText | unknown => (typeof text === 'string' ? richOf(text) : text)

/** What held for every set before there was a choice. */
export const DEFAULT_POLICY: SetPolicy = { feedback: 'at-once' }

/** A question without its key, of any version; what is something else stays as it is. */
export function upgradeOpen(data: unknown): unknown {
  if (!isFields(data) || typeof data.prompt !== 'string' || !Array.isArray(data.choices)) return data
  const choices = data.choices.map((c: unknown) => (isFields(c) ? { ...c, text: rich(c.text) } : c))
  return { ...data, prompt: rich(data.prompt), hint: rich(data.hint), choices, shuffled: false }
}

/** A key of any version. */
export const upgradeKey = (data: unknown): unknown =>
  isFields(data) && typeof data.explanation === 'string'
    ? { kind: 'one-right', ...data, explanation: rich(data.explanation), lookAt: null }
    : data

/** A checkpoint of a set, or of a published one, of any version. */
export function upgradeCheckpoint(data: unknown): unknown {
  if (!isFields(data) || !('question' in data)) return data
  const { question, key, ...same } = data
  const open = upgradeOpen(question)
  return { ...same, questions: [key === undefined ? open : { open, key: upgradeKey(key) }] }
}

/** A set of any version. Version 1 had no policy. */
export function upgradeSet(data: unknown): unknown {
  if (!isFields(data) || (data.version !== 1 && data.version !== 2)) return data
  const { checkpoints } = data
  return {
    policy: DEFAULT_POLICY,
    ...data,
    version: 3,
    checkpoints: Array.isArray(checkpoints) ? checkpoints.map(upgradeCheckpoint) : checkpoints,
  }
}

/** A choice or an answer of when all that could be answered was a choice. */
export function upgradeAnswer(data: unknown): unknown {
  if (!isFields(data) || !('choiceId' in data)) return data
  const { choiceId, ...same } = data
  return { ...same, answer: { kind: 'one-right', choice: choiceId } }
}

/** What was chosen and not handed in, of when all that could be answered was a choice. */
export const upgradeSelections = (data: unknown): unknown =>
  isFields(data) && isFields(data.chosen)
    ? {
        answers: Object.fromEntries(
          Object.entries(data.chosen).map(([question, choice]) => [question, { kind: 'one-right', choice }]),
        ),
      }
    : data
