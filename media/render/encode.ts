/** Encodes a run of frames into packets of its own: the pieces that are spliced between copied ones. */
import {
  EncodedPacket,
  MkvOutputFormat,
  NullTarget,
  Output,
  Quality,
  VideoSample,
  VideoSampleSource,
  type VideoCodec,
} from 'mediabunny'

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
export const usualBitrate = (width: number, height: number, frameRate: number): number =>
  Math.max(500_000, Math.round(width * height * frameRate * BITS.long))

/** Quantizers of VP9 and AV1 (0…63) at which a seam cannot be told from its neighbours. */
const SEAM_QUANTIZER = 22

/** An encoder whose first packet is a key packet. H.264 packets come with four-byte lengths. */
export async function encodeRun(settings: EncoderSettings): Promise<RunEncoder> {
  const { codec, width, height, frameRate, effort } = settings
  const bitrate =
    settings.bitrate ??
    (effort === 'seam'
      ? Math.max(1_500_000, Math.round(width * height * frameRate * BITS.seam))
      : usualBitrate(width, height, frameRate))
  const byQuantizer = effort === 'seam' && (codec === 'vp9' || codec === 'av1')
  const ready: EncodedPacket[] = []
  let config: VideoDecoderConfig | undefined
  const source = new VideoSampleSource({
    codec,
    quality: new Quality(byQuantizer ? { quantizer: SEAM_QUANTIZER, bitrate } : { bitrate }),
    keyFrameInterval: settings.keyFrameInterval,
    // libaom's better mode is slower than real time here, and libvpx's holds 25 frames back, some 150 MB at 720p; with
    // a quantizer the quicker ones look the same.
    latencyMode: codec === 'av1' || byQuantizer ? 'realtime' : 'quality',
    onEncodedPacket(packet, meta) {
      config = meta?.decoderConfig ?? config
      ready.push(packet)
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

/**
 * How an encoder with these settings describes its packets, found out on one black frame.
 * @param colour of the frames that it is going to be given, as encoders describe that too
 * @throws {Error} when it gives none
 */
export async function describeRun(
  settings: EncoderSettings,
  colour: VideoColorSpaceInit | null,
): Promise<VideoDecoderConfig> {
  const { width, height } = settings
  const encoder = await encodeRun(settings)
  const black = new VideoFrame(new Uint8Array((width * height * 3) / 2), {
    format: 'I420',
    codedWidth: width,
    codedHeight: height,
    timestamp: 0,
    ...(colour && { colorSpace: colour }),
  })
  const sample = new VideoSample(black, { timestamp: 0, duration: 1 / settings.frameRate })
  await encoder.add(sample)
  sample.close()
  await encoder.finish()
  if (!encoder.config) throw new Error('The encoder did not say how its pictures are coded.')
  return encoder.config
}
