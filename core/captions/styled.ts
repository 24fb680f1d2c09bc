/** Cue text as lines of what is set the same way, with who speaks written out: for forms that know no voices. */
import { spansOf, type Span } from './markup'

/** A line of cue text, in what is set the same way. */
export type StyledLine = readonly Pick<Span, 'text' | 'italic' | 'bold' | 'underlined'>[]

export function styledLines(cueText: string): StyledLine[] {
  const lines: Pick<Span, 'text' | 'italic' | 'bold' | 'underlined'>[][] = [[]]
  for (const { text, speaker, ...set } of spansOf(cueText)) {
    if (speaker) lines.at(-1)?.push({ text: `${speaker}: `, italic: false, bold: false, underlined: false })
    text.split('\n').forEach((part, i) => {
      if (i > 0) lines.push([])
      if (part) lines.at(-1)?.push({ text: part, ...set })
    })
  }
  return lines
}
