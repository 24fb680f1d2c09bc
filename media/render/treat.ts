/** Treats the sound of a whole result: takes steady noise out of speech and brings it to one loudness. */
import type { DenoiseState } from '@shiguredo/rnnoise-wasm'
import type { Script } from '#core/render/script'
import { loudnessMeter } from '#core/sound/loudness'
import { limiter } from '#core/sound/true-peak'
import { silence, type Pcm, type SoundMix } from './pcm'

/** RNNoise works at 48 kHz in frames of 10 ms and speaks in 16-bit amplitudes. */
const NOISE_RATE = 48_000
const NOISE_SCALE = 32_768
/** Samples by which its output lags its input, as measured: its windows overlap by one frame and it looks one ahead. */
const NOISE_DELAY = 960
/** Samples per block; a whole number of RNNoise's frames. */
const BLOCK = 9600

/** A step of the treatment: gives as many samples as it takes, `delay` later. */
interface Stage {
  delay: number
  process(pcm: Pcm): Pcm
  close(): void
}

async function noiseStage(channels: number): Promise<Stage> {
  const { Rnnoise } = await import('@shiguredo/rnnoise-wasm')
  const rnnoise = await Rnnoise.load()
  const states: DenoiseState[] = Array.from({ length: channels }, () => rnnoise.createDenoiseState())
  const frame = new Float32Array(rnnoise.frameSize)
  return {
    delay: NOISE_DELAY,
    process: (pcm) =>
      pcm.map((plane, c) => {
        const out = new Float32Array(plane.length)
        for (let at = 0; at < plane.length; at += frame.length) {
          for (let i = 0; i < frame.length; i++) frame[i] = (plane[at + i] ?? 0) * NOISE_SCALE
          states[c]?.processFrame(frame)
          for (let i = 0; i < frame.length; i++) out[at + i] = (frame[i] as number) / NOISE_SCALE
        }
        return out
      }),
    close: () => states.forEach((s) => s.destroy()),
  }
}

function gainStage(channels: number, sampleRate: number, gain: number, ceiling: number): Stage {
  const limit = limiter(channels, sampleRate, ceiling)
  return {
    delay: limit.delay,
    process: (pcm) => limit.process(pcm.map((plane) => plane.map((s) => s * gain))),
    close: () => undefined,
  }
}

/** Runs the result's sound through stages, their delays taken out again. */
async function* through(
  mix: SoundMix,
  total: number,
  channels: number,
  stages: readonly Stage[],
  skip: number,
): AsyncGenerator<Pcm> {
  let drop = stages.reduce((sum, s) => sum + s.delay, 0) + skip
  let left = total - skip
  for (let at = 0; left > 0; at += BLOCK) {
    const input = at < total ? await mix.read(at, Math.min(BLOCK, total - at)) : silence(channels, BLOCK)
    const whole =
      (input[0]?.length ?? 0) < BLOCK
        ? silence(channels, BLOCK).map((plane, c) => (plane.set(input[c] ?? []), plane))
        : input
    const output = stages.reduce<Pcm>((pcm, stage) => stage.process(pcm), whole)
    const from = Math.min(BLOCK, drop)
    drop -= from
    const length = Math.min(BLOCK - from, left)
    left -= length
    if (length > 0) yield output.map((plane) => plane.slice(from, from + length))
  }
}

/**
 * The result's sound in blocks, treated, from sample `skip` on.
 * @param onPass told 0…1 while the loudness is measured beforehand
 */
export async function* treatedSound(
  script: Script,
  open: () => SoundMix,
  { sampleRate, channels, skip }: { sampleRate: number; channels: number; skip: number },
  onPass: (share: number) => void,
): AsyncGenerator<Pcm> {
  const { noise, loudness, truePeak } = script.treatment
  const total = Math.round(script.length * sampleRate)
  if (noise === 'reduce' && sampleRate !== NOISE_RATE) throw new Error('Noise can only be taken out at 48 kHz.')
  let gain = 1
  if (loudness !== null) {
    const mix = open()
    const stages = noise === 'reduce' ? [await noiseStage(channels)] : []
    const meter = loudnessMeter(sampleRate, channels)
    let seen = 0
    for await (const pcm of through(mix, total, channels, stages, 0)) {
      meter.push(pcm)
      seen += pcm[0]?.length ?? 0
      onPass(seen / total)
    }
    stages.forEach((s) => s.close())
    await mix.close()
    const { integrated } = meter.finish()
    // Silence has no loudness to bring anywhere.
    gain = Number.isFinite(integrated) ? 10 ** ((loudness - integrated) / 20) : 1
  }
  const mix = open()
  const stages: Stage[] = []
  if (noise === 'reduce') stages.push(await noiseStage(channels))
  if (loudness !== null) stages.push(gainStage(channels, sampleRate, gain, 10 ** (truePeak / 20)))
  try {
    yield* through(mix, total, channels, stages, skip)
  } finally {
    stages.forEach((s) => s.close())
    await mix.close()
  }
}
