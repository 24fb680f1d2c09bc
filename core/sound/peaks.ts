/**
 * Peaks for drawing a waveform at any zoom: the lowest and highest sample of each short bin, in a pyramid of
 * resolutions, each level a quarter of the one below.
 *
 *     level 0  200 bins/s  ▁▃▇▅▂▁▂▆…
 *     level 1   50 bins/s  ▇▆…
 *     level 2  12.5 bins/s …
 */
import { max } from 'd3-array'

/** Bins a second on the finest level: 5 ms, shorter than a frame of any usual picture. */
export const FINEST = 200
/** Each level has this many times fewer bins than the one below. */
export const FACTOR = 4
export const LEVELS = 5

export interface PeakLevel {
  /** Bins per second of recorded time. */
  binsPerSecond: number
  /** Lowest and highest sample per bin, interleaved, −127…127 for −1…1. */
  data: Int8Array
}

/** Collects samples and gives the finest level; call `push` with mono samples (−1…1) in order, then `finish`. */
export interface PeakCollector {
  push(samples: Float32Array): void
  /** Everything up to now as a pyramid, finest level first. */
  finish(): PeakLevel[]
}

/** A sample (−1…1) as it is kept. */
export const quantise = (sample: number) => Math.max(-127, Math.min(127, Math.round(sample * 127)))

/** @param sampleRate Hz of what will be pushed */
export function collectPeaks(sampleRate: number): PeakCollector {
  let bins = new Int8Array(2 * FINEST * 60)
  let count = 0
  let low = Infinity
  let high = -Infinity
  let seen = 0
  const close = () => {
    if (2 * count + 2 > bins.length) {
      const grown = new Int8Array(bins.length * 2)
      grown.set(bins)
      bins = grown
    }
    bins[2 * count] = quantise(low)
    bins[2 * count + 1] = quantise(high)
    count++
    low = Infinity
    high = -Infinity
  }
  return {
    push(samples) {
      for (let i = 0; i < samples.length;) {
        // The boundary is computed from the total, so that odd sample rates do not drift.
        const end = Math.min(samples.length, i + Math.max(1, Math.ceil(((count + 1) * sampleRate) / FINEST - seen)))
        seen += end - i
        for (; i < end; i++) {
          const sample = samples[i] as number
          if (sample < low) low = sample
          if (sample > high) high = sample
        }
        if (seen >= ((count + 1) * sampleRate) / FINEST) close()
      }
    },
    finish() {
      if (high >= low) close()
      const levels: PeakLevel[] = [{ binsPerSecond: FINEST, data: bins.slice(0, 2 * count) }]
      for (let i = 1; i < LEVELS; i++) levels.push(coarser(levels[i - 1] as PeakLevel))
      return levels
    },
  }
}

function coarser(level: PeakLevel): PeakLevel {
  const from = level.data
  const bins = Math.ceil(from.length / 2 / FACTOR)
  const data = new Int8Array(2 * bins)
  for (let b = 0; b < bins; b++) {
    let low = 127
    let high = -127
    for (let i = b * FACTOR; i < Math.min((b + 1) * FACTOR, from.length / 2); i++) {
      low = Math.min(low, from[2 * i] ?? 127)
      high = Math.max(high, from[2 * i + 1] ?? -127)
    }
    data[2 * b] = low
    data[2 * b + 1] = high
  }
  return { binsPerSecond: level.binsPerSecond / FACTOR, data }
}

/** The coarsest level that still has a bin for every pixel; the finest when none has. */
export function levelFor(levels: readonly PeakLevel[], pixelsPerSecond: number): PeakLevel | undefined {
  return levels.findLast((l) => l.binsPerSecond >= pixelsPerSecond) ?? levels[0]
}

/** Lowest and highest sample (−1…1) between two instants (s) on one level. */
export function peakBetween(level: PeakLevel, from: number, to: number): { low: number; high: number } {
  const last = level.data.length / 2 - 1
  const a = Math.max(0, Math.floor(from * level.binsPerSecond))
  const b = Math.min(last, Math.max(a, Math.ceil(to * level.binsPerSecond) - 1))
  let low = 0
  let high = 0
  for (let i = a; i <= b; i++) {
    low = Math.min(low, (level.data[2 * i] ?? 0) / 127)
    high = Math.max(high, (level.data[2 * i + 1] ?? 0) / 127)
  }
  return { low, high }
}

/**
 * Peaks of several stretches of sound as one pyramid, with silence between them. A stretch stands on the bin nearest to
 * its start: on a coarse level that is off by less than the pixel it is drawn on.
 * @param parts peaks with the instant (s) at which they begin, in order; what lies before 0 is left out
 */
export function joinPeaks(parts: readonly { levels: readonly PeakLevel[]; from: number }[]): PeakLevel[] {
  return Array.from({ length: max(parts, (p) => p.levels.length) ?? 0 }, (_, i) => {
    const binsPerSecond = FINEST / FACTOR ** i
    const placed = parts.flatMap(({ levels, from }) => {
      const level = levels[i]
      const start = 2 * Math.round(from * binsPerSecond)
      return level ? [{ start: Math.max(0, start), data: level.data.subarray(Math.max(0, -start)) }] : []
    })
    const data = new Int8Array(max(placed, (p) => p.start + p.data.length) ?? 0)
    for (const { start, data: own } of placed) data.set(own, start)
    return { binsPerSecond, data }
  })
}
