/**
 * Coughs and bumps: short bursts that stand alone between stretches in which nobody speaks, and that are no word. A word
 * has a voiced part, which is periodic; a cough is noise from first to last; a bump is over almost as soon as it began.
 * Voicing is the highest normalised autocorrelation at the periods of a voice (L. R. Rabiner, “On the Use of
 * Autocorrelation Analysis for Pitch Detection”, IEEE Trans. ASSP 25, 1977).
 *
 *     word  ▁▂▅▇▇▆▅▃▁   voiced          cough  ▁█▇▅▅▃▂▁   not voiced          bump  ▁█▂▁
 */
import { recorded, type RecordedRange } from '../time/units'
import { growing } from './growing'

export interface NoiseEvent extends RecordedRange {
  kind: 'cough' | 'bump'
}

export interface NoiseFinder {
  /** Samples of one channel, −1…1. */
  push(mono: Float32Array): void
  /** @param threshold what counts as silent, dBFS of the peak */
  finish(threshold: number): NoiseEvent[]
}

/** Blocks a second, and rate at which voicing is looked for, Hz. */
const BLOCKS = 100
const LOW_RATE = 4000
/** Samples of the low rate that are compared, and the periods of a voice among them: 400 to 60 Hz. */
const WINDOW = 160
const PERIODS = { from: 10, to: 66 }
/** From here on a block is periodic; of a word at least this share of its energy is. */
const PERIODIC = 0.55
const VOICED = 0.35
/** What is quieter, of full scale, is not looked at: −50 dBFS. */
const FAINT = 10 ** (-50 / 20)
/** Bursts that are nearer to one another are one, and one that stands alone is farther from the next, s. */
const TOGETHER = 0.08
const ALONE = 0.18
/** How long a cough and a bump are, s, and how far a burst stands out of silence, dB. */
const COUGH = { least: 0.08, most: 1.2 }
const BUMP = 0.3
const OUT_OF = 8
/** A bump has most of its energy within so many blocks of its beginning. */
const AT_ONCE = { blocks: 8, share: 0.8 }

/** Highest normalised autocorrelation of the last samples at the periods of a voice, 0…1. */
function periodicity(samples: Float32Array): number {
  const at = (i: number) => samples[i] as number
  const from = samples.length - WINDOW
  let own = 0
  for (let i = from; i < samples.length; i++) own += at(i) ** 2
  let earlier = 0
  for (let i = from - PERIODS.from; i < samples.length - PERIODS.from; i++) earlier += at(i) ** 2
  let best = 0
  for (let lag = PERIODS.from; lag <= PERIODS.to; lag++) {
    let sum = 0
    for (let i = from; i < samples.length; i++) sum += at(i) * at(i - lag)
    const norm = Math.sqrt(own * earlier)
    if (norm > 0 && sum / norm > best) best = sum / norm
    // The window of the next lag is one sample earlier.
    earlier += at(from - lag - 1) ** 2 - at(samples.length - lag - 1) ** 2
  }
  return best
}

export function noiseFinder(sampleRate: number): NoiseFinder {
  const tops = growing()
  const energies = growing()
  const voicings = growing()
  const every = Math.max(1, Math.round(sampleRate / LOW_RATE))
  /** The last samples of the low rate. */
  const low = new Float32Array(WINDOW + PERIODS.to + 2)
  let sum = 0
  let summed = 0
  let seen = 0
  let blocks = 0
  let top = 0
  let squares = 0
  let inBlock = 0
  const closeBlock = () => {
    tops.push(top)
    energies.push(squares / Math.max(1, inBlock))
    // Half as often is often enough.
    const last = voicings.values().at(-1) ?? 0
    voicings.push(top < FAINT ? 0 : blocks % 2 === 0 ? periodicity(low) : last)
    blocks++
    top = 0
    squares = 0
    inBlock = 0
  }
  return {
    push(mono) {
      for (const sample of mono) {
        const size = Math.abs(sample)
        if (size > top) top = size
        squares += sample * sample
        inBlock++
        sum += sample
        if (++summed === every) {
          low.copyWithin(0, 1)
          low[low.length - 1] = sum / every
          sum = 0
          summed = 0
        }
        seen++
        if (seen >= ((blocks + 1) * sampleRate) / BLOCKS) closeBlock()
      }
    },
    finish: (threshold) => findNoises(tops.values(), energies.values(), voicings.values(), threshold),
  }
}

function findNoises(
  tops: Float32Array,
  energies: Float32Array,
  voicings: Float32Array,
  threshold: number,
): NoiseEvent[] {
  const limit = 10 ** (threshold / 20)
  const bursts: { from: number; to: number }[] = []
  for (let i = 0; i < tops.length; i++) {
    if ((tops[i] as number) < limit) continue
    const last = bursts.at(-1)
    if (last && i - last.to <= TOGETHER * BLOCKS) last.to = i + 1
    else bursts.push({ from: i, to: i + 1 })
  }
  return bursts.flatMap((burst, i): NoiseEvent[] => {
    const before = burst.from - (bursts[i - 1]?.to ?? 0)
    const after = (bursts[i + 1]?.from ?? tops.length) - burst.to
    const length = (burst.to - burst.from) / BLOCKS
    if (Math.min(before, after) < ALONE * BLOCKS || length > COUGH.most) return []
    let [energy, voiced, peak, early] = [0, 0, 0, 0]
    for (let b = burst.from; b < burst.to; b++) {
      const own = energies[b] as number
      energy += own
      if ((voicings[b] as number) > PERIODIC) voiced += own
      if (b < burst.from + AT_ONCE.blocks) early += own
      peak = Math.max(peak, tops[b] as number)
    }
    if (peak < limit * 10 ** (OUT_OF / 20)) return []
    const kind =
      length <= BUMP && early >= AT_ONCE.share * energy
        ? 'bump'
        : length >= COUGH.least && voiced < VOICED * energy
          ? 'cough'
          : null
    return kind ? [{ from: recorded(burst.from / BLOCKS), to: recorded(burst.to / BLOCKS), kind }] : []
  })
}
