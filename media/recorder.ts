/**
 * Records live tracks. Each feed is its own file with its own encoder, written as fragments of about a second:
 * what has been handed to `onChunk` is playable by itself, whatever happens afterwards.
 */
import {
  AppendOnlyStreamTarget,
  canEncodeVideo,
  MediaStreamAudioTrackSource,
  MediaStreamVideoTrackSource,
  Mp4OutputFormat,
  Output,
  Quality,
  AudioSample,
  type AudioCodec,
  type EncodedPacket,
  type VideoCodec,
} from 'mediabunny'
import { atRate } from '#core/record/at-rate'
import { clockWatch, type ClockPoint } from '#core/record/clock'
import { liveSound } from '#core/record/live-sound'

export interface RecorderFeed {
  id: string
  kind: 'screen' | 'camera' | 'sound'
  track: MediaStreamTrack
  /** Frames per second for pictures. */
  frameRate: number
  /** Bits per second. */
  bitrate: number
  /** The part of the picture that is recorded, as shares of it; null for all. What lies outside is never encoded. */
  area: { x: number; y: number; width: number; height: number } | null
  /** How much louder a sound is recorded, as a factor; asked again and again. */
  gain: () => number
}

/** How a running feed does. */
export interface FeedHealth {
  feedId: string
  /** Frames (or blocks of sound) encoded so far, and frames due by the clock since the first; 0 for sound. */
  frames: number
  due: number
  bytes: number
}

export interface RecorderEvents {
  /** The next bytes of a feed's file. Awaited: encoding waits for storage, so that nothing piles up in memory. */
  onChunk(feedId: string, bytes: Uint8Array<ArrayBuffer>): Promise<void>
  /** More is known of how a feed's own time stands to the take's clock. */
  onClock(feedId: string, points: readonly ClockPoint[]): void
  /** A packet of a feed as it was encoded, in the feed's own time; `config` with its first one. */
  onPacket?(
    feedId: string,
    packet: EncodedPacket,
    codec: VideoCodec | AudioCodec,
    config: VideoDecoderConfig | AudioDecoderConfig | undefined,
  ): void
  /** A feed broke; the others go on. */
  onTrouble(feedId: string, error: unknown): void
}

export interface Recorder {
  /** The take's zero on the page's clock (`performance.now()`, ms). */
  zero: number
  health(): FeedHealth[]
  /** Ends the take; resolves when every feed has been written. */
  stop(): Promise<void>
}

/**
 * Longest time that is only in memory, s: a fragment ends at the next key frame after this, and key frames come as
 * often.
 */
const FRAGMENT = 0.7
const KEY_FRAMES = 0.75

async function pictureCodec(width: number, height: number): Promise<VideoCodec> {
  for (const codec of ['avc', 'vp9', 'av1'] as const) if (await canEncodeVideo(codec, { width, height })) return codec
  throw new Error('This browser cannot encode video. A current Chromium, Edge or Safari can.')
}

/** A drawn area in pixels, its edges on even ones, as video is coded in pairs. */
export function cropOf(
  area: { x: number; y: number; width: number; height: number },
  width: number,
  height: number,
): { left: number; top: number; width: number; height: number } {
  const even = (share: number, whole: number) => 2 * Math.round((share * whole) / 2)
  const left = Math.min(even(area.x, width), width - 16)
  const top = Math.min(even(area.y, height), height - 16)
  return {
    left,
    top,
    width: Math.min(width - left, Math.max(16, even(area.width, width))),
    height: Math.min(height - top, Math.max(16, even(area.height, height))),
  }
}

/** Joins what the muxer writes in one go (a fragment comes as several pieces) into one chunk. */
function chunkWriter(feedId: string, events: RecorderEvents): WritableStream<Uint8Array> {
  let parts: Uint8Array[] = []
  let timer: ReturnType<typeof setTimeout> | undefined
  let stored: Promise<void> = Promise.resolve()
  const flush = () => {
    clearTimeout(timer)
    timer = undefined
    if (parts.length === 0) return
    const bytes = new Uint8Array(parts.reduce((sum, p) => sum + p.byteLength, 0))
    let at = 0
    for (const part of parts) {
      bytes.set(part, at)
      at += part.byteLength
    }
    parts = []
    stored = stored.then(() => events.onChunk(feedId, bytes))
    // Said at once; the next write and close await `stored` too, and so end this feed.
    stored.catch((error: unknown) => events.onTrouble(feedId, error))
  }
  return new WritableStream<Uint8Array>({
    async write(part) {
      await stored
      parts.push(part.slice())
      timer ??= setTimeout(flush, 30)
    },
    async close() {
      flush()
      await stored
    },
  })
}

/** Hz; that of Opus, whatever a device runs at. */
const SOUND_RATE = 48_000

