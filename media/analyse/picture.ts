/** Passes over a picture: thumbnails along the time line, and the slides of a screen. */
import { EncodedPacketSink, VideoSampleSink, type InputVideoTrack, type VideoSample } from 'mediabunny'
import { SAMPLES_PER_SECOND, screenGrid, slideDetector, type ScreenGrid } from '#core/picture/slides'
import { openInput, openScattered } from '../read'
import { smallPictures } from './small'

export interface Thumbnail {
  /** s of the file's time. */
  at: number
  image: Blob
}

/** Width of a thumbnail and of a slide's still, px. */
const THUMBNAIL = 192
const STILL = 640

async function pictureTrack(input: ReturnType<typeof openInput>): Promise<InputVideoTrack> {
  const track = await input.getPrimaryVideoTrack()
  if (!track) throw new Error('This file has no picture.')
  return track
}

const jpeg = (canvas: OffscreenCanvas): Promise<Blob> => canvas.convertToBlob({ type: 'image/jpeg', quality: 0.75 })

/** The pictures of a track at some instants, small; null where there is none. */
async function* smallAt(
  track: InputVideoTrack,
  width: number,
  times: readonly number[],
): AsyncGenerator<{ at: number; picture: OffscreenCanvas } | null> {
  const small = smallPictures(width)
  for await (const sample of new VideoSampleSink(track).samplesAtTimestamps(times)) {
    if (!sample) {
      yield null
      continue
    }
    try {
      yield { at: sample.timestamp, picture: await small(sample) }
    } finally {
      sample.close()
    }
  }
}

/** An instant to be looked at, s of the file's time; a frame from `from` on does as well. */
export interface Look {
  from: number
  at: number
}

/** Where to look, in order: at the last key frame that does, as it needs no other frame to be decoded; else there. */
async function timesFor(track: InputVideoTrack, looks: readonly Look[]): Promise<number[]> {
  const packets = new EncodedPacketSink(track)
  const first = await track.getFirstTimestamp()
  const times: number[] = []
  for (const { from, at } of looks) {
    const wanted = Math.max(first, at)
    const key = await packets.getKeyPacket(wanted, { metadataOnly: true })
    times.push(key && key.timestamp >= from ? key.timestamp : wanted)
  }
  return times
}

/** Whether the picture of a film can be decoded here. */
export async function canShow(blob: Blob): Promise<boolean> {
  const input = openInput(blob)
  try {
    return await (await pictureTrack(input)).canDecode()
  } finally {
    input.dispose()
  }
}

/** The pictures of a film for some looks, in order, `width` px wide; null where there is none. */
export async function* smallPicturesAt(
  blob: Blob,
  looks: readonly Look[],
  width: number,
): AsyncGenerator<OffscreenCanvas | null, void> {
  const input = openInput(blob)
  try {
    const track = await pictureTrack(input)
    for await (const found of smallAt(track, width, await timesFor(track, looks))) yield found?.picture ?? null
  } finally {
    input.dispose()
  }
}

/** A film that is looked at again and again: of a long one, reading the index takes longer and more than a picture. */
export interface Film {
  /**
   * Thumbnails at some instants (s of the file's time, in order). A key frame that comes at most `near` s before is
   * taken instead, as it needs no other frame to be decoded.
   */
  thumbnails(instants: readonly number[], near: number, onOne: (one: Thumbnail) => void): Promise<void>
  close(): void
}

/** Opens a film to be looked at here and there; its index is read when it is first asked. */
export function openFilm(blob: Blob): Film {
  const input = openScattered(blob)
  return {
    async thumbnails(instants, near, onOne) {
      const track = await pictureTrack(input)
      const looks = instants.map((at) => ({ from: at - near, at }))
      const times = (await timesFor(track, looks)).filter((at, i, all) => at !== all[i - 1])
      for await (const found of smallAt(track, THUMBNAIL, times))
        if (found) onOne({ at: found.at, image: await jpeg(found.picture) })
    },
    close: () => input.dispose(),
  }
}

export interface Slide {
  /** When it appeared, s of the file's time. */
  at: number
  still: Blob
}

/** The luma plane of a sample, or null when its format has none that can be read directly. */
async function lumaOf(sample: VideoSample, buffer: Uint8Array): Promise<{ luma: Uint8Array; stride: number } | null> {
  if (sample.format !== 'I420' && sample.format !== 'NV12') return null
  const size = sample.allocationSize()
  const bytes = buffer.length >= size ? buffer : new Uint8Array(size)
  const [plane] = await sample.copyTo(bytes)
  return plane ? { luma: bytes.subarray(plane.offset), stride: plane.stride } : null
}

