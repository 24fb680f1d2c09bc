/**
 * Takes steady noise out of the sound of a whole result: in stretches, on as many workers as there are cores, each led up to
 * by what comes before it and laid over the end of the one before.
 *
 *     worker 0  ┄┄lead┄┄├─ stretch 0 ─┤╲
 *     worker 1          ┄┄┄lead┄┄┄┄┄┄┄┄╱├─ stretch 1 ─┤
 */
import { silence, type Pcm, type SoundMix } from './pcm'
import { NOISE_DELAY, NOISE_RATE } from './quiet-names'
import type { QuietAnswer, QuietRequest } from './quiet-worker'

/** Length of a stretch and of what leads up to it, and over how much two are laid over each other: samples. */
const [STRETCH, LEAD, FADE] = [30 * NOISE_RATE, 5 * NOISE_RATE, NOISE_RATE / 20]
/** Samples given on together. */
const BLOCK = NOISE_RATE
const MOST_WORKERS = 4

interface Quieter {
  quieten(request: QuietRequest): Promise<Pcm>
  end(): void
}

/** @param onDone told how many samples of a plane were gone through since */
function startQuieter(onDone: (samples: number) => void): Quieter {
  const worker = new Worker(new URL('./quiet-worker.ts', import.meta.url), { type: 'module' })
  const waiting: { resolve(pcm: Pcm): void; reject(error: Error): void }[] = []
  worker.onmessage = ({ data }: MessageEvent<QuietAnswer>) => {
    if (data.kind === 'done') {
      onDone(data.samples)
      return
    }
    const first = waiting.shift()
    if (data.kind === 'pcm') first?.resolve(data.planes)
    else first?.reject(new Error(data.message))
  }
  worker.onerror = (event) => {
    const failed = new Error(event.message || 'The worker that takes noise out could not be started.')
    for (const { reject } of waiting.splice(0)) reject(failed)
  }
  return {
    quieten: (request) =>
      new Promise((resolve, reject) => {
        waiting.push({ resolve, reject })
        worker.postMessage(
          request,
          request.planes.map((p) => p.buffer),
        )
      }),
    end: () => worker.terminate(),
  }
}

/** Puts the end of what went before over the beginning of a stretch, in place. */
function layOver(stretch: Pcm, tail: Pcm): void {
  for (const [c, plane] of stretch.entries()) {
    const before = tail[c] ?? new Float32Array()
    const length = Math.min(before.length, plane.length)
    for (let i = 0; i < length; i++) {
      const share = (i + 0.5) / length
      plane[i] = (plane[i] as number) * share + (before[i] as number) * (1 - share)
    }
  }
}

/** Samples of a mix from one on, of which none is read twice. */
function readOn(mix: SoundMix, channels: number) {
  let held = silence(channels, 0)
  let from = 0
  return async (start: number, end: number): Promise<Pcm> => {
    const reach = from + (held[0]?.length ?? 0)
    const fresh: Pcm[] = []
    for (let at = reach; at < end; at += BLOCK) fresh.push(await mix.read(at, Math.min(BLOCK, end - at)))
    held = held.map((plane, c) => {
      const next = new Float32Array(end - start)
      next.set(plane.subarray(start - from))
      let at = Math.max(0, reach - start)
      for (const pcm of fresh) {
        next.set(pcm[c] ?? [], at)
        at += pcm[0]?.length ?? 0
      }
      return next
    })
    from = start
    return held.map((plane) => plane.slice())
  }
}

/**
 * The sound of a mix without its noise, in blocks and in order; the workers end with the generator.
 * @param mix at 48 kHz
 * @param total samples
 * @param onShare told how much of it is gone through, 0…1
 */
export async function* quietSound(
  mix: SoundMix,
  total: number,
  channels: number,
  onShare: (share: number) => void,
): AsyncGenerator<Pcm> {
  const count = Math.ceil(total / STRETCH)
  const cores = Math.min(MOST_WORKERS, navigator.hardwareConcurrency || 2)
  // What leads up to a stretch is gone through as well.
  const work = channels * (total + (count - 1) * LEAD)
  let done = 0
  const tell = (samples: number) => onShare(Math.min(1, (done += samples) / work))
  const quieters = Array.from({ length: Math.min(cores, count) }, () => startQuieter(tell))
  const read = readOn(mix, channels)
  const underway: Promise<Pcm>[] = []
  let tail = silence(channels, 0)
  try {
    for (let i = 0; i < count || underway.length > 0;) {
      // One more than there are workers: none waits while the next is read.
      if (i < count && underway.length <= quieters.length) {
        const start = i * STRETCH
        const lead = Math.min(LEAD, start)
        const frames = Math.min(STRETCH + FADE, total - start)
        const planes = await read(start - lead, start + frames + NOISE_DELAY)
        const made = (quieters[i % quieters.length] as Quieter).quieten({
          ...{ lead, frames },
          planes: planes as QuietRequest['planes'],
        })
        // Told when it is its turn.
        made.catch(() => undefined)
        underway.push(made)
        i++
        continue
      }
      const stretch = await (underway.shift() as Promise<Pcm>)
      layOver(stretch, tail)
      const length = Math.min(STRETCH, stretch[0]?.length ?? 0)
      tail = stretch.map((plane) => plane.slice(length))
      for (let at = 0; at < length; at += BLOCK)
        yield stretch.map((plane) => plane.subarray(at, Math.min(length, at + BLOCK)))
    }
  } finally {
    for (const quieter of quieters) quieter.end()
  }
}
