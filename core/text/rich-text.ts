/** What is made of text with emphasis and lists: words alone, and such text of words alone. */
import type { PictureLine, RichText, TextLine } from '../schema/rich-text'

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
  return rich.map((line) => {
    if (line.kind === 'paragraph' || line.kind === 'picture') {
      counts = []
      return null
    }
    const { kind, level = 0 } = line
    counts = counts.slice(0, level + 1)
    if (kind !== 'number') return null
    return (counts[level] = (counts[level] ?? 0) + 1)
  })
}

/** Its words, line by line; those of lists with what stands before them, pictures as what they show, formulas as TeX. */
export function plainOf(rich: RichText): string {
  const numbers = numbersOf(rich)
  return rich
    .map((line, i) => {
      if (line.kind === 'picture') return `[${line.description}]`
      const { kind, level = 0, spans } = line
      const mark = kind === 'bullet' ? '• ' : kind === 'number' ? `${numbers[i]}. ` : ''
      return '  '.repeat(level) + mark + spans.map((s) => s.text).join('')
    })
    .join('\n')
}

/** Its words on one line. */
export const lineOf = (rich: RichText): string => plainOf(rich).replace(/\s+/g, ' ').trim()

export const isEmpty = (rich: RichText): boolean =>
  rich.every((line) => line.kind !== 'picture' && line.spans.every((s) => s.text.trim() === ''))

export const picturesOf = (rich: RichText): PictureLine[] =>
  rich.filter((line): line is PictureLine => line.kind === 'picture')
