/** Takes steady noise out of stretches of sound with RNNoise, as one of several workers that take them by turns. */
import { errorMessage } from '#core/text/error-message'
import { NOISE_DELAY, NOISE_RATE } from './quiet-names'

export interface QuietRequest {
  /** 48 kHz. */
  planes: Float32Array<ArrayBuffer>[]
  /** Samples before the stretch, by which what the noise is like is learnt; they are not given back. */
  lead: number
  /** Samples that are given back. */
  frames: number
}
/** What it says: how many samples were gone through since, now and then; at the end the stretch, or what went wrong. */
export type QuietAnswer =
  | { kind: 'done'; samples: number }
  | { kind: 'pcm'; planes: Float32Array<ArrayBuffer>[] }
  | { kind: 'error'; message: string }

/** It speaks in 16-bit amplitudes. */
const SCALE = 32_768

const loaded = import('@shiguredo/rnnoise-wasm').then(({ Rnnoise }) => Rnnoise.load())

/** How many samples are done between two tellings. */
const TELL_EVERY = NOISE_RATE

async function quieten(
  { planes, lead, frames }: QuietRequest,
  tell: (samples: number) => void,
): Promise<Float32Array<ArrayBuffer>[]> {
  const rnnoise = await loaded
  const frame = new Float32Array(rnnoise.frameSize)
  const skip = lead + NOISE_DELAY
  return planes.map((plane) => {
    const state = rnnoise.createDenoiseState()
    const out = new Float32Array(frames)
    for (let at = 0; at < skip + frames; at += frame.length) {
      if (at % TELL_EVERY === 0) tell(TELL_EVERY)
      for (let i = 0; i < frame.length; i++) frame[i] = (plane[at + i] ?? 0) * SCALE
      state.processFrame(frame)
      for (let i = Math.max(0, skip - at); i < frame.length && at + i < skip + frames; i++)
        out[at + i - skip] = (frame[i] as number) / SCALE
    }
    state.destroy()
    return out
  })
}

self.onmessage = ({ data }: MessageEvent<QuietRequest>) => {
  const answer = (said: QuietAnswer, moved: Transferable[] = []) => (self as unknown as Worker).postMessage(said, moved)
  quieten(data, (samples) => answer({ kind: 'done', samples })).then(
    (planes) =>
      answer(
        { kind: 'pcm', planes },
        planes.map((p) => p.buffer),
      ),
    (error: unknown) => answer({ kind: 'error', message: errorMessage(error) }),
  )
}
