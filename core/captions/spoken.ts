/** What is said, word by word: to find phrases in, and to take words out by. */
import type { Cue } from '../schema/captions'
import { recorded, type RecordedRange, type RecordedTime } from '../time/units'
import { comparable } from './text'
import { realignWords } from './track'

export interface SpokenWord extends RecordedRange {
  text: string
}

/** A run of words, by their indexes: from the first to the last one (with it). */
export interface WordRun {
  first: number
  last: number
}

/** The words of cues that stand in time order. What no recogniser heard shares its cue's time. */
export const spokenWords = (cues: readonly Cue[]): SpokenWord[] =>
  cues.flatMap((cue) =>
    realignWords(cue, cue.text).map(({ text, from, to }) => ({ text, from: recorded(from), to: recorded(to) })),
  )

/**
 * Where words say a phrase, whatever its case and punctuation; runs do not overlap. An empty phrase is nowhere.
 */
export function findRuns(words: readonly Pick<SpokenWord, 'text'>[], phrase: string): WordRun[] {
  const wanted = phrase.split(/\s+/).map(comparable).filter(Boolean)
  const said = words.map((w) => comparable(w.text))
  const runs: WordRun[] = []
  if (wanted.length === 0) return runs
  for (let i = 0; i + wanted.length <= said.length; i++) {
    if (!wanted.every((word, k) => said[i + k] === word)) continue
    runs.push({ first: i, last: i + wanted.length - 1 })
    i += wanted.length - 1
  }
  return runs
}

/**
 * What has to be taken out for a run of words not to be heard: from the middle of the pause before it to the middle of
 * the one after, so that what is left runs on as it would, and no other word is touched.
 * @param whole length of the recording, s
 */
export function rangeOfRun(
  words: readonly RecordedRange[],
  { first, last }: WordRun,
  whole: RecordedTime,
): RecordedRange {
  const [begin, end] = [words[first], words[last]]
  if (!begin || !end) throw new RangeError('These words are not there.')
  const middle = (a: number, b: number) => (a + b) / 2
  const before = words[first - 1]
  const after = words[last + 1]
  const from = before ? middle(before.to, begin.from) : begin.from
  const to = after ? middle(end.to, after.from) : end.to
  return { from: recorded(Math.max(0, from)), to: recorded(Math.min(whole, Math.max(from, to))) }
}
