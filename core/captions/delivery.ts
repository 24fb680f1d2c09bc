/** What speaks against captions that came from somewhere else being those of a lecture, found before they are taken. */
import { sayDuration, formatTimecode } from '../time/timecode'
import type { RecordedRange } from '../time/units'
import type { Cue } from '../schema/captions'
import { sayCount } from '../text/words'
import { comparable, tokens } from './text'
import type { FileProblem } from './vtt'

export interface DeliveredTo {
  /** Of the recording, s. */
  duration: number
  /** Where somebody speaks, in order; null while that is not known. */
  speech: readonly RecordedRange[] | null
  /** What a recogniser or a person wrote before; empty when there is nothing. */
  before: readonly Cue[]
}

/** Speech of so many s in a row without a cue is missing; less may be a cough, or a word that nobody understands. */
const GAP = 8
/** Shorter stretches count together, where they are this share of all speech; nothing below so many s does. */
const MISSING = 0.15
const LEAST = 3
/** Cues that end this much behind the recording are not of it, s. */
const BEYOND = 2
/** Share of the words of what was there before that are found again, at least: recognisers get about two of three right. */
const ALIKE = 0.3
/** So few words say nothing of that. */
const ENOUGH = 30

/** Share of the words of one text that another has too, each counted as often as it stands there. */
function shared(before: readonly string[], now: readonly string[]): number {
  const left = new Map<string, number>()
  for (const word of now) left.set(word, (left.get(word) ?? 0) + 1)
  let found = 0
  for (const word of before) {
    const n = left.get(word) ?? 0
    if (n > 0) found++
    left.set(word, n - 1)
  }
  return before.length === 0 ? 1 : found / before.length
}

/** Stretches of speech over which no cue is shown. */
function uncovered(speech: readonly RecordedRange[], cues: readonly Cue[]): { from: number; to: number }[] {
  const gaps: { from: number; to: number }[] = []
  for (const range of speech) {
    let at: number = range.from
    for (const cue of cues) {
      if (cue.to <= at || cue.from >= range.to) continue
      if (cue.from - at > 0) gaps.push({ from: at, to: cue.from })
      at = Math.max(at, cue.to)
    }
    if (at < range.to) gaps.push({ from: at, to: range.to })
  }
  // What is parted by a short pause only is one stretch.
  const joined: { from: number; to: number }[] = []
  for (const gap of gaps) {
    const last = joined.at(-1)
    if (last && gap.from - last.to < 1.5 && !cues.some((c) => c.from < gap.from && c.to > last.to)) last.to = gap.to
    else joined.push({ ...gap })
  }
  return joined.filter((g) => g.to - g.from >= LEAST)
}

/** Sentences for a person; none when they can be taken as they are. */
export function deliveryProblems(
  cues: readonly Cue[],
  lines: readonly FileProblem[],
  { duration, speech, before }: DeliveredTo,
): string[] {
  const problems: string[] = []
  const [first] = lines
  if (first)
    problems.push(`${sayCount(lines.length, 'line', 'lines')} could not be read; line ${first.line}: ${first.reason}`)
  if (cues.length === 0) return [...problems, 'There is no cue in it.']
  const beyond = cues.filter((c) => c.to > duration + BEYOND)
  if (beyond.length > 0)
    problems.push(
      `${sayCount(beyond.length, 'cue lies', 'cues lie')} behind the end of the recording, at ${formatTimecode(duration)}.`,
    )
  const empty = cues.filter((c) => tokens(c.text).length === 0).length
  if (empty > 0) problems.push(`${sayCount(empty, 'cue says', 'cues say')} nothing.`)
  const words = (some: readonly Cue[]) => some.flatMap((c) => tokens(c.text).map(comparable)).filter(Boolean)
  const known = words(before)
  if (known.length >= ENOUGH) {
    const share = shared(known, words(cues))
    if (share < ALIKE)
      problems.push(
        `Of the words that were here before, only ${Math.round(100 * share)} % are in it: it may be of another lecture.`,
      )
  }
  const sum = (ranges: readonly { from: number; to: number }[]) => ranges.reduce((all, r) => all + r.to - r.from, 0)
  const gaps = uncovered(speech ?? [], cues)
  const [gap] = gaps
  const missing = sum(gaps)
  if (gap && (gaps.some((g) => g.to - g.from >= GAP) || missing > MISSING * sum(speech ?? [])))
    problems.push(
      `Nothing stands where somebody speaks, from ${formatTimecode(gap.from)} on: ${sayDuration(missing)} in all.`,
    )
  return problems
}
