/**
 * Decodes stretches of a file's sound, as one of several workers that take them by turns. A block belongs to the
 * stretch in which it begins, so that every block is given once and none is cut.
 *
 *     worker 0  ├─ stretch 0 ─┤              ├─ stretch 2 ─┤
 *     worker 1                ├─ stretch 1 ─┤              ├─ stretch 3 …
 */
import { errorMessage } from '#core/text/error-message'
import { AudioSampleSink, type AudioSample } from 'mediabunny'
import { openInput } from '../read'

export interface PcmRequest {
  blob: Blob
  /** Length of a stretch, s; the first this worker takes, how many it goes on by, and how many there are in all. */
  length: number
  first: number
  step: number
  count: number
}

/**
 * What the worker says: planes of samples that follow one another from `at` s on, the end of a stretch, or what went
 * wrong.
 */
export type PcmMessage =
  | { kind: 'pcm'; at: number; planes: Float32Array<ArrayBuffer>[] }
  | { kind: 'end' }
  | { kind: 'error'; message: string }

/** Samples gathered before they are sent, and messages that may be on their way. */
const BATCH = 48_000
const CREDIT = 24
/** Decoders need this much before a stretch to give it as they would in one go, s. */
const PRE_ROLL = 0.12
/** Blocks further apart than this do not follow one another, s. */
const GAP = 0.01

let credit = CREDIT
let wake = () => undefined as void

async function send(message: PcmMessage): Promise<void> {
  if (message.kind === 'pcm') {
    while (credit <= 0) await new Promise<void>((resolve) => (wake = resolve))
    credit--
  }
  ;(self as unknown as Worker).postMessage(message, message.kind === 'pcm' ? message.planes.map((p) => p.buffer) : [])
}

async function decode({ blob, length, first, step, count }: PcmRequest): Promise<void> {
  const input = openInput(blob)
  try {
    const track = await input.getPrimaryAudioTrack()
    if (!track) throw new Error('This file has no sound.')
    const channels = await track.getNumberOfChannels()
    const sink = new AudioSampleSink(track)
    for (let stretch = first; stretch < count; stretch += step) {
      const from = stretch === 0 ? -Infinity : stretch * length
      const to = stretch === count - 1 ? Infinity : (stretch + 1) * length
      await decodeStretch(sink, channels, from, to)
      await send({ kind: 'end' })
    }
  } finally {
    input.dispose()
  }
}

async function decodeStretch(sink: AudioSampleSink, channels: number, from: number, to: number): Promise<void> {
  let batch: { at: number; planes: Float32Array<ArrayBuffer>[]; filled: number } | null = null
  const flush = async () => {
    if (!batch) return
    const { at, planes, filled } = batch
    batch = null
    await send({ kind: 'pcm', at, planes: filled === BATCH ? planes : planes.map((p) => p.slice(0, filled)) })
  }
  for await (const sample of sink.samples(from - PRE_ROLL, to)) {
    if (sample.timestamp >= from && sample.timestamp < to) {
      const expected: number = batch ? batch.at + batch.filled / sample.sampleRate : sample.timestamp
      if (Math.abs(sample.timestamp - expected) > GAP) await flush()
      for (let done = 0; done < sample.numberOfFrames;) {
        batch ??= {
          at: sample.timestamp + done / sample.sampleRate,
          planes: Array.from({ length: channels }, () => new Float32Array(BATCH)),
          filled: 0,
        }
        done += copyInto(sample, done, batch)
        if (batch.filled === BATCH) await flush()
      }
    }
    sample.close()
  }
  await flush()
}

/** Copies what fits and gives the number of frames. A channel that a block lacks stays silent. */
function copyInto(
  sample: AudioSample,
  done: number,
  batch: { planes: Float32Array<ArrayBuffer>[]; filled: number },
): number {
  const frameCount = Math.min(sample.numberOfFrames - done, BATCH - batch.filled)
  for (const [planeIndex, plane] of batch.planes.entries())
    if (planeIndex < sample.numberOfChannels)
      sample.copyTo(plane.subarray(batch.filled, batch.filled + frameCount), {
        planeIndex,
        format: 'f32-planar',
        frameOffset: done,
        frameCount,
      })
  batch.filled += frameCount
  return frameCount
}

/** Hears the request first; every later message means that one was taken. */
self.onmessage = ({ data }: MessageEvent<PcmRequest | 'taken'>) => {
  if (data === 'taken') {
    credit++
    wake()
  } else void decode(data).catch((error: unknown) => send({ kind: 'error', message: errorMessage(error) }))
}
