/**
 * A script laid along what a recogniser heard, so that each of its words has the time at which it is said. Words that stand
 * once on both sides are anchors, as in a patience diff; what lies between two anchors is aligned by dynamic programming
 * (Gotoh 1982) over how alike words are spelt, in which a passage without a counterpart is cheaper than single words; what has no counterpart is given the time that is left, by its
 * letters, or reported.
 *
 *     script   the ice … slides over wet rock         and then it stops
 *     heard    the ice um slides over what rock okay so             it stops
 *              ═══════    ══════ ════ ~~~~ ════ besides   unsaid    ════════
 */
import { min } from 'd3-array'
import type { Word } from '../schema/captions'
import { recorded } from '../time/units'
import { comparable } from './text'

/** Where the script and what is said part. */
export type Departure =
  /** Words of the script, `from` (inclusive) to `to`, that are not said; `at` s they would be. */
  | { kind: 'unsaid'; from: number; to: number; at: number }
  /** Words that are said and stand nowhere in the script: before its word `before`. */
  | { kind: 'besides'; words: Word[]; before: number }

export interface Alignment {
  /** For each word of the script when it is said; null for those that are not. */
  times: ({ from: number; to: number } | null)[]
  departures: Departure[]
}

/** What it costs that a passage without a counterpart begins, and each of its words; that two words differ, little or wholly. */
const BEGINS = 0.6
const ALONE = 0.45
const ALIKE = 0.3
const DIFFERENT = 1.15
/** So many words in a row that are spelt quite otherwise are not misheard, but others. */
const OTHERS = 6
const OTHERWISE = 0.6
/** A gap with more pairs than this, words of one side times words of the other, is divided before it is aligned. */
const MOST_PAIRS = 1_000_000
/** How long speech takes, s a letter, and how much faster it may be for a word to have been said. */
const LETTER = 0.065
const FASTEST = 0.4
/** Fewer words than these are a recogniser's mistake rather than a departure. */
const DEPARTS = 3

interface Side {
  from: number
  to: number
}

/** Pairs of places whose values stand once on each side and in the same order on both: the longest such row. */
function anchors(
  a: readonly string[],
  b: readonly string[],
  left: Side,
  right: Side,
  grams: number,
): [number, number][] {
  const once = (words: readonly string[], { from, to }: Side) => {
    const places = new Map<string, number>()
    for (let i = from; i + grams <= to; i++) {
      const key = words.slice(i, i + grams).join(' ')
      places.set(key, places.has(key) ? -1 : i)
    }
    return places
  }
  const there = once(b, right)
  const pairs: [number, number][] = []
  for (const [key, i] of once(a, left)) {
    const j = there.get(key) ?? -1
    if (i >= 0 && j >= 0) pairs.push([i, j])
  }
  pairs.sort((p, q) => p[0] - q[0])
  // The longest increasing row of the second places (patience sorting, Aldous and Diaconis 1999).
  const ends: number[] = []
  const before: number[] = []
  pairs.forEach(([, j], k) => {
    let [low, high] = [0, ends.length]
    while (low < high) {
      const mid = (low + high) >> 1
      if ((pairs[ends[mid] ?? 0]?.[1] ?? 0) < j) low = mid + 1
      else high = mid
    }
    before[k] = low > 0 ? (ends[low - 1] ?? -1) : -1
    ends[low] = k
  })
  const row: [number, number][] = []
  for (let k = ends.at(-1) ?? -1; k >= 0; k = before[k] ?? -1) {
    const pair = pairs[k]
    if (pair) row.push(pair)
  }
  return row.reverse()
}

/** How differently two words are spelt, 0–1 (Levenshtein 1966, over the longer one's letters). */
function spelling(a: string, b: string): number {
  if (a === b) return 0
  let row = Array.from({ length: b.length + 1 }, (_, j) => j)
  for (let i = 1; i <= a.length; i++) {
    const next = [i]
    for (let j = 1; j <= b.length; j++)
      next[j] = Math.min((row[j] ?? 0) + 1, (next[j - 1] ?? 0) + 1, (row[j - 1] ?? 0) + (a[i - 1] === b[j - 1] ? 0 : 1))
    row = next
  }
  return (row[b.length] ?? 0) / Math.max(1, a.length, b.length)
}

