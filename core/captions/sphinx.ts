/**
 * The recogniser's output: `pocketsphinx_continuous -time yes` prints a line a word, `word start end posterior`
 * (s, s, 0–1), with `<s>`, `</s>`, `<sil>` and bracketed fillers between, and `word(2)` for another pronunciation.
 */
import type { Word } from '../schema/captions'
import { recorded } from '../time/units'

/** One line of its output as a word, or null for everything that is not one. */
export function readSphinxLine(line: string): Word | null {
  const m = /^(\S+) (\d+(?:\.\d+)?) (\d+(?:\.\d+)?) (\d+(?:\.\d+)?(?:e-?\d+)?)$/.exec(line.trim())
  if (!m || /^[<[+]/.test(m[1] ?? '')) return null
  const [, text = '', from, to, posterior] = m
  // An end of 0.30 is that frame's start; frames are 10 ms long.
  return {
    text: text.replace(/\(\d+\)$/, ''),
    from: recorded(Number(from)),
    to: recorded(Number(to) + 0.01),
    confidence: Math.min(1, Number(posterior)),
  }
}
