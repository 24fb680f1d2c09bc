/**
 * What makes captions hard to read, found before students do, and mended where that needs no judgement. Measures follow
 * common practice for captions in Latin scripts; which suit a lecture is a person's choice.
 */
import { max } from 'd3-array'
import type { CaptionTrack, Cue } from '../schema/captions'
import { recorded } from '../time/units'
import { sayCount } from '../text/words'
import { breakText } from './markup'
import { placeOf, setPlace, standingOf, type Place } from './position'
import { captionLimits } from './reflow'
import { plainText, tokens } from './text'
import { deleteCue, joinWithNext, splitCue } from './track'

export interface Measures {
  /** Characters a line, and lines. */
  lineLength: number
  lines: number
  /** Characters a second above which a cue is too fast to be read. */
  speed: number
  /** How long a cue is shown at least and at most, s. */
  shortest: number
  longest: number
  /** A shorter pause between two cues than this, s, is a flicker. */
  gap: number
}

/** Measures by what they are for. */
export const MEASURES = {
  lectures: { lineLength: captionLimits.lineLength, lines: 2, speed: 20, shortest: 1, longest: 7, gap: 0.12 },
  'unhurried reading': { lineLength: 37, lines: 2, speed: 15, shortest: 1.5, longest: 7, gap: 0.12 },
  'small screens': { lineLength: 32, lines: 2, speed: 17, shortest: 1, longest: 6, gap: 0.12 },
} as const satisfies Record<string, Measures>
export type MeasuresName = keyof typeof MEASURES

export const problemKinds = [
  'empty',
  'long-line',
  'many-lines',
  'fast',
  'short',
  'long',
  'flicker',
  'overlap',
  'covers',
] as const
export type ProblemKind = (typeof problemKinds)[number]

export interface CaptionProblem {
  cueId: string
  kind: ProblemKind
  /** A sentence for a person. */
  says: string
}

/** What each kind is called where its cues are counted. */
export const sayKind: Record<ProblemKind, string> = {
  empty: 'nothing said',
  'long-line': 'a line too long',
  'many-lines': 'too many lines',
  fast: 'too fast to read',
  short: 'shown too shortly',
  long: 'shown too long',
  flicker: 'a flicker before the next',
  overlap: 'an overlap with the next',
  covers: 'over what is shown at the foot',
}

/**
 * Cues at the foot that cover what is shown there, as many in one run as cover without a cue between that does not: what
 * stands there all the time, such as a clock, is one thing.
 */
function coveringRuns(cues: readonly Cue[], covering: ReadonlySet<string>): Map<string, Cue[]> {
  const runs = new Map<string, Cue[]>()
  let run: Cue[] = []
  for (const cue of cues) {
    if (!covering.has(cue.id)) run = []
    else if (standingOf(cue).line === 'foot') {
      if (run.length === 0) runs.set(cue.id, run)
      run.push(cue)
    }
  }
  return runs
}

const letters = (cue: Cue) => plainText(cue.text).trim().replace(/\n/g, ' ').length
/** Times are kept to the millisecond in files. */
const NEAR = 0.0015

/**
 * @param cues sorted by start
 * @param covering ids of those that cover what is shown at the foot of the picture
 */
export function checkCues(
  cues: readonly Cue[],
  measures: Measures = MEASURES.lectures,
  covering: ReadonlySet<string> = new Set(),
): CaptionProblem[] {
  const problems: CaptionProblem[] = []
  const runs = coveringRuns(cues, covering)
  cues.forEach((cue, i) => {
    const say = (kind: ProblemKind, says: string) => problems.push({ cueId: cue.id, kind, says })
    const text = plainText(cue.text).trim()
    const lines = text.split('\n')
    const length = cue.to - cue.from
    const next = cues[i + 1]
    if (text === '') say('empty', 'This cue says nothing.')
    const longest = max(lines, (l) => l.length) ?? -Infinity
    if (longest > measures.lineLength) say('long-line', `A line has ${longest} characters; ${measures.lineLength} fit.`)
    if (lines.length > measures.lines)
      say('many-lines', `${lines.length} lines cover the picture; keep to ${measures.lines}.`)
    const speed = letters(cue) / length
    if (speed > measures.speed)
      say('fast', `${Math.round(speed)} characters a second is too fast to read; give it more time or fewer words.`)
    if (text !== '' && length < measures.shortest - NEAR)
      say('short', `It is shown for ${length.toFixed(1)} s; ${measures.shortest} s is the least.`)
    if (length > measures.longest + NEAR)
      say('long', `It is shown for ${length.toFixed(1)} s; ${measures.longest} s is the most.`)
    const more = (runs.get(cue.id)?.length ?? 0) - 1
    if (more === 0) say('covers', 'It covers what is shown at the foot of the picture.')
    else if (more > 0)
      say('covers', `It and the next ${sayCount(more, 'cue', 'cues')} cover what is shown at the foot of the picture.`)
    if (!next) return
    const gap = next.from - cue.to
    if (gap < -0.001) say('overlap', 'The next cue starts before this one ends.')
    else if (gap > NEAR && gap < measures.gap)
      say('flicker', `${Math.round(1000 * gap)} ms before the next cue flicker.`)
  })
  return problems
}

