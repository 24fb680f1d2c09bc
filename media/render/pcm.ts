/**
 * Sound as samples: reads any stretch of a file at one rate, and mixes the sound of a result from its spans, with
 * short fades where they meet so that no seam clicks.
 */
import type { AudioSample } from 'mediabunny'
import { runsOn, type SoundSource, type SoundSpan } from '#core/render/script'
import { SEAM_FADE, seamGain, softLimit } from '#core/sound/fade'
import { createResampler } from '#core/sound/resample'
import type { OpenSound } from './feed'

/** Planar samples, −1…1, all of one length. */
export type Pcm = Float32Array[]

export const silence = (channels: number, frames: number): Pcm =>
  Array.from({ length: channels }, () => new Float32Array(frames))

export interface PcmReader {
  /**
   * `frames` samples from `time` (s of the file) on; where the file has none, silence. Reading on is cheap, jumping is
   * not.
   */
  read(time: number, frames: number): Promise<Pcm>
  close(): Promise<void>
}

/** Decoders need this much before a stretch to give it as they would in one go, s. */
const PRE_ROLL = 0.12
/** Timestamps that are off by less are rounding, not gaps, s. */
const SLACK = 0.006

/** A block of decoded sound; `start` is its first sample's number at the file's own rate. */
interface Block {
  start: number
  channels: Pcm
  length: number
}

/** @param sampleRate Hz wanted; @param channels wanted: a mono file is heard on both, more than two are mixed down */
export function pcmReader(sound: OpenSound, sampleRate: number, channels: number): PcmReader {
  const own = sound.sampleRate
  const resampler = createResampler(own, sampleRate)
  let samples: AsyncGenerator<AudioSample> | null = null
  let blocks: Block[] = []
  let ended = false
  let expected = 0

  const close = async () => {
    await samples?.return(undefined)
    samples = null
  }
  const restart = async (from: number) => {
    await close()
    blocks = []
    ended = false
    expected = NaN
    samples = sound.samples.samples(Math.max(0, from / own - PRE_ROLL))
  }
  /** Decodes until sample `until` is there, or the file ends. */
  const fill = async (until: number) => {
    while (!ended && samples && (blocks.at(-1)?.start ?? -Infinity) + (blocks.at(-1)?.length ?? 0) <= until) {
      const { value: sample, done } = await samples.next()
      if (done || !sample) {
        ended = true
        return
      }
      const stated = Math.round(sample.timestamp * own)
      // Containers round to the millisecond: neighbours that nearly touch do touch.
      const start = Math.abs(stated - expected) <= SLACK * own ? expected : stated
      expected = start + sample.numberOfFrames
      blocks.push({ start, channels: planes(sample, channels), length: sample.numberOfFrames })
      sample.close()
    }
  }
  /** The file's samples `from`…`from + count` at its own rate. */
  const take = async (from: number, count: number): Promise<Pcm> => {
    const first = blocks[0]
    const reach = (blocks.at(-1)?.start ?? 0) + (blocks.at(-1)?.length ?? 0)
    if (!samples || !first || from < first.start || from > reach + 2 * own) await restart(from)
    await fill(from + count)
    const out = silence(channels, count)
    for (const block of blocks) {
      const a = Math.max(from, block.start)
      const b = Math.min(from + count, block.start + block.length)
      if (b > a)
        for (const [c, plane] of block.channels.entries())
          out[c]?.set(plane.subarray(a - block.start, b - block.start), a - from)
    }
    // A little is kept for the next stretch, which may overlap this one.
    while (blocks.length > 1 && (blocks[0]?.start ?? 0) + (blocks[0]?.length ?? 0) < from + count - own) blocks.shift()
    return out
  }

  return {
    async read(time, frames) {
      if (own === sampleRate) return take(Math.round(time * own), frames)
      const first = Math.floor(time * own) - resampler.reach
      const input = await take(first, Math.ceil((frames * own) / sampleRate) + 2 * resampler.reach + 2)
      return input.map((plane) => resampler.run(plane, time * own - first, frames))
    },
    close,
  }
}

