/** A question with two or more choices, as tests ask it. */
import type { KeyOf, OpenOf } from '../core/questions/kinds'
import { EMPTY, richOf } from '../core/text/rich-text'

/** @param choices by their ids; the first is right */
export function oneRight(
  id: string,
  choices: Record<string, string> = { a: '1', b: '2' },
  { prompt = `${id}?`, hint = '', explanation = '', points = 1, right = Object.keys(choices)[0] ?? '' } = {},
): { open: OpenOf<'one-right'>; key: KeyOf<'one-right'> } {
  return {
    open: {
      ...{ id, kind: 'one-right', prompt: richOf(prompt), hint: richOf(hint), points, shuffled: false },
      choices: Object.entries(choices).map(([choice, text]) => ({ id: choice, text: richOf(text) })),
    },
    key: {
      questionId: id,
      kind: 'one-right',
      right,
      explanation: explanation ? richOf(explanation) : EMPTY,
      lookAt: null,
    },
  }
}

/** A longer answer that a person marks. */
export const longerAnswer = (id: string, points = 10) => ({
  open: { id, kind: 'longer' as const, prompt: richOf(`About ${id}`), hint: richOf(''), points, words: 0 },
  key: { questionId: id, kind: 'longer' as const, rubric: [], model: '', explanation: richOf(''), lookAt: null },
})