/** Pairs of counterparts in a gap, by dynamic programming. */
function alignGap(a: readonly string[], b: readonly string[], left: Side, right: Side): [number, number][] {
  const [n, m] = [left.to - left.from, right.to - right.from]
  if (n === 0 || m === 0) return []
  if (n * m > MOST_PAIRS) {
    // Nothing in it stands once: both are halved, and what is near the middle may be off.
    const [i, j] = [left.from + (n >> 1), right.from + (m >> 1)]
    return [
      ...alignGap(a, b, { from: left.from, to: i }, { from: right.from, to: j }),
      ...alignGap(a, b, { from: i, to: left.to }, { from: j, to: right.to }),
    ]
  }
  const width = m + 1
  // Costs of what ends with a pair, with a word of `a` alone, with a word of `b` alone.
  const [paired, onlyA, onlyB] = [0, 1, 2].map(() => new Float32Array((n + 1) * width).fill(Infinity)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ]
  paired[0] = 0
  for (let i = 1; i <= n; i++) onlyA[i * width] = BEGINS + i * ALONE
  for (let j = 1; j <= m; j++) onlyB[j] = BEGINS + j * ALONE
  const unlike = new Map<string, number>()
  const pairCost = (x: string, y: string) => {
    if (x === y) return 0
    const key = `${x} ${y}`
    const known = unlike.get(key)
    if (known !== undefined) return known
    const by = ALIKE + (DIFFERENT - ALIKE) * spelling(x, y)
    unlike.set(key, by)
    return by
  }
  const of = (table: Float32Array, i: number, j: number) => table[i * width + j] ?? Infinity
  const least = (i: number, j: number) => Math.min(of(paired, i, j), of(onlyA, i, j), of(onlyB, i, j))
  for (let i = 1; i <= n; i++)
    for (let j = 1; j <= m; j++) {
      const k = i * width + j
      paired[k] = least(i - 1, j - 1) + pairCost(a[left.from + i - 1] ?? '', b[right.from + j - 1] ?? '')
      onlyA[k] = ALONE + Math.min(of(onlyA, i - 1, j), BEGINS + Math.min(of(paired, i - 1, j), of(onlyB, i - 1, j)))
      onlyB[k] = ALONE + Math.min(of(onlyB, i, j - 1), BEGINS + Math.min(of(paired, i, j - 1), of(onlyA, i, j - 1)))
    }
  const pairs: [number, number][] = []
  const tables = [paired, onlyA, onlyB]
  let [i, j] = [n, m]
  let table = tables.findIndex((t) => of(t, i, j) === least(i, j))
  while (i > 0 && j > 0) {
    if (table === 0) {
      pairs.push([left.from + --i, right.from + --j])
      table = tables.findIndex((t) => of(t, i, j) === least(i, j))
      continue
    }
    const own = tables[table] ?? paired
    const [x, y] = table === 1 ? [i - 1, j] : [i, j - 1]
    const stays = of(own, x, y)
    const begun = tables.map((t, n) => (n === table ? Infinity : BEGINS + of(t, x, y)))
    if (stays > (min(begun) ?? Infinity)) table = begun.indexOf(min(begun) ?? Infinity)
    ;[i, j] = [x, y]
  }
  return pairs.reverse()
}

/** Pairs without those of a row that are spelt so differently that other words were said there. */
function withoutOthers(
  a: readonly string[],
  b: readonly string[],
  pairs: readonly [number, number][],
): [number, number][] {
  const isOther = pairs.map(([i, j]) => spelling(a[i] ?? '', b[j] ?? '') > OTHERWISE)
  const out: [number, number][] = []
  for (let k = 0; k < pairs.length;) {
    let end = k
    while (end < pairs.length && isOther[end]) end++
    if (end - k < OTHERS) out.push(...pairs.slice(k, Math.max(end, k + 1)))
    k = Math.max(end, k + 1)
  }
  return out
}

/** Counterparts in two stretches: by anchors of three words, then of two, then by dynamic programming. */
function counterparts(
  a: readonly string[],
  b: readonly string[],
  left: Side,
  right: Side,
  grams = 3,
): [number, number][] {
  if (grams === 1) return alignGap(a, b, left, right)
  const fixed = anchors(a, b, left, right, grams)
  const out: [number, number][] = []
  let [i, j] = [left.from, right.from]
  const between = (to: [number, number]) => {
    // An anchor of several words reaches over those that follow it: they are anchors themselves.
    if (to[0] > i || to[1] > j) {
      const [l, r] = [
        { from: i, to: to[0] },
        { from: j, to: to[1] },
      ]
      if (l.to > l.from && r.to > r.from) out.push(...counterparts(a, b, l, r, grams - 1))
    }
  }
  for (const [x, y] of fixed) {
    if (x < i || y < j) continue
    between([x, y])
    for (let k = 0; k < grams; k++) out.push([x + k, y + k])
    ;[i, j] = [x + grams, y + grams]
  }
  between([left.to, right.to])
  return out
}

