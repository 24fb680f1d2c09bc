/** What questions with choices have in common. */
import { isEmpty, lineOf } from '../../text/rich-text'
import type { Choice } from './kind'

/** What keeps choices from being asked, as sentences. @param noun such as “choice” */
export function choiceProblems(choices: readonly Choice[], noun = 'choice'): string[] {
  const empty = choices.filter((c) => isEmpty(c.text)).length
  const written = choices.filter((c) => !isEmpty(c.text)).map((c) => JSON.stringify(c.text).toLowerCase())
  return [
    ...(empty > 0 ? [empty === 1 ? `One ${noun} is empty.` : `${empty} ${noun}s are empty.`] : []),
    ...(new Set(written).size < written.length ? [`Two ${noun}s say the same.`] : []),
  ]
}

export const textOf = (choices: readonly Choice[], id: string): string => {
  const choice = choices.find((c) => c.id === id)
  return choice ? lineOf(choice.text) : '(a choice that is gone)'
}

/** Choices under new ids, and what each was called before. */
export function renamed(
  choices: readonly Choice[],
  newId: () => string,
): { choices: Choice[]; now: Map<string, string> } {
  const now = new Map(choices.map((c) => [c.id, newId()]))
  return { choices: choices.map((c) => ({ ...c, id: now.get(c.id) ?? c.id })), now }
}