/** A track in which one cue is another one. */
const withCue = (track: CaptionTrack, cue: Cue): CaptionTrack => ({
  ...track,
  cues: track.cues.map((c) => (c.id === cue.id ? cue : c)),
})

/** Splits a cue where it is nearest to its middle in time, at a sentence's end or a pause if one is near. */
function halve(track: CaptionTrack, cue: Cue, newId: () => string): CaptionTrack {
  const said = tokens(cue.text)
  if (said.length < 2) return track
  const words = cue.words?.length === said.length ? cue.words : null
  const whole = said.join(' ').length
  let [best, least] = [1, Infinity]
  let before = 0
  for (let i = 1; i < said.length; i++) {
    before += (said[i - 1]?.length ?? 0) + 1
    const pause = words ? (words[i]?.from ?? 0) - (words[i - 1]?.to ?? 0) : 0
    const off =
      Math.abs(before / whole - 0.5) - (/[.!?,;:]["”’)]*$/.test(said[i - 1] ?? '') ? 0.2 : 0) - Math.min(0.2, pause)
    if (off < least) [best, least] = [i, off]
  }
  return splitCue(track, cue.id, best, newId())
}

/** Cues that came of `id` and stand from there on: it, and what it was split into. */
const piecesOf = (track: CaptionTrack, cue: Cue) =>
  track.cues.filter((c) => c.from >= cue.from - NEAR && c.to <= cue.to + NEAR)

/** Breaks the lines of a cue anew; what still does not fit is split, until it does. */
function refit(track: CaptionTrack, cue: Cue, measures: Measures, newId: () => string): CaptionTrack {
  const broken = breakText(cue.text, measures.lineLength)
  const lines = plainText(broken).split('\n')
  const isOneWord = tokens(cue.text).length < 2
  if (isOneWord || (lines.length <= measures.lines && lines.every((l) => l.length <= measures.lineLength)))
    return withCue(track, { ...cue, text: broken })
  const before = new Set(track.cues.map((c) => c.id))
  let next = halve(track, cue, newId)
  const pieces = next.cues.filter((c) => c.id === cue.id || !before.has(c.id))
  for (const piece of pieces) next = refit(next, piece, measures, newId)
  return next
}

/**
 * Mends one kind of problem of a cue, as far as that needs nobody's judgement; a cue that it cannot mend stays as it is.
 * @param newId for cues that are made by splitting
 * @param covering ids of those that cover what is shown at the foot of the picture
 */
export function mendCue(
  track: CaptionTrack,
  cueId: string,
  kind: ProblemKind,
  measures: Measures,
  newId: () => string,
  covering: ReadonlySet<string> = new Set(),
): CaptionTrack {
  const at = track.cues.findIndex((c) => c.id === cueId)
  const cue = track.cues[at]
  if (!cue) return track
  const next = track.cues[at + 1]
  const before = track.cues[at - 1]
  const room = next?.from ?? Infinity
  switch (kind) {
    case 'empty':
      return deleteCue(track, cueId)
    case 'long-line':
    case 'many-lines':
      return refit(track, cue, measures, newId)
    case 'long': {
      const once = halve(track, cue, newId)
      if (once === track) return withCue(track, { ...cue, to: recorded(cue.from + measures.longest) })
      // A half that is still too long is halved too.
      return piecesOf(once, cue).reduce(
        (all, piece) =>
          piece.to - piece.from > measures.longest + NEAR ? mendCue(all, piece.id, 'long', measures, newId) : all,
        once,
      )
    }
    case 'fast':
    case 'short': {
      // More time is taken from the pause behind it, then from the one before.
      const wanted = Math.max(measures.shortest, letters(cue) / measures.speed)
      const to = Math.min(room, cue.from + wanted)
      const from = Math.min(cue.from, Math.max(before?.to ?? 0, to - wanted))
      return withCue(track, { ...cue, from: recorded(from), to: recorded(Math.max(cue.to, to)) })
    }
    case 'flicker':
      return next ? withCue(track, { ...cue, to: next.from }) : track
    case 'overlap':
      if (!next) return track
      return next.from - cue.from > 0.2 ? withCue(track, { ...cue, to: next.from }) : joinWithNext(track, cueId)
    case 'covers':
      return (coveringRuns(track.cues, covering).get(cueId) ?? [cue]).reduce(
        (all, one) => setPlace(all, one.id, placeOf(one).replace('foot', 'top') as Place),
        track,
      )
  }
}

/** Mends all problems of one kind. @returns the track, and how many there still are */
export function mendAll(
  track: CaptionTrack,
  kind: ProblemKind,
  measures: Measures,
  newId: () => string,
  covering: ReadonlySet<string> = new Set(),
): { track: CaptionTrack; left: number } {
  const of = (t: CaptionTrack) => checkCues(t.cues, measures, covering).filter((p) => p.kind === kind)
  const mended = of(track).reduce((all, { cueId }) => mendCue(all, cueId, kind, measures, newId, covering), track)
  return { track: mended, left: of(mended).length }
}
