/** What is made of text with emphasis and lists: words alone, and such text of words alone. */
import type { RichText, TextLine } from '../schema/rich-text'

/** Nothing written. */
export const EMPTY: RichText = []

/** Lines of plain text as paragraphs. */
export const richOf = (text: string): RichText =>
  text === ''
    ? []
    : text.split('\n').map((line): TextLine => ({ kind: 'paragraph', spans: line ? [{ text: line }] : [] }))

/** The number of each line that has one: lines of a list that follow one another are counted, those deeper anew. */
export function numbersOf(rich: RichText): (number | null)[] {
  let counts: number[] = []
  return rich.map(({ kind, level = 0 }) => {
    if (kind === 'paragraph') counts = []
    else counts = counts.slice(0, level + 1)
    if (kind !== 'number') return null
    return (counts[level] = (counts[level] ?? 0) + 1)
  })
}

/** Its words, line by line; those of lists with what stands before them. */
export function plainOf(rich: RichText): string {
  const numbers = numbersOf(rich)
  return rich
    .map(({ kind, level = 0, spans }, i) => {
      const mark = kind === 'bullet' ? '• ' : kind === 'number' ? `${numbers[i]}. ` : ''
      return '  '.repeat(level) + mark + spans.map((s) => s.text).join('')
    })
    .join('\n')
}

/** Its words on one line. */
export const lineOf = (rich: RichText): string => plainOf(rich).replace(/\s+/g, ' ').trim()

export const isEmpty = (rich: RichText): boolean => rich.every(({ spans }) => spans.every((s) => s.text.trim() === ''))
