/**
 * Renders a lecture: the kept stretches of its feeds, laid out in one frame, as one MP4 (H.264, AAC). Pictures
 * are put on one frame grid and sound is counted in samples from the result's start, so that nothing drifts over many cuts.
 */
import { registerAacEncoder } from '@mediabunny/aac-encoder'
import { AudioSample, AudioSampleSink, AudioSampleSource, canEncodeAudio, Mp4OutputFormat, Output, Quality, VideoSample, VideoSampleSink, VideoSampleSource, type AudioCodec, type Input } from 'mediabunny'
import { arrange, type Box } from '#core/picture/layout'
import type { Layout } from '#core/schema/edit'
import { seamGain } from '#core/sound/fade'
import { frameCount } from '#core/time/frames'
import { toRecorded, type TimeMap } from '#core/time/time-map'
import { result } from '#core/time/units'
import { openInput } from './probe'
import { openScratch } from './scratch'

export interface RenderFeed {
  blob: Blob
  /** Seconds of recorded time at which the file's zero stands. */
  offset: number
}

export interface RenderPicture extends RenderFeed {
  width: number
  height: number
}

export interface RenderPlan {
  map: TimeMap
  layout: Layout
  screen: RenderPicture | null
  camera: RenderPicture | null
  sound: RenderFeed | null
  /** Frames per second of the result. */
  frameRate: number
}

export interface Rendered {
  file: File
  width: number
  height: number
  /** What a person should know about how it was made; empty when all went as meant. */
  note: string
}

/** Bits per second: slides are sharp at this, and a 45-minute lecture stays near 300 MB. */
const BITRATE = { video: 900_000, audio: 96_000 }
const SOUND_RATE = 48_000
/** Samples per block handed to the encoder. */
const BLOCK = 4096

/**
 * Samples by which the WASM encoder's output lags its input (ISO/IEC 14496-24, encoder delay). It stamps its first
 * packet 0 all the same, so the input is begun this much later: the sound stays in place, 21 ms of its start are lost.
 */
const AAC_DELAY = 1024

async function chooseSoundCodec(): Promise<{ codec: AudioCodec; delay: number; note: string }> {
  const native = await canEncodeAudio('aac', { numberOfChannels: 2, sampleRate: SOUND_RATE })
  if (!native) registerAacEncoder()
  if (await canEncodeAudio('aac', { numberOfChannels: 2, sampleRate: SOUND_RATE })) return { codec: 'aac', delay: native ? 0 : AAC_DELAY, note: '' }
  return { codec: 'opus', delay: 0, note: 'This browser cannot encode AAC; the sound is Opus, which older players may not play.' }
}

/** Mid-frame instants of recorded time, one for each frame of the result: nearest frames, and never the wrong side of a seam. */
function* frameTimes(map: TimeMap, frames: number, frameRate: number): Generator<number> {
  for (let i = 0; i < frames; i++) yield toRecorded(map, result((i + 0.5) / frameRate))
}

/** One picture as samples at the given recorded instants; before its first frame, that first frame. */
async function* pictureAt(input: Input, feed: RenderFeed, times: Iterable<number>): AsyncGenerator<VideoSample | null> {
  const track = await input.getPrimaryVideoTrack()
  if (!track) throw new Error('A picture feed has no picture in its file.')
  const first = await track.getFirstTimestamp()
  function* own(): Generator<number> {
    for (const t of times) yield Math.max(first, t - feed.offset)
  }
  yield* new VideoSampleSink(track).samplesAtTimestamps(own())
}

/**
 * Stereo sound of the result in order, exactly `round(length × 48 000)` frames less the first `delay`, stamped from 0:
 * gaps in the track are silence, seams are faded.
 */
