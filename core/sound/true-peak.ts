/**
 * True peak: the highest point of the waveform between the samples, by four-fold oversampling (ITU-R BS.1770-4, Annex
 * 2). The filter printed there reads too low near the top of the band; this one is a sinc under a Kaiser window (J. F.
 * Kaiser, 1974), as long as those of common resamplers. And a limiter that keeps the true peak below a ceiling.
 */
import { max } from 'd3-array'
import { kaiser } from './kaiser'

/** Taps of each phase, and the window's shape. */
const TAPS = 32
const BETA = 8

/** The filter for points `share` of a sample after tap TAPS / 2 − 1. */
function phase(share: number): Float64Array {
  return Float64Array.from({ length: TAPS }, (_, k) => {
    const x = k - (TAPS / 2 - 1) - share
    return (Math.sin(Math.PI * x) / (Math.PI * x)) * kaiser((2 * x) / TAPS, BETA)
  })
}
/** A quarter and a half of a sample on; three quarters is the quarter backwards. */
const QUARTER = phase(0.25)
const HALF = phase(0.5)

/** No output of the filter is larger than the largest input times this: the largest sum of a phase's magnitudes. */
const REACH = max([QUARTER, HALF], (p) => p.reduce((sum, tap) => sum + Math.abs(tap), 0)) ?? -Infinity
/** Samples skipped or taken together. */
const BLOCK = 64

export interface TruePeakMeter {
  /** Highest true peak if the sound ends here, linear (1 is full scale); samples count too. */
  readonly peak: number
  push(samples: Float32Array): void
}

/** A meter for one channel. Stretches that cannot reach the peak so far are not oversampled. */
export function truePeakMeter(): TruePeakMeter {
  let peak = 0
  let tail = new Float32Array(TAPS - 1)
  return {
    get peak() {
      // What breaks off at full level rings on behind its last sample.
      const line = new Float32Array(2 * (TAPS - 1))
      line.set(tail)
      let end = peak
      for (let i = 0; i + TAPS <= line.length; i++) end = Math.max(end, peakAround(line, i))
      return end
    },
    push(samples) {
      const line = new Float32Array(tail.length + samples.length)
      line.set(tail)
      line.set(samples, tail.length)
      for (let start = 0; start + TAPS <= line.length; start += BLOCK) {
        const end = Math.min(start + BLOCK, line.length - TAPS + 1)
        let highest = 0
        for (let i = start; i < end + TAPS - 1; i++) {
          const size = Math.abs(line[i] as number)
          if (size > highest) highest = size
        }
        if (highest > peak) peak = highest
        if (highest * REACH > peak) for (let i = start; i < end; i++) peak = Math.max(peak, peakAround(line, i))
      }
      tail = line.slice(Math.max(0, line.length - (TAPS - 1)))
    },
  }
}

/**
 * Largest of the three points between two samples, the middle ones of `TAPS` from `at` on: sums side by side, as none
 * waits for another.
 */
function peakAround(line: Float32Array, at: number): number {
  let a = 0
  let b = 0
  let c = 0
  for (let tap = 0; tap < TAPS; tap++) {
    const x = line[at + tap] as number
    a += (QUARTER[tap] as number) * x
    b += (HALF[tap] as number) * x
    c += (QUARTER[TAPS - 1 - tap] as number) * x
  }
  return Math.max(Math.abs(a), Math.abs(b), Math.abs(c))
}

export interface Limiter {
  /** Samples by which the output lags the input. */
  readonly delay: number
  /** Limits planar channels of equal length; gives as many samples as it takes. */
  process(channels: readonly Float32Array[]): Float32Array[]
}

/** Seconds the limiter looks ahead, and its time constant on the way back. */
const LOOK_AHEAD = 0.005
const RELEASE = 0.1

/**
 * A look-ahead limiter on the true peak. The gain needed at every sample is held over the look-ahead, released
 * slowly and then averaged over it, so that the gain moves without a step and is always low enough in time.
 * @param ceiling linear, of true peak
 */
export function limiter(channels: number, sampleRate: number, ceiling: number): Limiter {
  const window = Math.max(1, Math.round(LOOK_AHEAD * sampleRate))
  // The oversampling filter shows a peak between its middle taps.
  const delay = window + TAPS / 2
  const lines = Array.from({ length: channels }, () => new Float32Array(delay))
  const tails = Array.from({ length: channels }, () => new Float32Array(TAPS - 1))
  const back = Math.exp(-1 / (RELEASE * sampleRate))
  // Needed gains of the last `window + 1` samples as an ascending queue, for a running minimum.
  const queue: { at: number; gain: number }[] = []
  const held = new Float64Array(window).fill(1)
  let heldSum = window
  let released = 1
  let clock = 0
  return {
    delay,
    process(input) {
      const length = input[0]?.length ?? 0
      const peaks = new Float32Array(length)
      for (const [c, samples] of input.entries()) {
        const line = new Float32Array(TAPS - 1 + length)
        line.set(tails[c] ?? [])
        line.set(samples, TAPS - 1)
        for (let i = 0; i < length; i++) {
          let highest = Math.abs(samples[i] as number)
          if (
            highest * REACH > ceiling ||
            Math.max(Math.abs(line[i + TAPS / 2 - 1] as number), Math.abs(line[i + TAPS / 2] as number)) * REACH >
              ceiling
          )
            highest = Math.max(highest, peakAround(line, i))
          if (highest > (peaks[i] as number)) peaks[i] = highest
        }
        tails[c] = line.slice(length)
      }
      const gains = new Float32Array(length)
      for (let i = 0; i < length; i++, clock++) {
        const peak = peaks[i] as number
        const gain = peak > ceiling ? ceiling / peak : 1
        while (queue.length > 0 && (queue[queue.length - 1]?.gain ?? 0) >= gain) queue.pop()
        queue.push({ at: clock, gain })
        while ((queue[0]?.at ?? 0) < clock - window) queue.shift()
        const least = queue[0]?.gain ?? 1
        released = Math.min(least, 1 - (1 - released) * back)
        const slot = clock % window
        heldSum += released - (held[slot] as number)
        held[slot] = released
        gains[i] = heldSum / window
      }
      return input.map((samples, c) => {
        const line = new Float32Array(delay + length)
        line.set(lines[c] ?? [])
        line.set(samples, delay)
        const out = new Float32Array(length)
        // Only now has the mean over the look-ahead come down to what this sample needs.
        for (let i = 0; i < length; i++) out[i] = (line[i] as number) * (gains[i] as number)
        lines[c] = line.slice(length)
        return out
      })
    },
  }
}
