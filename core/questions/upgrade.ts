/**
 * Questions, keys and answers as earlier versions wrote them. Up to version 2 of a set each checkpoint asked one
 * question, of which one choice was right, and all texts were plain.
 */
import { richOf } from '../text/rich-text'
import type { RichText } from '../schema/rich-text'
import { DEFAULT_POLICY } from './policy'

type Fields = Record<string, unknown>
const isFields = (data: unknown): data is Fields => typeof data === 'object' && data !== null && !Array.isArray(data)
const rich = (text: unknown): RichText | unknown => (typeof text === 'string' ? richOf(text) : text)

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

/** A policy of any version: until version 4 of a set it said only whether students are told at once. */
export function upgradePolicy(data: unknown): unknown {
  if (!isFields(data) || 'solutions' in data) return data
  const from = data.feedback === 'none' ? 'never' : 'answered'
  return { ...DEFAULT_POLICY, ...{ feedback: from, score: from, solutions: from } }
}

/** A set of any version. Version 1 had no policy. */
export function upgradeSet(data: unknown): unknown {
  if (!isFields(data) || ![1, 2, 3].includes(data.version as number)) return data
  const { checkpoints, policy = {} } = data
  return {
    ...data,
    policy: upgradePolicy(policy),
    version: 4,
    checkpoints: Array.isArray(checkpoints) ? checkpoints.map(upgradeCheckpoint) : checkpoints,
  }
}

/** A choice or an answer of when all that could be answered was a choice. */
export function upgradeAnswer(data: unknown): unknown {
  if (!isFields(data) || !('choiceId' in data)) return data
  const { choiceId, ...same } = data
  return { ...same, answer: { kind: 'one-right', choice: choiceId } }
}

/**
 * What was begun and not handed in, of any version: until there was a choice of kinds, choices; until there could be
 * several attempts, answers.
 */
export function upgradeSelections(data: unknown): unknown {
  if (!isFields(data)) return data
  const begun = isFields(data.chosen) ? data.chosen : isFields(data.answers) ? data.answers : {}
  const answers = Object.entries(begun).map(([question, one]) => {
    const answer = typeof one === 'string' ? { kind: 'one-right', choice: one } : one
    return [question, isFields(answer) && 'kind' in answer ? { attempt: 1, answer } : answer]
  })
  return { answers: Object.fromEntries(answers) }
}
