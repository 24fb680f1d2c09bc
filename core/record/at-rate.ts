/**
 * Live sound at the one rate that is encoded, whatever the device runs at: Opus decodes at 48 kHz only (RFC 7845 §4), and
 * players refuse a file that names another rate beside it.
 */
import { createResampler, type Resampler } from '../sound/resample'
import type { StereoBlock } from './live-sound'

/** What the resampler still needs of a channel, oldest first. */
interface Stream {
  rate: number
  resampler: Resampler
  /** Time of its first sample, s. */
  start: number
  /** Samples of each channel from `from` on, counted since the start. */
  kept: [Float32Array, Float32Array]
  from: number
  /** Samples that have come, and that were given out at the other rate. */
  came: number
  given: number
}

/** Blocks that lie further apart than this are not one stream, s. */
const GAP = 0.02

const joined = (a: Float32Array, b: Float32Array): Float32Array => {
  const both = new Float32Array(a.length + b.length)
  both.set(a)
  both.set(b, a.length)
  return both
}

/**
 * @param to Hz
 * @returns takes block after block with its rate (Hz) and gives what can be given of it so far: a block's end comes with
 * the next one, some samples of it late. A device that changes its rate begins anew.
 */
export function atRate(to: number): (block: StereoBlock, rate: number) => StereoBlock[] {
  let stream: Stream | null = null
  return (block, rate) => {
    if (rate === to) {
      stream = null
      return [block]
    }
    const frames = block.planes.length / 2
    const end: number = stream ? stream.start + stream.came / stream.rate : NaN
    if (stream?.rate !== rate || Math.abs(block.at - end) > GAP) {
      const resampler = stream?.rate === rate ? stream.resampler : createResampler(rate, to)
      const none = new Float32Array(0)
      stream = { rate, resampler, start: block.at, kept: [none, none], from: 0, came: 0, given: 0 }
    }
    const { resampler, start, given } = stream
    const [left, right] = stream.kept
    const kept: Stream['kept'] = [
      joined(left, block.planes.subarray(0, frames)),
      joined(right, block.planes.subarray(frames)),
    ]
    stream.came += frames
    const step = rate / to
    const count = Math.max(0, Math.floor((stream.came - resampler.reach - given * step) / step))
    const planes = new Float32Array(2 * count)
    for (const [c, samples] of kept.entries())
      planes.set(resampler.run(samples, given * step - stream.from, count), c * count)
    stream.given += count
    // What lies before the reach of the next sample is not needed any more.
    const next = Math.max(stream.from, Math.floor(stream.given * step) - resampler.reach)
    stream.kept = [kept[0].slice(next - stream.from), kept[1].slice(next - stream.from)]
    stream.from = next
    return count > 0 ? [{ at: start + given / to, planes }] : []
  }
}