async function* soundBlocks(input: Input, feed: RenderFeed, map: TimeMap, delay: number): AsyncGenerator<AudioSample> {
  const track = await input.getPrimaryAudioTrack()
  if (!track) throw new Error('The sound feed has no sound in its file.')
  const sink = new AudioSampleSink(track)
  const sourceRate = await track.getSampleRate()
  for (const [index, segment] of map.kept.entries()) {
    const start = Math.round(segment.at * SOUND_RATE)
    const end = Math.round((segment.at + (segment.to - segment.from)) * SOUND_RATE)
    const length = segment.to - segment.from
    const fadeIn = index > 0 || segment.from > 0
    const fadeOut = index < map.kept.length - 1 || segment.to < map.duration
    let block = new Float32Array(2 * BLOCK)
    let blockStart = Math.min(end, Math.max(start, delay))
    const samples = sink.samples(Math.max(0, segment.from - feed.offset), segment.to - feed.offset)
    // Linear interpolation between source frames; at equal rates it is the source itself, shifted by less than a frame.
    let current: { left: Float32Array; right: Float32Array; at: number } | null = null
    let ended = false
    const advance = async () => {
      const next = await samples.next()
      if (next.done) {
        ended = true
        return
      }
      const sample = next.value
      const left = new Float32Array(sample.numberOfFrames)
      sample.copyTo(left, { planeIndex: 0, format: 'f32-planar' })
      const right = sample.numberOfChannels > 1 ? new Float32Array(sample.numberOfFrames) : left
      if (right !== left) sample.copyTo(right, { planeIndex: 1, format: 'f32-planar' })
      current = { left, right, at: sample.timestamp + feed.offset }
      sample.close()
    }
    const emit = (upTo: number): AudioSample => {
      const frames = upTo - blockStart
      const sample = new AudioSample({ data: block.subarray(0, 2 * frames).slice(), format: 'f32', numberOfChannels: 2, sampleRate: SOUND_RATE, timestamp: (blockStart - delay) / SOUND_RATE })
      block = new Float32Array(2 * BLOCK)
      blockStart = upTo
      return sample
    }
    for (let i = blockStart; i < end; i++) {
      const time = segment.from + (i - start) / SOUND_RATE
      while (!ended && (current === null || time >= (current as { at: number; left: Float32Array }).at + (current as { left: Float32Array }).left.length / sourceRate)) await advance()
      const now = current as { left: Float32Array; right: Float32Array; at: number } | null
      if (now) {
        const at = (time - now.at) * sourceRate
        const k = Math.floor(at)
        if (k >= 0 && k < now.left.length) {
          const share = at - k
          const k1 = Math.min(k + 1, now.left.length - 1)
          const gain = seamGain((i - start) / SOUND_RATE, length, fadeIn, fadeOut)
          block[2 * (i - blockStart)] = gain * ((now.left[k] ?? 0) * (1 - share) + (now.left[k1] ?? 0) * share)
          block[2 * (i - blockStart) + 1] = gain * ((now.right[k] ?? 0) * (1 - share) + (now.right[k1] ?? 0) * share)
        }
      }
      if (i - blockStart + 1 === BLOCK) yield emit(i + 1)
    }
    if (blockStart < end) yield emit(end)
    await samples.return(undefined)
  }
}

/**
 * Renders to a scratch file.
 * @param name of the scratch file
 * @param onProgress called with 0…1
 * @throws {Error} with a sentence; nothing is left behind
 */
