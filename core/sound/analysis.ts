/**
 * Everything that one pass over a sound track finds: peaks, loudness, silences, noise floor, clipping, level zones and
 * the cuts that follow from them. Samples are pushed as they are decoded; what is kept grows with a few bytes a second.
 */
import { max } from 'd3-array'
import { clippingFinder } from './clipping'
import { growing } from './growing'
import { decibels, loudest, zoneOf, type LevelZone } from './level'
import { loudnessMeter, type Loudness } from './loudness'
import { noiseFinder } from './noises'
import { collectPeaks, type PeakLevel } from './peaks'
import {
  noiseFloor,
  pauses,
  pauseThreshold,
  proposeCuts,
  silenceDetector,
  type ProposedCut,
  type SilenceSettings,
} from './silence'
import type { RecordedRange } from '../time/units'

export interface SoundAnalysis {
  peaks: PeakLevel[]
  loudness: Loudness
  silences: RecordedRange[]
  /** What counted as silent, dBFS. */
  threshold: number
  /** Root mean square that a tenth of the time stays below, dBFS. */
  noiseFloor: number
  /** Stretches in which samples reach full scale, at most 200. */
  clipping: RecordedRange[]
  /** Share of the time (0…1) that the peak of each 100 ms spends in each zone. */
  zones: Record<LevelZone, number>
  proposals: ProposedCut[]
}

export interface SoundAnalyser {
  /** Planar channels of equal length, −1…1. */
  push(planes: readonly Float32Array[]): void
  /** Seconds pushed so far. */
  readonly seconds: number
  /** Peaks so far. */
  peaks(): PeakLevel[]
  finish(): SoundAnalysis
}

/** Blocks whose highest sample is kept, a second; ten of them make a block whose level is kept. */
const BLOCKS = 100
const IN_LEVEL = 10

/** @param channels number of channels that will be pushed */
export function soundAnalyser(sampleRate: number, channels: number, settings: SilenceSettings): SoundAnalyser {
  const peaks = collectPeaks(sampleRate)
  const loudness = loudnessMeter(sampleRate, channels)
  const exact =
    settings.threshold === 'auto' ? null : silenceDetector(sampleRate, settings.threshold, settings.shortest)
  const clipping = clippingFinder(sampleRate)
  const noises = noiseFinder(sampleRate)
  const tops = growing()
  const levels = growing()
  let seen = 0
  let blocks = 0
  let top = 0
  let squares = 0
  let inLevel = 0

  const closeBlock = () => {
    tops.push(top)
    top = 0
    if (++blocks % IN_LEVEL === 0) {
      levels.push(Math.sqrt(squares / inLevel))
      squares = 0
      inLevel = 0
    }
  }

  return {
    get seconds() {
      return seen / sampleRate
    },
    peaks: () => peaks.finish(),
    push(planes) {
      const mono = mixDown(planes)
      const sizes = loudest(planes)
      peaks.push(mono)
      noises.push(mono)
      loudness.push(planes)
      exact?.push(sizes)
      clipping.push(sizes)
      for (let i = 0; i < sizes.length;) {
        // Ends are reckoned from the total, so that odd sample rates do not drift.
        const end = Math.min(sizes.length, i + Math.max(1, Math.ceil(((blocks + 1) * sampleRate) / BLOCKS - seen)))
        seen += end - i
        inLevel += end - i
        for (; i < end; i++) {
          const size = sizes[i] as number
          if (size > top) top = size
          const sample = mono[i] as number
          squares += sample * sample
        }
        if (seen >= ((blocks + 1) * sampleRate) / BLOCKS) closeBlock()
      }
    },
    finish() {
      const threshold = settings.threshold === 'auto' ? pauseThreshold(tops.values()) : settings.threshold
      const silences = exact ? exact.finish() : pauses(tops.values(), BLOCKS, threshold, settings.shortest)
      return {
        peaks: peaks.finish(),
        loudness: loudness.finish(),
        silences,
        threshold,
        noiseFloor: noiseFloor(levels.values()),
        clipping: clipping.found,
        zones: zoneShares(tops.values()),
        proposals: proposeCuts(silences, noises.finish(threshold), seen / sampleRate),
      }
    },
  }
}

/** The mean of all channels. */
function mixDown(planes: readonly Float32Array[]): Float32Array {
  const [first] = planes
  if (!first || planes.length === 1) return first ?? new Float32Array(0)
  const out = new Float32Array(first.length)
  for (const plane of planes)
    for (let i = 0; i < out.length; i++) out[i] = (out[i] as number) + (plane[i] as number) / planes.length
  return out
}

function zoneShares(tops: Float32Array): Record<LevelZone, number> {
  const shares: Record<LevelZone, number> = { silent: 0, quiet: 0, good: 0, hot: 0, clipping: 0 }
  const whole = Math.ceil(tops.length / IN_LEVEL)
  for (let i = 0; i < tops.length; i += IN_LEVEL)
    shares[zoneOf(decibels(max(tops.subarray(i, i + IN_LEVEL)) ?? -Infinity)).zone] += 1 / whole
  return shares
}
