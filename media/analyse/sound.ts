/** One pass over a sound track, decoded by workers beside this one so that decoding and measuring each have a core. */
import { max, min } from 'd3-array'
import { AudioSampleSink } from 'mediabunny'
import { soundAnalyser, type SoundAnalysis } from '#core/sound/analysis'
import { quantise, type PeakLevel } from '#core/sound/peaks'
import { usualSilence, type SilenceSettings } from '#core/sound/silence'
import { decodedRate } from '../opus'
import { openInput, openScattered } from '../read'
import type { PcmMessage, PcmRequest } from './pcm-worker'

/** Told 0…1 and the peaks so far: after half a second first, then ever less often, as there is more of them. */
export type SoundProgress = (share: number, peaks: PeakLevel[] | null) => void

/** Stretches that the decoders take by turns, s, and how many decoders there are. */
const STRETCH = 20
const DECODERS = 2
/** A longer hole between blocks is silence; less is a container's rounding, s. */
const ROUNDING = 0.01

interface Decoder {
  next(): Promise<PcmMessage>
  taken(): void
  end(): void
}

function startDecoder(request: PcmRequest): Decoder {
  const worker = new Worker(new URL('./pcm-worker.ts', import.meta.url), { type: 'module' })
  const waiting: PcmMessage[] = []
  let wake = () => undefined as void
  const hear = (message: PcmMessage) => {
    waiting.push(message)
    wake()
  }
  worker.onmessage = ({ data }: MessageEvent<PcmMessage>) => hear(data)
  worker.onerror = (event) =>
    hear({ kind: 'error', message: event.message || 'The decoder’s worker could not be started.' })
  worker.postMessage(request)
  return {
    async next() {
      for (;;) {
        const message = waiting.shift()
        if (message) return message
        await new Promise<void>((resolve) => (wake = resolve))
      }
    },
    taken: () => worker.postMessage('taken'),
    end: () => worker.terminate(),
  }
}

/** Planar samples of a file in order. The decoders end with the generator. */
async function* decoded(
  blob: Blob,
  stretches: number,
  sampleRate: number,
  channels: number,
): AsyncGenerator<Float32Array[]> {
  const decoders = Array.from({ length: Math.min(DECODERS, stretches) }, (_, turn) =>
    startDecoder({ blob, length: STRETCH, first: turn, step: DECODERS, count: stretches }),
  )
  let at = 0
  try {
    for (let stretch = 0; stretch < stretches; stretch++) {
      const decoder = decoders[stretch % DECODERS] as Decoder
      for (let message = await decoder.next(); message.kind !== 'end'; message = await decoder.next()) {
        if (message.kind === 'error') throw new Error(message.message)
        const hole = Math.round(message.at * sampleRate) - at
        for (let left = hole > ROUNDING * sampleRate ? hole : 0; left > 0; left -= sampleRate) {
          const frames = Math.min(left, sampleRate)
          yield Array.from({ length: channels }, () => new Float32Array(frames))
          at += frames
        }
        yield message.planes
        at += message.planes[0]?.length ?? 0
        decoder.taken()
      }
    }
  } finally {
    decoders.forEach((d) => d.end())
  }
}

/** Sound that is longer, s, is first looked at here and there, at so many places. */
const LONG = 300
const PLACES = 64

/** Peaks of a long sound from a few packets here and there; null of a short one, which is soon analysed whole. */
export async function coarsePeaks(blob: Blob): Promise<PeakLevel | null> {
  const input = openScattered(blob)
  try {
    const track = await input.getPrimaryAudioTrack()
    const duration = (await track?.computeDuration()) ?? 0
    if (!track || duration < LONG) return null
    const data = new Int8Array(2 * PLACES)
    let place = 0
    const middles = Array.from({ length: PLACES }, (_, i) => ((i + 0.5) * duration) / PLACES)
    for await (const sample of new AudioSampleSink(track).samplesAtTimestamps(middles)) {
      const at = 2 * place++
      if (!sample) continue
      const samples = new Float32Array(sample.numberOfFrames)
      sample.copyTo(samples, { planeIndex: 0, format: 'f32-planar' })
      sample.close()
      data[at] = quantise(min(samples) ?? Infinity)
      data[at + 1] = quantise(max(samples) ?? -Infinity)
    }
    return { binsPerSecond: PLACES / duration, data }
  } finally {
    input.dispose()
  }
}

/**
 * Analyses a file's sound.
 * @throws {Error} when it has none, or it cannot be decoded
 */
export async function analyseSound(
  blob: Blob,
  onProgress: SoundProgress,
  silence: SilenceSettings = usualSilence,
): Promise<SoundAnalysis> {
  const input = openInput(blob)
  try {
    const track = await input.getPrimaryAudioTrack()
    if (!track) throw new Error('This file has no sound.')
    const sampleRate = await decodedRate(track)
    const channels = await track.getNumberOfChannels()
    const duration = await track.computeDuration()
    const analyser = soundAnalyser(sampleRate, channels, silence)
    const began = performance.now()
    let tellAt = began + 400
    for await (const planes of decoded(blob, Math.max(1, Math.ceil(duration / STRETCH)), sampleRate, channels)) {
      analyser.push(planes)
      if (performance.now() > tellAt) {
        tellAt = performance.now() + Math.max(400, 0.15 * (performance.now() - began))
        onProgress(Math.min(1, analyser.seconds / duration), analyser.peaks())
      }
    }
    onProgress(1, null)
    return analyser.finish()
  } finally {
    input.dispose()
  }
}
