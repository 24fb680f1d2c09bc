/**
 * From recognised words to cues a person can read: broken at pauses, held to two lines and to a length of
 * time. Limits follow common practice for adult English captions (42 characters a line, two lines, 7 s).
 */
import type { Cue, Word } from '../schema/captions'
import { recorded } from '../time/units'
import { escapeText } from './text'

export interface ReflowLimits {
  /** Characters a line. */
  lineLength: number
  /** Longest cue, s. */
  longest: number
  /** Shortest cue, s; extended into a following pause only. */
  shortest: number
  /** A silence of this many seconds always ends a cue. */
  pause: number
  /** A sentence that ends after at least this many characters ends its cue. */
  sentence: number
}

export const captionLimits: ReflowLimits = { lineLength: 42, longest: 7, shortest: 1, pause: 0.7, sentence: 24 }

/** Breaks a text in two lines as evenly as words allow, when one line does not hold it. */
export function breakLines(words: readonly string[], lineLength: number): string {
  const whole = words.join(' ')
  if (whole.length <= lineLength) return whole
  let best = whole
  let bestSpread = Infinity
  for (let i = 1; i < words.length; i++) {
    const a = words.slice(0, i).join(' ')
    const b = words.slice(i).join(' ')
    const spread = Math.abs(a.length - b.length)
    if (spread < bestSpread) {
      bestSpread = spread
      best = `${a}\n${b}`
    }
  }
  return best
}

/** Whether these words fit two lines of `lineLength`. */
function fits(words: readonly string[], lineLength: number): boolean {
  return (
    breakLines(words, lineLength)
      .split('\n')
      .every((line) => line.length <= lineLength) || words.length === 1
  )
}

/** Groups recognised words (sorted by time) into cues. */
export function reflow(words: readonly Word[], newId: () => string, limits: ReflowLimits = captionLimits): Cue[] {
  const groups: Word[][] = []
  for (const word of words) {
    const group = groups.at(-1)
    const last = group?.at(-1)
    const first = group?.[0]
    const ended =
      last !== undefined &&
      /[.!?]["”’)]*$/.test(last.text) &&
      group !== undefined &&
      group.map((w) => w.text).join(' ').length >= limits.sentence
    const goesOn =
      group &&
      last &&
      first &&
      !ended &&
      word.from - last.to < limits.pause &&
      word.to - first.from <= limits.longest &&
      fits([...group.map((w) => w.text), word.text], limits.lineLength)
    if (goesOn) group.push(word)
    else groups.push([word])
  }
  return groups.flatMap((group, i) => {
    const first = group[0]
    const last = group.at(-1)
    if (!first || !last) return []
    const next = groups[i + 1]?.[0]?.from ?? Infinity
    const to = Math.min(Math.max(last.to, first.from + limits.shortest), Math.max(last.to, next))
    return [
      {
        id: newId(),
        from: first.from,
        to: recorded(to),
        text: escapeText(
          breakLines(
            group.map((w) => w.text),
            limits.lineLength,
          ),
        ),
        words: group,
      },
    ]
  })
}