/** Makes what a device gives to what is encoded. */
function soundProcess(gain: () => number): (block: AudioSample) => AudioSample[] {
  const sound = liveSound(gain)
  const convert = atRate(SOUND_RATE)
  return (block) => {
    const { sampleRate, numberOfFrames } = block
    const channels = Array.from({ length: Math.min(2, block.numberOfChannels) }, (_, planeIndex) => {
      const samples = new Float32Array(numberOfFrames)
      block.copyTo(samples, { planeIndex, format: 'f32-planar' })
      return samples
    })
    const format = { format: 'f32-planar', numberOfChannels: 2, sampleRate: SOUND_RATE } as const
    return sound(block.timestamp, sampleRate, channels)
      .flatMap((stereo) => convert(stereo, sampleRate))
      .map(({ at, planes }) => new AudioSample({ ...format, data: planes, timestamp: at }))
  }
}

/** Starts recording all feeds at once. The take's zero is the moment of the call. */
export async function startRecorder(feeds: readonly RecorderFeed[], events: RecorderEvents): Promise<Recorder> {
  const zero = performance.now()
  const running = await Promise.all(
    feeds.map(async (feed) => {
      let begun = 0
      let ended = 0
      feed.track.addEventListener('ended', () => {
        ended = performance.now()
      })
      const count: FeedHealth = { feedId: feed.id, frames: 0, due: 0, bytes: 0 }
      const health = (): FeedHealth => ({
        ...count,
        due: begun ? Math.round((((ended || performance.now()) - begun) / 1000) * feed.frameRate) : 0,
      })
      const clock = clockWatch()
      // Frames are written at even times: each with what the device gave last, which is half of the device's interval
      // old on average, and was seen half a frame before that.
      const age = 0.5 / feed.frameRate + 0.5 / (feed.track.getSettings().frameRate || feed.frameRate)
      /** @param own end of what has come, s of the feed's own time */
      const arrived = (own: number) => {
        begun ||= performance.now()
        if (clock.push(own, (performance.now() - zero) / 1000)) events.onClock(feed.id, clock.points)
      }
      const onEncodedSample = (sample: { timestamp: number }) => {
        count.frames++
        if (feed.kind !== 'sound') arrived(sample.timestamp + age)
      }
      // The encoder counts samples, whatever time they came with: what stands in the file is what has to keep time.
      const onEncodedPacket = (packet: EncodedPacket, meta?: EncodedAudioChunkMetadata) => {
        arrived(packet.timestamp + packet.duration)
        events.onPacket?.(feed.id, packet, 'opus', meta?.decoderConfig)
      }
      const counted: RecorderEvents = {
        ...events,
        async onChunk(id, bytes) {
          await events.onChunk(id, bytes)
          count.bytes += bytes.byteLength
        },
      }
      const output = new Output({
        format: new Mp4OutputFormat({ fastStart: 'fragmented', minimumFragmentDuration: FRAGMENT }),
        target: new AppendOnlyStreamTarget(chunkWriter(feed.id, counted)),
      })
      let errors: Promise<void>
      if (feed.kind === 'sound') {
        const process = soundProcess(feed.gain)
        const source = new MediaStreamAudioTrackSource(feed.track as MediaStreamAudioTrack, {
          codec: 'opus',
          quality: new Quality({ bitrate: feed.bitrate }),
          transform: { process },
          onEncodedSample,
          onEncodedPacket,
        })
        output.addAudioTrack(source)
        errors = source.errorPromise
      } else {
        const { width: fullWidth = 1280, height: fullHeight = 720 } = feed.track.getSettings()
        const crop = feed.area && cropOf(feed.area, fullWidth, fullHeight)
        const { width, height } = crop ?? { width: fullWidth, height: fullHeight }
        const codec = await pictureCodec(width, height)
        const source = new MediaStreamVideoTrackSource(
          feed.track as MediaStreamVideoTrack,
          {
            codec,
            quality: new Quality({ bitrate: feed.bitrate }),
            keyFrameInterval: KEY_FRAMES,
            latencyMode: 'realtime',
            sizeChangeBehavior: 'contain',
            onEncodedSample,
            onEncodedPacket: (packet, meta) => events.onPacket?.(feed.id, packet, codec, meta?.decoderConfig),
            ...(crop && { transform: { crop } }),
          },
          { frameRate: feed.frameRate },
        )
        output.addVideoTrack(source, { frameRate: feed.frameRate })
        errors = source.errorPromise
      }
      errors.catch((error: unknown) => events.onTrouble(feed.id, error))
      await output.start()
      return { feed, output, health }
    }),
  )
  return {
    zero,
    health: () => running.map((r) => r.health()),
    async stop() {
      await Promise.all(
        running.map(async ({ feed, output }) => {
          try {
            await output.finalize()
          } catch (error) {
            // What was written before stays playable; the others must still be finished.
            events.onTrouble(feed.id, error)
          }
        }),
      )
    },
  }
}
