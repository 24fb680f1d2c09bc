/**
 * Samples at another rate, by a windowed sinc (J. O. Smith, “Digital Audio Resampling”, CCRMA): what lies above half the
 * lower of both rates is taken out, as it would come back folded into what is heard.
 */
import { kaiser } from './kaiser'

/** Zero crossings of the sinc on each side, at the lower rate. */
const CROSSINGS = 24
const BETA = 10
/** Share of the band that is kept; the window's slope lies in the rest. */
const BAND = 0.91
/** Points of the filter's table for each crossing; between them it is interpolated. */
const POINTS = 256

export interface Resampler {
  /** Input samples that are needed before and after an instant. */
  reach: number
  /**
   * @param input samples at the first rate
   * @param at place in `input` of the first output sample; `reach` samples have to lie before it, and after the last
   * @param frames how many output samples are wanted
   */
  run(input: Float32Array, at: number, frames: number): Float32Array
}

/** @param from Hz, @param to Hz */
export function createResampler(from: number, to: number): Resampler {
  const step = from / to
  // Crossings lie at the lower rate: further apart when the output's is lower.
  const scale = Math.min(1, to / from)
  const cutoff = BAND * scale
  const reach = Math.ceil(CROSSINGS / scale)
  const table = Float64Array.from({ length: CROSSINGS * POINTS + 2 }, (_, i) => {
    const x = i / POINTS
    const t = (x / scale) * cutoff * Math.PI
    return cutoff * (t === 0 ? 1 : Math.sin(t) / t) * kaiser(x / CROSSINGS, BETA)
  })
  const perSample = scale * POINTS
  return {
    reach,
    run(input, at, frames) {
      const out = new Float32Array(frames)
      for (let i = 0; i < frames; i++) {
        const centre = at + i * step
        const first = Math.max(0, Math.ceil(centre - reach))
        const last = Math.min(input.length - 1, Math.floor(centre + reach))
        let sum = 0
        for (let k = first; k <= last; k++) {
          const x = Math.abs(k - centre) * perSample
          const j = Math.floor(x)
          const a = table[j] ?? 0
          sum += (input[k] as number) * (a + (x - j) * ((table[j + 1] ?? 0) - a))
        }
        out[i] = sum
      }
      return out
    },
  }
}