export async function render(plan: RenderPlan, name: string, onProgress: (share: number) => void): Promise<Rendered> {
  if (!(plan.map.length > 0)) throw new Error('Everything is taken out of this lecture; there is nothing to publish.')
  const layout = arrange(plan.layout, { screen: plan.screen, camera: plan.camera })
  const scratch = await openScratch(name)
  const inputs: Input[] = []
  const open = (blob: Blob) => {
    const input = openInput(blob)
    inputs.push(input)
    return input
  }
  try {
    const frames = layout ? frameCount(plan.map.length, plan.frameRate) : 0
    const output = new Output({ format: new Mp4OutputFormat({ fastStart: 'reserve' }), target: scratch.target })
    const video = layout ? new VideoSampleSource({ codec: 'avc', quality: new Quality({ bitrate: BITRATE.video }), keyFrameInterval: 5 }) : null
    if (video) output.addVideoTrack(video, { frameRate: plan.frameRate, maximumPacketCount: frames + 8 })
    const chosen = plan.sound ? await chooseSoundCodec() : null
    const audio = chosen ? new AudioSampleSource({ codec: chosen.codec, quality: new Quality({ bitrate: BITRATE.audio }) }) : null
    // AAC packets hold 1024 samples, Opus packets 960: 900 is safely fewer.
    if (audio) output.addAudioTrack(audio, { maximumPacketCount: Math.ceil((plan.map.length * SOUND_RATE) / 900) + 16 })
    await output.start()

    const sound = plan.sound && audio ? soundBlocks(open(plan.sound.blob), plan.sound, plan.map, chosen?.delay ?? 0) : null
    let soundAt = 0
    const pumpSound = async (upTo: number) => {
      while (sound && audio && soundAt < upTo) {
        const next = await sound.next()
        if (next.done) {
          soundAt = Infinity
          return
        }
        await audio.add(next.value)
        soundAt = next.value.timestamp + next.value.duration
        next.value.close()
        if (!layout) onProgress(Math.min(1, soundAt / plan.map.length))
      }
    }

    if (layout && video) {
      const canvas = new OffscreenCanvas(layout.frame.width, layout.frame.height)
      const g = canvas.getContext('2d', { alpha: false })
      if (!g) throw new Error('This browser cannot draw in a worker, which rendering needs.')
      const pictures = layout.placed.flatMap(({ kind, box }) => {
        const feed = plan[kind]
        return feed ? [{ box, samples: pictureAt(open(feed.blob), feed, frameTimes(plan.map, frames, plan.frameRate)) }] : []
      })
      const asIs = pictures.length === 1 && isWhole(layout.placed[0]?.box, plan[layout.placed[0]?.kind ?? 'screen'])
      for (let i = 0; i < frames; i++) {
        const samples = await Promise.all(pictures.map(async (p) => ({ box: p.box, sample: (await p.samples.next()).value ?? null })))
        const only = asIs ? samples[0]?.sample : null
        const frame = only ? only.clone() : compose(g, canvas, samples)
        frame.setTimestamp(i / plan.frameRate)
        frame.setDuration(1 / plan.frameRate)
        await video.add(frame)
        frame.close()
        for (const { sample } of samples) sample?.close()
        await pumpSound((i + 1) / plan.frameRate + 0.5)
        if (i % plan.frameRate === 0) onProgress(i / frames)
      }
      await Promise.all(pictures.map((p) => p.samples.return(undefined)))
    }
    await pumpSound(Infinity)
    await output.finalize()
    onProgress(1)
    return { file: await scratch.finish(), width: layout?.frame.width ?? 0, height: layout?.frame.height ?? 0, note: chosen?.note ?? '' }
  } catch (error) {
    await scratch.discard()
    throw error
  } finally {
    inputs.forEach((i) => i.dispose())
  }
}

const isWhole = (box: Box | undefined, feed: RenderPicture | null) => Boolean(box && feed && box.width === feed.width && box.height === feed.height)

/** Draws the pictures over one another. A picture that has no frame yet leaves the one before, or black. */
function compose(g: OffscreenCanvasRenderingContext2D, canvas: OffscreenCanvas, samples: { box: Box; sample: VideoSample | null }[]): VideoSample {
  samples.forEach(({ box, sample }, layer) => {
    if (!sample) return
    if (layer > 0) {
      g.fillStyle = '#FFFFFF'
      g.fillRect(box.x - 2, box.y - 2, box.width + 4, box.height + 4)
    }
    sample.draw(g, box.x, box.y, box.width, box.height)
  })
  return new VideoSample(canvas, { timestamp: 0 })
}
