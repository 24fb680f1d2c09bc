/**
 * What the service types. Nobody listens: it takes what the order sent along, writes the words of the list as they stand
 * there, and sets sentences; without a draft it lets a program listen.
 */
import { escapeText, plainText } from '../../core/captions/text'
import { patternOf } from '../../core/captions/replace'
import { reflow } from '../../core/captions/reflow'
import { writeVtt } from '../../core/captions/vtt'
import type { CaptionOrder } from '../../core/schema/captioning'
import type { Cue, Word } from '../../core/schema/captions'
import type { Fault } from './service'

const capital = (text: string) => text.replace(/\p{L}/u, (letter) => letter.toUpperCase())

/** Writes what stands in the list as it does there. */
function byList(text: string, words: CaptionOrder['words']): string {
  for (const { text: word, heard } of words)
    for (const find of [word, ...heard]) {
      const pattern = patternOf({ find, replace: word, wholeWords: true, matchCase: false })
      if (pattern) text = text.replace(pattern, () => word)
    }
  return text
}

/** Cues as a person who listens would leave them. */
export function typed(cues: readonly Cue[], order: Pick<CaptionOrder, 'words'>): Cue[] {
  return cues.map(({ id, from, to, text, settings }, i) => {
    const last = cues[i - 1]
    const begins = !last || from - last.to > 0.4 || /[.!?]\s*$/.test(plainText(last.text))
    const ends = !cues[i + 1] || (cues[i + 1]?.from ?? 0) - to > 0.4
    let said = byList(plainText(text), order.words).replace(/\bi\b/g, 'I')
    if (begins) said = capital(said)
    if (ends && !/[.!?,;:]\s*$/.test(said)) said += '.'
    return { id, from, to, text: escapeText(said), ...(settings && { settings }) }
  })
}

let n = 0
export const cuesOf = (words: readonly Word[]): Cue[] => reflow(words, () => `f${++n}`)

/** What is sent, once for each time; with what the service was told to do wrong. */
export function deliveries(cues: readonly Cue[], fault: Fault): string[] {
  const whole = writeVtt({ cues: [...cues] })
  switch (fault) {
    case 'wrong':
      return [
        writeVtt({
          cues: cues.map((c) => ({ ...c, text: 'The committee met again and put the budget to a vote.' })),
        }),
      ]
    case 'short':
      return [writeVtt({ cues: cues.slice(0, Math.ceil(0.55 * cues.length)) })]
    case 'garbled':
      return [whole.replace(/(\d\d):(\d\d\.\d{3}) -->/, '$1:xx -->')]
    case 'twice':
      return [whole, writeVtt({ cues: cues.map((c, i) => (i === 0 ? { ...c, text: `${c.text} [pause]` } : c)) })]
    case 'none':
    case 'late':
      return [whole]
  }
}