/** Key frames further apart than this, s, are no reason to believe that nothing happened between them. */
const PASSED_AT_MOST = 12

/**
 * The slides of a screen feed, each with a still of how it looked in the end. Where a key frame shows what stood there
 * before it, what lies between is not decoded: most of a lecture is one slide standing still.
 */
export async function slides(blob: Blob, onProgress: (share: number) => void): Promise<Slide[]> {
  const input = openInput(blob)
  try {
    const track = await pictureTrack(input)
    const duration = await track.computeDuration()
    const first = await track.getFirstTimestamp()
    const detector = slideDetector()
    const samples = new VideoSampleSink(track)
    let buffer = new Uint8Array(0)
    let told = performance.now()
    async function gridOf(sample: VideoSample): Promise<ScreenGrid> {
      if (buffer.length === 0) buffer = new Uint8Array(sample.allocationSize())
      const found = await lumaOf(sample, buffer)
      const { width, height } = sample.visibleRect
      return found ? screenGrid(found.luma, found.stride, width, height) : drawnGrid(sample)
    }
    /** Looks at all from one instant to before another. */
    async function lookThrough(from: number, to: number): Promise<void> {
      const times: number[] = []
      for (let i = Math.ceil((from - first) * SAMPLES_PER_SECOND - 1e-6); ; i++) {
        const time = first + i / SAMPLES_PER_SECOND
        if (time >= Math.min(to, duration) - 1e-6) break
        times.push(time)
      }
      let i = 0
      for await (const sample of samples.samplesAtTimestamps(times)) {
        const time = times[i++] as number
        if (!sample) continue
        detector.push(time, await gridOf(sample))
        sample.close()
        tell(time)
      }
    }
    function tell(time: number): void {
      if (performance.now() - told < 400) return
      told = performance.now()
      onProgress(Math.min(1, time / duration))
    }
    let from = first
    for await (const { timestamp: key, grid } of keyLooks(track, gridOf)) {
      if (key <= from) continue
      if (key - from > PASSED_AT_MOST || !detector.pass(key, grid)) await lookThrough(from, key)
      from = key
      tell(key)
    }
    await lookThrough(from, duration)
    const found = detector.finish()
    const out: Slide[] = []
    // Just before the next one: all that is built up is there.
    const looks = found.map((at, k) => Math.max(at, Math.min((found[k + 1] ?? duration) - 0.6, duration)))
    let k = 0
    for await (const small of smallAt(track, STILL, looks)) {
      const at = found[k++]
      if (small && at !== undefined) out.push({ at, still: await jpeg(small.picture) })
    }
    onProgress(1)
    return out
  } finally {
    input.dispose()
  }
}

/** Of key frames that follow one another sooner than this, s, not all are looked at. */
const LOOK_EVERY = 1

/** The key frames of a track, each as it looks. */
async function* keyLooks(
  track: InputVideoTrack,
  gridOf: (sample: VideoSample) => Promise<ScreenGrid>,
): AsyncGenerator<{ timestamp: number; grid: ScreenGrid }> {
  const packets = new EncodedPacketSink(track)
  async function* times(): AsyncGenerator<number> {
    let last = -Infinity
    for (
      let key = await packets.getFirstKeyPacket({ metadataOnly: true });
      key;
      key = await packets.getNextKeyPacket(key, { metadataOnly: true })
    ) {
      if (key.timestamp < last + LOOK_EVERY) continue
      last = key.timestamp
      yield last
    }
  }
  for await (const sample of new VideoSampleSink(track).samplesAtTimestamps(times())) {
    if (!sample) continue
    yield { timestamp: sample.timestamp, grid: await gridOf(sample) }
    sample.close()
  }
}

/** The slow way, for formats whose planes cannot be read: drawn small, green standing for luma. */
function drawnGrid(sample: VideoSample): ScreenGrid {
  const [width, height] = [640, 360]
  const g = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })
  if (!g) throw new Error('This browser cannot draw in a worker.')
  sample.draw(g, 0, 0, width, height)
  const rgba = g.getImageData(0, 0, width, height).data
  const luma = new Uint8Array(width * height)
  for (let i = 0; i < luma.length; i++) luma[i] = rgba[4 * i + 1] ?? 0
  return screenGrid(luma, width, width, height)
}
