/**
 * Finding and replacing words in captions. What is found is what a reader sees; tags that stand in between stay where they
 * are.
 */
import type { CaptionTrack, Cue } from '../schema/captions'
import type { RecordedTime } from '../time/units'
import { escapeText, letters, plainText, tokens } from './text'
import { realignWords } from './track'

export interface Wanted {
  find: string
  replace: string
  /** Whether only whole words are found. */
  wholeWords: boolean
  /** Whether capitals count. */
  matchCase: boolean
}

/** What replacing would make of a cue. */
export interface Replacement {
  cueId: string
  from: RecordedTime
  /** What a reader sees, before and after. */
  before: string
  after: string
  /** How often it is found in it. */
  count: number
  /** The cue's text afterwards, as WebVTT writes it. */
  text: string
}

/** A letter, mark or digit: what words are made of. */
const inWord = String.raw`[\p{L}\p{M}\p{N}]`

/** The pattern that finds what is wanted; null where nothing is. White space stands for any, also for a line's end. */
export function patternOf({ find, wholeWords, matchCase }: Wanted): RegExp | null {
  const words = find.trim().split(/\s+/).filter(Boolean)
  if (words.length === 0) return null
  const quoted = words.map((w) => w.replace(/[.*+?^${}()|[\]\\/]/g, String.raw`\$&`)).join(String.raw`\s+`)
  const bounded = wholeWords ? `(?<!${inWord})(?:${quoted})(?!${inWord})` : quoted
  return new RegExp(bounded, matchCase ? 'gu' : 'giu')
}

/** Replaces the how manieth word of cue text, from 0; tags stay. */
export const replaceWord = (text: string, index: number, by: string): string =>
  replaceText(text, /\S+/gu, by, (n) => n === index).text

/** Replaces what a pattern finds in cue text. @returns the text, and how often it was found */
function replaceText(
  text: string,
  pattern: RegExp,
  by: string,
  isWanted: (n: number) => boolean = () => true,
): { text: string; count: number } {
  const found = letters(text)
  const plain = found.map((l) => l.letter).join('')
  // Where each letter begins in the plain text: those beyond the first plane are two units long.
  const starts: number[] = []
  let unit = 0
  for (const { letter } of found) {
    starts.push(unit)
    unit += letter.length
  }
  let [out, done, count] = ['', 0, 0]
  for (const [n, match] of [...plain.matchAll(pattern)].entries()) {
    if (!isWanted(n)) continue
    const first = starts.indexOf(match.index)
    const last = starts.findLastIndex((s) => s < match.index + match[0].length)
    const begins = found[first]
    if (first < 0 || !begins || match[0] === '') continue
    count++
    out += text.slice(done, begins.at) + escapeText(by)
    done = begins.end
    // What is replaced goes letter by letter: a tag between two of them stays.
    for (const letter of found.slice(first + 1, last + 1)) {
      out += text.slice(done, letter.at)
      done = letter.end
    }
  }
  return { text: out + text.slice(done), count }
}

/** What of a cue is looked through; `plain` is what a reader sees, where that was worked out before. */
export interface Searched extends Pick<Cue, 'id' | 'from' | 'text'> {
  plain?: string
}

/** What replacing would change in a track, cue by cue. */
export function findReplacements(track: { cues: readonly Searched[] }, wanted: Wanted): Replacement[] {
  const pattern = patternOf(wanted)
  if (!pattern) return []
  // Few cues of many have it: only in those it matters where each letter stands.
  const anywhere = new RegExp(pattern.source, pattern.flags.replace('g', ''))
  return track.cues.flatMap((cue) => {
    const before = cue.plain ?? plainText(cue.text)
    if (!anywhere.test(before)) return []
    const { text, count } = replaceText(cue.text, pattern, wanted.replace)
    return count > 0 ? [{ cueId: cue.id, from: cue.from, before, after: plainText(text), count, text }] : []
  })
}

/** A track with replacements made; words keep their times. */
export function replaceIn(track: CaptionTrack, replacements: readonly Replacement[]): CaptionTrack {
  const by = new Map(replacements.map((r) => [r.cueId, r]))
  const changed = (cue: Cue): Cue => {
    const found = by.get(cue.id)
    if (!found || found.text === cue.text) return cue
    const { words, ...rest } = cue
    const next = { ...rest, text: found.text }
    return words && tokens(found.text).length > 0 ? { ...next, words: realignWords(cue, found.text) } : next
  }
  return { ...track, cues: track.cues.map(changed) }
}
