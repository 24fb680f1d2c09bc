/**
 * What could be taken out by what is said: filled pauses, words said twice in a row, and starts that were begun again.
 * The kinds of repair are those of E. Shriberg, “Preliminaries to a Theory of Speech Disfluencies” (1994):
 *
 *     the snow   the snow falls       repetition: the first is taken out
 *     if we look … if we measure      restart: what came before is, where a pause shows that it was given up
 *     and  um  then                   filled pause
 */
import type { ProposedCut } from '../sound/silence'
import type { RecordedTime } from '../time/units'
import type { CaptionTrack } from '../schema/captions'
import { rangeOfRun, spokenWords, type SpokenWord, type WordRun } from './spoken'
import { comparable } from './text'

export type WordCutReason = 'filled-pause' | 'repetition' | 'restart'
export interface ProposedWordCut extends Omit<ProposedCut, 'reason'> {
  reason: WordCutReason
}

const FILLED = new Set(['um', 'umm', 'uh', 'uhh', 'uhm', 'er', 'err', 'erm', 'hm', 'hmm', 'mm', 'mhm', 'eh', 'ah'])
/** Words that are said twice on purpose. */
const TWICE = new Set([
  'very',
  'really',
  'much',
  'many',
  'so',
  'no',
  'yes',
  'had',
  'that',
  'far',
  'long',
  'bye',
  'there',
  'more',
])
/** Longest repetition, and words that may stand between a start and the one that took its place. */
const LONGEST = 4
const BETWEEN = 4
/** A pause, s, after which a start was begun again; and how long a repetition may take to come. */
const GIVEN_UP = 0.25
const AT_ONCE = 1.2

/** By the captions of a lecture: only a recogniser writes down what was said in vain; what a person wrote has been read. */
export const proposeFromTrack = (track: CaptionTrack | null, whole: RecordedTime): ProposedWordCut[] =>
  track?.source === 'recogniser' ? proposeWordCuts(spokenWords(track.cues), whole) : []

/**
 * @param words of the whole lecture, in time order
 * @param whole length of the recording, s
 */
export function proposeWordCuts(words: readonly SpokenWord[], whole: RecordedTime): ProposedWordCut[] {
  const said = words.map((w) => comparable(w.text))
  /** What is said between filled pauses, by its indexes. */
  const spoken = said.flatMap((word, i) => (word && !FILLED.has(word) ? [i] : []))
  const taken = new Array<boolean>(words.length).fill(false)
  const out: ProposedWordCut[] = []
  const propose = (run: WordRun, reason: WordCutReason, says: string) => {
    for (let i = run.first; i <= run.last; i++) taken[i] = true
    out.push({ ...rangeOfRun(words, run, whole), reason, says })
  }
  const text = (from: number, to: number) =>
    spoken
      .slice(from, to)
      .map((i) => words[i]?.text ?? '')
      .join(' ')
  const word = (k: number) => said[spoken[k] ?? -1]
  const alike = (a: number, b: number, length: number) =>
    Array.from({ length }, (_, n) => n).every((n) => word(a + n) !== undefined && word(a + n) === word(b + n))
  /** The pause before a word, s. */
  const pauseBefore = (k: number) => {
    const [now, last] = [words[spoken[k] ?? -1], words[spoken[k - 1] ?? -1]]
    return now && last ? now.from - last.to : 0
  }

  for (let k = 0; k < spoken.length; k++) {
    const first = spoken[k] as number
    let next = 0
    let reason: WordCutReason = 'repetition'
    for (let n = LONGEST; n >= 1 && next === 0; n--)
      if (
        alike(k, k + n, n) &&
        pauseBefore(k + n) < AT_ONCE &&
        !(n === 1 && TWICE.has(word(k) ?? '')) &&
        !/^\d+$/.test(word(k) ?? '')
      )
        next = k + n
    for (let gap = 3; gap <= BETWEEN + 2 && next === 0; gap++)
      if (alike(k, k + gap, 2) && pauseBefore(k + gap) >= GIVEN_UP) {
        next = k + gap
        reason = 'restart'
      }
    if (next === 0) continue
    const last = (spoken[next] as number) - 1
    const phrase = text(k, next)
    propose(
      { first, last },
      reason,
      reason === 'repetition' ? `“${phrase}” is said twice.` : `“${phrase}” was begun again.`,
    )
    k = next - 1
  }
  for (let i = 0; i < words.length; i++) {
    if (taken[i] || !FILLED.has(said[i] ?? '')) continue
    let last = i
    while (last + 1 < words.length && !taken[last + 1] && FILLED.has(said[last + 1] ?? '')) last++
    propose(
      { first: i, last },
      'filled-pause',
      `“${words
        .slice(i, last + 1)
        .map((w) => w.text)
        .join(' ')}”`,
    )
    i = last
  }
  return out.sort((a, b) => a.from - b.from)
}
