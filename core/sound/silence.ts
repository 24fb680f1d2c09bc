/**
 * Stretches of sound in which nothing is loud, and what follows from them: the noise floor, and parts that could
 * be cut, each with its reason.
 */
import { quantileSorted } from 'd3-array'
import { projectRange, type TimeMap } from '../time/time-map'
import { sayDuration } from '../time/timecode'
import { recorded, type RecordedRange } from '../time/units'
import { decibels } from './level'
import type { NoiseEvent } from './noises'

export interface SilenceSettings {
  /** Samples below this count as silent, dBFS; `auto` goes by the noise of the room. */
  threshold: number | 'auto'
  /** Shortest silence that is reported, s. */
  shortest: number
}

/** What is looked for when nobody says otherwise. */
export const usualSilence: SilenceSettings = { threshold: 'auto', shortest: 0.5 }

export interface SilenceDetector {
  /** The size of each sample, 0…1: of the loudest channel, as silent is where all of them are. */
  push(sizes: Float32Array): void
  /** Closes the last silence. */
  finish(): RecordedRange[]
}

/**
 * Finds silences while the sound is streamed. Edges are exact to a sample.
 * @param threshold dBFS; @param shortest s
 */
export function silenceDetector(sampleRate: number, threshold: number, shortest: number): SilenceDetector {
  const limit = 10 ** (threshold / 20)
  const found: RecordedRange[] = []
  let at = 0
  let lastLoud = -1
  const close = (end: number) => {
    const from = (lastLoud + 1) / sampleRate
    const to = end / sampleRate
    if (to - from >= shortest) found.push({ from: recorded(from), to: recorded(to) })
  }
  return {
    push(sizes) {
      for (let i = 0; i < sizes.length; i++) {
        if ((sizes[i] as number) < limit) continue
        if (at + i - lastLoud > 1) close(at + i)
        lastLoud = at + i
      }
      at += sizes.length
    },
    finish() {
      if (at - 1 > lastLoud) close(at)
      return found
    },
  }
}

/** Where nobody speaks there is this much less, dB, and noise reaches this far above its floor. */
const BELOW_SPEECH = 12
const ABOVE_FLOOR = 8
/** In a silent room, what is below this is silence, dBFS. */
const QUIET_ROOM = -45
/** A click or a knock this short does not end a pause, s. */
const BRIDGE = 0.12

/**
 * What counts as silent in a recording: above the noise of its room, below its speech. Where the two cannot be told
 * apart nothing is silent.
 * @param tops highest sample (0…1) of each short block
 * @returns dBFS
 */
export function pauseThreshold(tops: Float32Array): number {
  const sounding = Array.from(tops)
    .filter((t) => t > 0)
    .sort((a, b) => a - b)
  if (sounding.length === 0) return QUIET_ROOM
  const floor = decibels(quantileSorted(sounding, 0.05) ?? 0)
  const speech = decibels(quantileSorted(sounding, 0.9) ?? 0)
  return Math.min(Math.max(QUIET_ROOM, floor + ABOVE_FLOOR), speech - BELOW_SPEECH)
}

/**
 * Pauses of speech: silences of short blocks, across which a click does not matter.
 * @param tops highest sample (0…1) of each block; @param rate blocks a second; @param threshold dBFS; @param shortest s
 */
export function pauses(tops: Float32Array, rate: number, threshold: number, shortest: number): RecordedRange[] {
  const detector = silenceDetector(rate, threshold, 2 * BRIDGE)
  detector.push(tops)
  const joined: RecordedRange[] = []
  for (const silence of detector.finish()) {
    const last = joined.at(-1)
    if (last && silence.from - last.to <= BRIDGE) last.to = silence.to
    else joined.push({ ...silence })
  }
  return joined.filter((s) => s.to - s.from >= shortest)
}

/**
 * The noise floor in dBFS: the level that a tenth of the blocks stay below. Digital silence does not count, as a
 * muted microphone says nothing about the room.
 * @param levels root mean squares of blocks, linear
 */
export function noiseFloor(levels: Float32Array): number {
  const sounding = Array.from(levels)
    .filter((l) => l > 1e-5)
    .sort((a, b) => a - b)
  return sounding.length > 0 ? decibels(quantileSorted(sounding, 0.1) ?? 0) : -Infinity
}

