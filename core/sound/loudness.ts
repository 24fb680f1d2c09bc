/**
 * Loudness of a programme by ITU-R BS.1770-4 and EBU R 128: K-weighted power in overlapping blocks of 400 ms, gated;
 * short-term loudness over 3 s; loudness range by EBU Tech 3342; true peak by BS.1770-4, Annex 2.
 */
import { max, quantileSorted } from 'd3-array'
import { decibels } from './level'
import { truePeakMeter } from './true-peak'

export interface Loudness {
  /** Integrated loudness, LUFS; −Infinity when everything is below the gate. */
  integrated: number
  /** Loudness range, LU. */
  range: number
  /** dBTP; −Infinity for digital silence. */
  truePeak: number
  /** Highest short-term loudness, LUFS. */
  maxShortTerm: number
  /** Short-term loudness at the end of every whole second from the third on, LUFS. */
  shortTerm: Float32Array
}

export interface LoudnessMeter {
  /** Planar channels of equal length, −1…1. */
  push(channels: readonly Float32Array[]): void
  finish(): Loudness
}

/** Loudness of a mean power (BS.1770-4, formula 2). */
const lufs = (power: number) => -0.691 + 10 * Math.log10(power)
const powerOf = (loudness: number) => 10 ** ((loudness + 0.691) / 10)

/** Loudness below which a block never counts (BS.1770-4, Γa), LUFS. */
const ABSOLUTE_GATE = -70
/** Blocks are made of steps of 100 ms: four make a gating block, thirty a short-term one. */
const STEP = 0.1
const GATING_STEPS = 4
const SHORT_STEPS = 30

/** Coefficients of a second-order stage, b over a; a0 is 1, and the second stage's b are 1 −2 1. */
interface Shelf extends HighPass {
  b0: number
  b1: number
  b2: number
}
interface HighPass {
  a1: number
  a2: number
}

/**
 * The two stages of K-weighting for any sample rate (BS.1770-4, tables 1 and 2, carried over by the bilinear
 * transform).
 */
function kWeighting(sampleRate: number): [Shelf, HighPass] {
  const shelf = (() => {
    const k = Math.tan((Math.PI * 1681.974450955533) / sampleRate)
    const q = 0.7071752369554196
    const vh = 10 ** (3.999843853973347 / 20)
    const vb = vh ** 0.4996667741545416
    const a0 = 1 + k / q + k * k
    return {
      b0: (vh + (vb * k) / q + k * k) / a0,
      b1: (2 * (k * k - vh)) / a0,
      b2: (vh - (vb * k) / q + k * k) / a0,
      a1: (2 * (k * k - 1)) / a0,
      a2: (1 - k / q + k * k) / a0,
    }
  })()
  const k = Math.tan((Math.PI * 38.13547087602444) / sampleRate)
  const q = 0.5003270373238773
  const a0 = 1 + k / q + k * k
  return [shelf, { a1: (2 * (k * k - 1)) / a0, a2: (1 - k / q + k * k) / a0 }]
}

/**
 * Weights of the channels in their usual order: left, right, centre, low frequencies, left and right surround
 * (BS.1770-4, table 3).
 */
const channelWeight = (channel: number, channels: number): number =>
  channels < 4 ? 1 : channel === 3 ? 0 : channel > 3 ? 1.41 : 1

/**
 * A meter for a whole programme.
 * @param channels number of channels that will be pushed
 */
