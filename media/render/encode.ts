/** Encodes a run of frames into packets of its own: the pieces that are spliced between copied ones. */
import { EncodedPacket, MkvOutputFormat, NullTarget, Output, Quality, VideoSampleSource, type VideoCodec, type VideoSample } from 'mediabunny'
import { readAvcConfig, repack } from '#core/picture/avc'

/** Codecs that Chromium encodes, so that a piece can be encoded like the rest of its track. */
export const spliceable: readonly VideoCodec[] = ['avc', 'vp8', 'vp9', 'av1']

export interface EncoderSettings {
  codec: VideoCodec
  width: number
  height: number
  /** Frames per second, about. */
  frameRate: number
  /** 'seam': a few frames that must look like their neighbours; 'long': stretches at a usual size. */
  effort: 'seam' | 'long'
  /** Bits per second asked for; the default goes by the size of the picture. */
  bitrate?: number
  /** Seconds between key frames. */
  keyFrameInterval: number
  /** Whether H.264 key packets bring their parameter sets along. */
  inBand: boolean
}

export interface RunEncoder {
  /** Takes a sample (which stays the caller's) and gives what packets are ready. */
  add(sample: VideoSample): Promise<EncodedPacket[]>
  finish(): Promise<EncodedPacket[]>
  /** Of the packets so far; undefined before the first. */
  readonly config: VideoDecoderConfig | undefined
}

/** Bits per pixel and frame. At a seam there are few frames and no time for rate control to settle. */
const BITS = { seam: 0.2, long: 0.045 }

/** A usual bitrate for a picture that is encoded anew, bits per second. */
export const usualBitrate = (width: number, height: number, frameRate: number): number => Math.max(500_000, Math.round(width * height * frameRate * BITS.long))

/** Quantizers of VP9 and AV1 (0…63) at which a seam cannot be told from its neighbours. */
const SEAM_QUANTIZER = 22

/** An encoder whose first packet is a key packet. H.264 packets come with four-byte lengths. */
export async function encodeRun(settings: EncoderSettings): Promise<RunEncoder> {
  const { codec, width, height, frameRate, effort } = settings
  const bitrate = settings.bitrate ?? (effort === 'seam' ? Math.max(1_500_000, Math.round(width * height * frameRate * BITS.seam)) : usualBitrate(width, height, frameRate))
  const byQuantizer = effort === 'seam' && (codec === 'vp9' || codec === 'av1')
  const ready: EncodedPacket[] = []
  let config: VideoDecoderConfig | undefined
  let sets: Uint8Array[] = []
  const source = new VideoSampleSource({
    codec,
    quality: new Quality(byQuantizer ? { quantizer: SEAM_QUANTIZER, bitrate } : { bitrate }),
    keyFrameInterval: settings.keyFrameInterval,
    // libaom's better mode is slower than real time here, and libvpx's holds 25 frames back, some 150 MB at 720p; with a
    // quantizer the quicker ones look the same.
    latencyMode: codec === 'av1' || byQuantizer ? 'realtime' : 'quality',
    onEncodedPacket(packet, meta) {
      if (meta?.decoderConfig) {
        config = meta.decoderConfig
        const { description } = config
        if (codec === 'avc' && description) sets = readAvcConfig(bytesOf(description)).sets
      }
      ready.push(settings.inBand && codec === 'avc' && packet.type === 'key' ? packet.clone({ data: repack(packet.data, 4, sets) }) : packet)
    },
  })
  // The muxer behind it is not used: what matters are the packets on the way to it.
  const output = new Output({ format: new MkvOutputFormat(), target: new NullTarget() })
  output.addVideoTrack(source)
  await output.start()
  return {
    async add(sample) {
      await source.add(sample)
      return ready.splice(0)
    },
    async finish() {
      await output.finalize()
      return ready.splice(0)
    },
    get config() {
      return config
    },
  }
}

/** A decoder's description as bytes, whatever kind of buffer holds it. */
export function bytesOf(source: AllowSharedBufferSource): Uint8Array {
  return ArrayBuffer.isView(source) ? new Uint8Array(source.buffer, source.byteOffset, source.byteLength) : new Uint8Array(source)
}