/** A part that could be cut. `says` is for a person. */
export interface ProposedCut extends RecordedRange {
  reason: 'start' | 'end' | 'pause' | 'false-start' | NoiseEvent['kind']
  says: string
}

export interface ProposalSettings {
  /** Silences in the middle shorter than this are left alone, s. */
  longest: number
  /** What is left of a silence before speech goes on and after it stopped, s. */
  leadIn: number
  tail: number
  /** A burst of speech shorter than this between two long silences near the start is taken for a false start, s. */
  falseStart: number
}

/** Those proposals of which most is still there; one that was taken out is not made again. */
export function openProposals<P extends RecordedRange>(map: TimeMap, proposals: readonly P[]): P[] {
  return proposals.filter((p) => projectRange(map, p).lost < 0.5 * (p.to - p.from))
}

export const usualProposals: ProposalSettings = { longest: 3, leadIn: 0.4, tail: 0.6, falseStart: 4 }

/** How far into a lecture a false start can be, s. */
const START = 90

/**
 * Proposes cuts from the silences of a recording, and the coughs and bumps in it, which end no silence.
 * @param found sorted and disjoint, as the detector gives them
 * @param noises in order
 * @param duration s
 */
export function proposeCuts(
  found: readonly RecordedRange[],
  noises: readonly NoiseEvent[],
  duration: number,
  settings: ProposalSettings = usualProposals,
): ProposedCut[] {
  const { longest, leadIn, tail, falseStart } = settings
  const out: ProposedCut[] = []
  const propose = (from: number, to: number, reason: ProposedCut['reason'], says: string) => {
    if (to - from > 0.2) out.push({ from: recorded(from), to: recorded(to), reason, says })
  }
  const silences = joinAcross(found, noises)
  // Bursts between the start and a long silence: the speaker tried, stopped, and began again.
  let begun = 0
  const first = silences[0]
  if (first && first.from < 0.25) begun = first.to
  const long = silences.filter((s) => s.to - s.from >= longest && s.from > begun)
  let restart = 0
  for (const silence of long) {
    if (silence.to > START || silence.from - (restart || begun) > falseStart || silence.to >= duration - 0.25) break
    restart = silence.to
  }
  const speech = restart || begun
  if (restart > 0)
    propose(
      begun > leadIn ? 0 : begun,
      restart - leadIn,
      'false-start',
      `A false start: ${sayDuration(restart)} before the lecture begins in earnest.`,
    )
  else if (begun > leadIn) propose(0, begun - leadIn, 'start', `Nothing is said for the first ${sayDuration(begun)}.`)
  for (const silence of silences) {
    if (silence.from < speech) continue
    const length = silence.to - silence.from
    if (silence.to >= duration - 0.25)
      propose(silence.from + tail, duration, 'end', `Nothing is said for the last ${sayDuration(length)}.`)
    else if (length >= longest)
      propose(silence.from + tail, silence.to - leadIn, 'pause', `A pause of ${sayDuration(length)}.`)
  }
  for (const noise of noises) {
    if (out.some((cut) => cut.from < noise.to && cut.to > noise.from)) continue
    const quiet = found.findLast((s) => s.to <= noise.from + NEAR)
    const next = found.find((s) => s.from >= noise.to - NEAR)
    // Of the pauses around it so much stays that the words on both sides keep their distance.
    const before = quiet && noise.from - quiet.to < NEAR ? Math.max(ROOM, 0.5 * (noise.from - quiet.from)) : ROOM
    const after = next && next.from - noise.to < NEAR ? Math.max(ROOM, 0.5 * (next.to - noise.to)) : ROOM
    propose(
      noise.from - before,
      noise.to + after,
      noise.kind,
      noise.kind === 'cough' ? 'A cough.' : 'A bump or a knock.',
    )
  }
  return out.sort((a, b) => a.from - b.from)
}

/** So near, s, to a silence a noise interrupts it; and what is taken out besides it on each side, s. */
const NEAR = 0.05
const ROOM = 0.06

/** Silences with the noises in them. */
function joinAcross(silences: readonly RecordedRange[], noises: readonly NoiseEvent[]): RecordedRange[] {
  const joined: RecordedRange[] = []
  for (const silence of silences) {
    const last = joined.at(-1)
    const isOver = last && noises.some((n) => Math.abs(n.from - last.to) < NEAR && Math.abs(silence.from - n.to) < NEAR)
    if (isOver) last.to = silence.to
    else joined.push({ ...silence })
  }
  return joined
}
