/**
 * Proposes where chapters begin, from what is said: where the words of some minutes differ from those of the next, at the
 * longest pause thereabouts. After M. A. Hearst, “TextTiling: Segmenting Text into Multi-paragraph Subtopic
 * Passages”, Computational Linguistics 23(1), 1997: the similarity of neighbouring blocks, and its valleys' depths.
 */
import type { Cue } from '../schema/captions'
import { plainText } from '../captions/text'
import { sayDuration } from '../time/timecode'
import { recorded, type RecordedRange, type RecordedTime } from '../time/units'

export interface ChapterProposal {
  at: RecordedTime
  /** The words that are said here more than elsewhere. */
  title: string
  /** Why, for a person. */
  says: string
}

/** A chapter is no shorter than this, s. */
const SHORTEST = 60
/** A valley of the similarity less deep than this is the same topic in other words. */
const SHALLOW = 0.25
/** Words in each of the two blocks that are compared. */
const BLOCK = 120
/** Words that say nothing of what is spoken about. */
const COMMON = new Set(
  `a about above after again all also am an and another any are as at back be because been before being both but by can
  come could did do does doing down each even few first for from get go going got had has have having he her here him his
  how i if in into is it its just know last let like little long look made make many may me mean more most much must my
  next no not now of off on once one only or other our out over own quite rather really right said same say see she should
  so some something still such take than that the their them then there these they thing things think this those through
  to today too two under until up upon us use used very want was way we well were what when where which while who why will
  with without would yes you your`.split(/\s+/),
)

/** A word as its relatives share it: without the endings of number and tense. */
const stem = (word: string): string =>
  word
    .replace(/'s?$/, '')
    .replace(/(?<=...)(ies)$/, 'y')
    .replace(/(?<=....)(ing|ed|es|s)$/, '')

interface Said {
  at: number
  word: string
  root: string
}

const saidIn = (cues: readonly Cue[]): Said[] =>
  cues.flatMap((cue) => {
    const words =
      plainText(cue.text)
        .toLowerCase()
        .match(/[\p{L}'’-]+/gu) ?? []
    return words.map((word, i) => ({
      at: cue.from + ((cue.to - cue.from) * i) / words.length,
      word,
      root: stem(word.replace('’', "'")),
    }))
  })

const countOf = (words: readonly Said[]): Map<string, number> => {
  const counts = new Map<string, number>()
  for (const { root } of words) counts.set(root, (counts.get(root) ?? 0) + 1)
  return counts
}

/** Cosine of two blocks' word counts, 0 for nothing in common to 1. */
function similarity(a: readonly Said[], b: readonly Said[]): number {
  const [left, right] = [countOf(a), countOf(b)]
  let dot = 0
  for (const [root, n] of left) dot += n * (right.get(root) ?? 0)
  const norm = (m: Map<string, number>) => Math.sqrt([...m.values()].reduce((sum, n) => sum + n * n, 0))
  return dot === 0 ? 0 : dot / (norm(left) * norm(right))
}

/** The two words that are said in a part more than in the rest, as they are written there. */
function titleOf(part: readonly Said[], all: Map<string, number>): string {
  const own = countOf(part)
  const best = [...own]
    .map(([root, n]) => ({ root, score: (n * n) / (all.get(root) ?? n) }))
    .sort((a, b) => b.score - a.score || (a.root < b.root ? -1 : 1))
    .slice(0, 2)
  const words = best.map(({ root }) => part.find((s) => s.root === root)?.word ?? root)
  const title = words.join(' and ')
  return title.charAt(0).toUpperCase() + title.slice(1)
}

/**
 * What is spoken of between two instants, in the two words that are said there more than elsewhere; empty when too little
 * is said. @param cues in time order
 */
export function topicBetween(cues: readonly Cue[], from: number, to: number): string {
  const said = telling(cues)
  const part = said.filter((s) => s.at >= from && s.at < to)
  return part.length < 2 ? '' : titleOf(part, countOf(said))
}

const telling = (cues: readonly Cue[]): Said[] => saidIn(cues).filter((s) => s.root.length > 2 && !COMMON.has(s.word))

/**
 * @param cues in time order
 * @param silences sorted
 * @returns in time order; nothing for what is too short, or speaks of one thing throughout
 */
export function proposeChapters(cues: readonly Cue[], silences: readonly RecordedRange[]): ChapterProposal[] {
  const said = telling(cues)
  const end = cues.at(-1)?.to ?? 0
  if (said.length < 2 * BLOCK || end < 2 * SHORTEST) return []
  // A chapter can begin where a cue does, which is where a sentence or a breath ends.
  const gaps = cues
    .slice(1)
    .map((cue) => ({ at: cue.from, index: said.findIndex((s) => s.at >= cue.from) }))
    .filter((g) => g.index >= BLOCK / 2 && g.index <= said.length - BLOCK / 2)
  const scores = gaps.map(({ index }) =>
    similarity(said.slice(Math.max(0, index - BLOCK), index), said.slice(index, index + BLOCK)),
  )
  /** How far the similarity rises from a gap, to the left or the right, before it falls again. */
  const climb = (from: number, step: 1 | -1): number => {
    let best = scores[from] as number
    for (let i = from + step; i >= 0 && i < scores.length && (scores[i] as number) >= best - 0.02; i += step)
      best = Math.max(best, scores[i] as number)
    return best - (scores[from] as number)
  }
  const depths = scores.map((_, i) => climb(i, -1) + climb(i, 1))
  const mean = depths.reduce((a, b) => a + b, 0) / Math.max(1, depths.length)
  const spread = Math.sqrt(depths.reduce((sum, d) => sum + (d - mean) ** 2, 0) / Math.max(1, depths.length))
  const pauseAt = (t: number) => silences.find((s) => s.to > t - 1 && s.from < t + 0.5)
  const found: { at: number; depth: number; pause: number }[] = []
  const candidates = gaps
    .map(({ at }, i) => {
      const pause = pauseAt(at)
      const length = pause ? pause.to - pause.from : 0
      // A pause of two seconds counts as much as words that differ by one spread.
      return {
        at,
        depth: depths[i] as number,
        pause: length,
        score: (depths[i] as number) + (spread * Math.min(2, length)) / 2,
      }
    })
    .filter((c) => c.depth > Math.max(SHALLOW, mean + spread / 2))
    .sort((a, b) => b.score - a.score)
  for (const c of candidates)
    if (c.at >= SHORTEST && end - c.at >= SHORTEST && found.every((f) => Math.abs(f.at - c.at) >= SHORTEST))
      found.push(c)
  found.sort((a, b) => a.at - b.at)
  const all = countOf(said)
  return found.map(({ at, pause }, i) => ({
    at: recorded(at),
    title: titleOf(
      said.filter((s) => s.at >= at && s.at < (found[i + 1]?.at ?? Infinity)),
      all,
    ),
    says: pause >= 0.5 ? `Other words, after a pause of ${sayDuration(pause)}.` : 'From here on other words are used.',
  }))
}