function planes(sample: AudioSample, channels: number): Pcm {
  const all = Array.from({ length: sample.numberOfChannels }, (_, planeIndex) => {
    const plane = new Float32Array(sample.numberOfFrames)
    sample.copyTo(plane, { planeIndex, format: 'f32-planar' })
    return plane
  })
  if (all.length === channels) return all
  if (channels === 1) return [mean(all)]
  const [left, right] = all
  if (!left) return silence(channels, sample.numberOfFrames)
  // More than two: everything but left and right is put on both.
  if (right && all.length > 2) {
    const rest = mean(all.slice(2))
    return [left, right].map((side) => side.map((s, i) => (s + (rest[i] as number)) / 2))
  }
  return [left, right ?? left]
}

function mean(planes: readonly Float32Array[]): Float32Array {
  const out = new Float32Array(planes[0]?.length ?? 0)
  for (const plane of planes)
    for (let i = 0; i < out.length; i++) out[i] = (out[i] as number) + (plane[i] as number) / planes.length
  return out
}

/** How long a change of level takes, s: too short to be heard as one, long enough not to click. */
const RAMP = 0.02

export interface SoundMix {
  /** The result's samples `from`…`from + frames` (numbers at the mix's rate); silence outside it. */
  read(from: number, frames: number): Promise<Pcm>
  close(): Promise<void>
}

/**
 * Mixes the spans of a result.
 * @param shifts seconds by which each span stands later than its edit says, as the copied packets beside it do
 */
export function soundMix(
  spans: readonly SoundSpan[],
  open: (source: SoundSource) => OpenSound,
  sampleRate: number,
  channels: number,
  shifts: readonly number[] = [],
): SoundMix {
  const readers = new Map<OpenSound, PcmReader>()
  const readerOf = (source: SoundSource) => {
    const sound = open(source)
    let reader = readers.get(sound)
    if (!reader) readers.set(sound, (reader = pcmReader(sound, sampleRate, channels)))
    return reader
  }
  const last = spans.length - 1
  return {
    async read(from, frames) {
      const out = silence(channels, frames)
      for (const [index, span] of spans.entries()) {
        if (!span.source) continue
        const start = Math.round(span.at * sampleRate)
        const end = Math.round((span.at + span.length) * sampleRate)
        const a = Math.max(from, start)
        // The very last sound may go on for as long as a packet does.
        const b = Math.min(from + frames, index === last ? Infinity : end)
        if (b <= a) continue
        const before = spans[index - 1]
        const after = spans[index + 1]
        const goesOn = runsOn(before, span)
        const fadeIn = !goesOn && (index > 0 || span.source.from > SEAM_FADE)
        const fadeOut = index < last && !(after && runsOn(span, after))
        const edge = SEAM_FADE * sampleRate
        const { gain = 1 } = span
        const earlier = goesOn ? (before?.gain ?? 1) : gain
        const isEven = earlier === gain || a - start > RAMP * sampleRate
        const plain = gain === 1 && isEven && (!fadeIn || a - start > edge) && (!fadeOut || end - b > edge)
        const limit = gain > 1 || earlier > 1 || span.beneath ? softLimit : (sample: number) => sample
        const add = async (source: SoundSource, level: (at: number) => number) => {
          const time = source.from + (a - start) / sampleRate - (shifts[index] ?? 0)
          const pcm = await readerOf(source).read(time, b - a)
          for (const [c, plane] of pcm.entries()) {
            const to = out[c]
            if (!to) continue
            if (plain && !span.beneath) to.set(plane, a - from)
            else
              for (let i = 0; i < plane.length; i++) {
                const at = (a + i - start) / sampleRate
                to[a - from + i] = limit(
                  (to[a - from + i] as number) +
                    (plane[i] as number) * level(at) * seamGain(at, span.length, fadeIn, fadeOut),
                )
              }
          }
        }
        await add(span.source, (at) => (at < RAMP ? earlier + (gain - earlier) * (at / RAMP) : gain))
        const { beneath } = span
        if (beneath) await add(beneath.source, () => beneath.gain)
      }
      return out
    },
    async close() {
      for (const reader of readers.values()) await reader.close()
    },
  }
}