/** Shares a stretch of time, s, among words by their letters. */
function share(words: readonly string[], from: number, to: number): { from: number; to: number }[] {
  const letters = words.reduce((sum, w) => sum + w.length + 1, 0)
  let at = from
  return words.map((word) => {
    const end = at + ((to - from) * (word.length + 1)) / letters
    const part = { from: at, to: end }
    at = end
    return part
  })
}

/**
 * Lays a script along what was heard.
 * @param script its words, with their punctuation
 * @param heard by their times, s
 */
export function alignScript(script: readonly string[], heard: readonly Word[]): Alignment {
  const a = script.map(comparable)
  const b = heard.map((w) => comparable(w.text))
  const found = counterparts(a, b, { from: 0, to: a.length }, { from: 0, to: b.length })
  const pairs = withoutOthers(a, b, found)
  const times: Alignment['times'] = script.map(() => null)
  for (const [i, j] of pairs) {
    const word = heard[j]
    if (word) times[i] = { from: word.from, to: word.to }
  }
  const departures: Departure[] = []
  const ends: [number, number][] = [...pairs, [a.length, b.length]]
  let before: [number, number] = [-1, -1]
  for (const [i, j] of ends) {
    const [x, y] = [before[0] + 1, before[1] + 1]
    before = [i, j]
    const [missing, more] = [script.slice(x, i), heard.slice(y, j)]
    if (missing.length === 0 && more.length === 0) continue
    const start = heard[y - 1]?.to ?? more[0]?.from ?? heard[j]?.from ?? 0
    const end = heard[j]?.from ?? more.at(-1)?.to ?? start
    // What was heard there is the script misheard, where it takes about as long; else the time between is all there is.
    const stretch =
      more.length > 0 ? { from: more[0]?.from ?? start, to: more.at(-1)?.to ?? end } : { from: start, to: end }
    const wanted = missing.reduce((sum, w) => sum + (w.length + 1) * LETTER, 0)
    const there = Math.max(0, stretch.to - stretch.from)
    const areOthers = missing.length >= OTHERS && more.length >= OTHERS
    const isSaid = !areOthers && missing.length > 0 && there >= FASTEST * wanted
    if (isSaid || (missing.length > 0 && missing.length < DEPARTS)) {
      // A pause is no part of the words beside it.
      const long = more.length > 0 ? there : Math.min(there, wanted)
      const from = more.length > 0 ? stretch.from : (stretch.from + stretch.to) / 2 - long / 2
      share(missing, from, from + long).forEach((time, k) => (times[x + k] = time))
    } else if (missing.length > 0) departures.push({ kind: 'unsaid', from: x, to: i, at: stretch.from })
    if (more.length >= DEPARTS && (!isSaid || there > wanted / FASTEST))
      departures.push({ kind: 'besides', words: more, before: i })
  }
  return { times, departures }
}

/**
 * The words of an alignment for cues, as a person decided.
 * @param kept of the departures, by their places in the list: what is not said is kept in, what is said besides put in
 */
export function alignedWords(
  script: readonly string[],
  { times, departures }: Alignment,
  kept: ReadonlySet<number>,
): Word[] {
  const words: Word[] = []
  const besides = new Map<number, Word[]>()
  const put = new Map<number, { from: number; to: number }>()
  departures.forEach((d, n) => {
    if (!kept.has(n)) return
    if (d.kind === 'besides') besides.set(d.before, [...(besides.get(d.before) ?? []), ...d.words])
    else for (let k = d.from; k < d.to; k++) put.set(k, { from: d.at, to: d.at })
  })
  for (let i = 0; i <= script.length; i++) {
    words.push(...(besides.get(i) ?? []))
    const time = times[i] ?? put.get(i)
    const text = script[i]
    if (!time || text === undefined) continue
    words.push({
      text: text.slice(0, 100),
      from: recorded(time.from),
      to: recorded(Math.max(time.to, time.from + 0.01)),
      confidence: 1,
    })
  }
  return words
}