export function loudnessMeter(sampleRate: number, channels: number): LoudnessMeter {
  const [shelf, high] = kWeighting(sampleRate)
  const states = Array.from({ length: channels }, () => new Float64Array(4))
  const peaks = Array.from({ length: channels }, () => truePeakMeter())
  const stepLength = Math.round(STEP * sampleRate)
  const powers: number[] = []
  let sum = 0
  let inStep = 0

  // In constants of their own, as this is where an hour of sound spends its time.
  const { b0, b1, b2, a1, a2 } = shelf
  const { a1: h1, a2: h2 } = high

  /** Sum of squares of `samples[from…to)` of one channel, weighted; the filters' states go on. */
  const weigh = (samples: Float32Array, state: Float64Array, from: number, to: number): number => {
    let s1 = state[0] as number
    let s2 = state[1] as number
    let t1 = state[2] as number
    let t2 = state[3] as number
    let squares = 0
    for (let i = from; i < to; i++) {
      const x = samples[i] as number
      // Direct form II transposed; the second stage's numerator is 1 −2 1.
      const y = b0 * x + s1
      s1 = b1 * x - a1 * y + s2
      s2 = b2 * x - a2 * y
      const z = y + t1
      t1 = t2 - 2 * y - h1 * z
      t2 = y - h2 * z
      squares += z * z
    }
    // Numbers too small to matter are slow to reckon with.
    state[0] = Math.abs(s1) < 1e-30 ? 0 : s1
    state[1] = Math.abs(s2) < 1e-30 ? 0 : s2
    state[2] = Math.abs(t1) < 1e-30 ? 0 : t1
    state[3] = Math.abs(t2) < 1e-30 ? 0 : t2
    return squares
  }

  /** The same for two channels side by side: each waits for its own filter, so that two take hardly longer than one. */
  const weighBoth = (
    left: Float32Array,
    right: Float32Array,
    ofLeft: Float64Array,
    ofRight: Float64Array,
    from: number,
    to: number,
  ): number => {
    let [s1, s2, t1, t2] = [ofLeft[0] as number, ofLeft[1] as number, ofLeft[2] as number, ofLeft[3] as number]
    let [u1, u2, v1, v2] = [ofRight[0] as number, ofRight[1] as number, ofRight[2] as number, ofRight[3] as number]
    let squares = 0
    for (let i = from; i < to; i++) {
      const x = left[i] as number
      const p = right[i] as number
      const y = b0 * x + s1
      const q = b0 * p + u1
      s1 = b1 * x - a1 * y + s2
      u1 = b1 * p - a1 * q + u2
      s2 = b2 * x - a2 * y
      u2 = b2 * p - a2 * q
      const z = y + t1
      const r = q + v1
      t1 = t2 - 2 * y - h1 * z
      v1 = v2 - 2 * q - h1 * r
      t2 = y - h2 * z
      v2 = q - h2 * r
      squares += z * z + r * r
    }
    for (const [state, values] of [
      [ofLeft, [s1, s2, t1, t2]],
      [ofRight, [u1, u2, v1, v2]],
    ] as const)
      values.forEach((value, i) => (state[i] = Math.abs(value) < 1e-30 ? 0 : value))
    return squares
  }

  return {
    push(input) {
      const [left, right] = input
      const [ofLeft, ofRight] = states
      const length = left?.length ?? 0
      input.forEach((samples, c) => peaks[c]?.push(samples))
      for (let from = 0; from < length;) {
        const to = Math.min(length, from + stepLength - inStep)
        if (input.length === 2 && left && right && ofLeft && ofRight)
          sum += weighBoth(left, right, ofLeft, ofRight, from, to)
        else
          for (const [c, samples] of input.entries()) {
            const state = states[c]
            if (state) sum += channelWeight(c, channels) * weigh(samples, state, from, to)
          }
        inStep += to - from
        from = to
        if (inStep === stepLength) {
          powers.push(sum / stepLength)
          sum = 0
          inStep = 0
        }
      }
    },
    finish() {
      const blocks = windows(powers, GATING_STEPS)
      const short = windows(powers, SHORT_STEPS)
      const shortTerm = Float32Array.from(
        short.filter((_, i) => i % 10 === 0),
        lufs,
      )
      return {
        integrated: gated(blocks),
        range: loudnessRange(short),
        truePeak: decibels(max(peaks, (p) => p.peak) ?? 0),
        maxShortTerm: short.reduce((max, p) => Math.max(max, lufs(p)), -Infinity),
        shortTerm,
      }
    },
  }
}

/** Mean of every `size` neighbouring powers. */
function windows(powers: readonly number[], size: number): number[] {
  const out: number[] = []
  let sum = 0
  for (const [i, power] of powers.entries()) {
    sum += power
    if (i >= size) sum -= powers[i - size] ?? 0
    if (i >= size - 1) out.push(Math.max(0, sum / size))
  }
  return out
}

const mean = (values: readonly number[]) => values.reduce((sum, v) => sum + v, 0) / values.length

/** Loudness of what passes the absolute gate and then the one 10 LU below what did (BS.1770-4, formulas 5–7). */
function gated(blocks: readonly number[]): number {
  const absolute = blocks.filter((p) => p >= powerOf(ABSOLUTE_GATE))
  if (absolute.length === 0) return -Infinity
  const gate = mean(absolute) / 10
  return lufs(mean(absolute.filter((p) => p >= gate)))
}

/** From the 10th to the 95th percentile of short-term loudness above a gate 20 LU below its mean (EBU Tech 3342). */
function loudnessRange(short: readonly number[]): number {
  const absolute = short.filter((p) => p >= powerOf(ABSOLUTE_GATE))
  if (absolute.length === 0) return 0
  const gate = mean(absolute) / 100
  const left = absolute
    .filter((p) => p >= gate)
    .map(lufs)
    .sort((a, b) => a - b)
  return (quantileSorted(left, 0.95) ?? 0) - (quantileSorted(left, 0.1) ?? 0)
}

/**
 * The integrated loudness of several sounds together, LUFS, from their own: the mean of their powers by their lengths.
 * Gating them apart makes little difference.
 * @param parts `seconds` long; those without loudness do not count
 */
export function joinLoudness(parts: readonly { loudness: number; seconds: number }[]): number {
  const heard = parts.filter((p) => Number.isFinite(p.loudness))
  const seconds = heard.reduce((sum, p) => sum + p.seconds, 0)
  const power = heard.reduce((sum, p) => sum + p.seconds * 10 ** (p.loudness / 10), 0)
  return seconds > 0 ? 10 * Math.log10(power / seconds) : -Infinity
}
