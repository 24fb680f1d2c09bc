/** Treats the sound of a whole result: takes steady noise out of speech and brings it to one loudness. */
import type { Script } from '#core/render/script'
import { loudnessMeter } from '#core/sound/loudness'
import { limiter } from '#core/sound/true-peak'
import { openScratch, type ScratchFile } from '../store'
import { silence, type Pcm, type SoundMix } from './pcm'
import { quietSound } from './quiet'
import { NOISE_RATE } from './quiet-names'

/** Samples per block. */
const BLOCK = 9600

/** A step of the treatment: gives as many samples as it takes, `delay` later. */
interface Stage {
  delay: number
  process(pcm: Pcm): Pcm
}

function gainStage(channels: number, sampleRate: number, gain: number, ceiling: number): Stage {
  const limit = limiter(channels, sampleRate, ceiling)
  return {
    delay: limit.delay,
    process: (pcm) => limit.process(pcm.map((plane) => plane.map((s) => s * gain))),
  }
}

/** The sound of a mix in blocks. */
async function* blocksOf(mix: SoundMix, total: number): AsyncGenerator<Pcm> {
  for (let at = 0; at < total; at += BLOCK) yield mix.read(at, Math.min(BLOCK, total - at))
}

/** Blocks through a stage, its delay taken out again, from sample `skip` on. */
async function* through(
  blocks: AsyncGenerator<Pcm>,
  total: number,
  channels: number,
  stage: Stage | null,
  skip: number,
): AsyncGenerator<Pcm> {
  let drop = (stage?.delay ?? 0) + skip
  let left = total - skip
  async function* andSilence(): AsyncGenerator<Pcm> {
    yield* blocks
    for (;;) yield silence(channels, BLOCK)
  }
  for await (const block of andSilence()) {
    const output = stage ? stage.process(block) : block
    const frames = output[0]?.length ?? 0
    const from = Math.min(frames, drop)
    drop -= from
    const length = Math.min(frames - from, left)
    left -= length
    if (length > 0) yield output.map((plane) => plane.slice(from, from + length))
    if (left <= 0) return
  }
}

/** Sound that was made once and is needed again: 16-bit samples, channels in turn, in a scratch file. */
interface KeptSound extends SoundMix {
  append(pcm: Pcm): void
}

function keptSound(file: ScratchFile, channels: number): KeptSound {
  let written = 0
  return {
    append(pcm) {
      const frames = pcm[0]?.length ?? 0
      const samples = new Int16Array(frames * channels)
      for (const [c, plane] of pcm.entries())
        for (let i = 0; i < frames; i++)
          samples[i * channels + c] = Math.max(-32_768, Math.min(32_767, Math.round(32_768 * (plane[i] as number))))
      file.write(written, samples)
      written += samples.byteLength
    },
    async read(from, frames) {
      const bytes = file.read(2 * channels * from, 2 * channels * frames)
      const samples = new Int16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength / 2)
      return silence(channels, frames).map((plane, c) => plane.map((_, i) => (samples[i * channels + c] ?? 0) / 32_768))
    },
    close: () => file.remove(),
  }
}

/**
 * The result's sound in blocks, treated, from sample `skip` on.
 * @param scratch name of a scratch file for sound that is needed twice; it is removed
 * @param onPass told 0…1 while the loudness is measured beforehand
 */
export async function* treatedSound(
  script: Script,
  open: () => SoundMix,
  { sampleRate, channels, skip, scratch }: { sampleRate: number; channels: number; skip: number; scratch: string },
  onPass: (share: number) => void,
): AsyncGenerator<Pcm> {
  const { noise, loudness, truePeak } = script.treatment
  const isQuiet = noise === 'reduce'
  const total = Math.round(script.length * sampleRate)
  if (isQuiet && sampleRate !== NOISE_RATE) throw new Error('Noise can only be taken out at 48 kHz.')
  if (loudness === null) {
    const mix = open()
    try {
      const sound = isQuiet ? quietSound(mix, total, channels, () => undefined) : blocksOf(mix, total)
      yield* through(sound, total, channels, null, skip)
    } finally {
      await mix.close()
    }
    return
  }
  // Noise is taken out once, which takes longer than all else.
  const kept = isQuiet ? keptSound(await openScratch(scratch, 'quiet'), channels) : null
  try {
    const meter = loudnessMeter(sampleRate, channels)
    const measured = open()
    let seen = 0
    try {
      const sound = isQuiet ? quietSound(measured, total, channels, onPass) : blocksOf(measured, total)
      for await (const pcm of sound) {
        meter.push(pcm)
        kept?.append(pcm)
        seen += pcm[0]?.length ?? 0
        if (!isQuiet) onPass(seen / total)
      }
    } finally {
      await measured.close()
    }
    const { integrated } = meter.finish()
    // Silence has no loudness to bring anywhere.
    const gain = Number.isFinite(integrated) ? 10 ** ((loudness - integrated) / 20) : 1
    const stage = gainStage(channels, sampleRate, gain, 10 ** (truePeak / 20))
    const mix = kept ?? open()
    try {
      yield* through(blocksOf(mix, total), total, channels, stage, skip)
    } finally {
      if (!kept) await mix.close()
    }
  } finally {
    await kept?.close()
  }
}
