/** One media file that a result is made from, opened once: its tracks, and what of it could be copied. */
import {
  AudioSampleSink,
  EncodedPacketSink,
  VideoSampleSink,
  type Input,
  type InputAudioTrack,
  type InputVideoTrack,
  type VideoCodec,
} from 'mediabunny'
import { nominalFrameRate } from '../probe'
import { firstEntry } from './recovered'
import { decodedRate } from '../opus'
import { openInput } from '../read'

export interface OpenPicture {
  track: InputVideoTrack
  packets: EncodedPacketSink
  frames: VideoSampleSink
  codec: VideoCodec | null
  config: VideoDecoderConfig | null
  /** Size of the coded frames, px. */
  codedWidth: number
  codedHeight: number
  /** Display size, px: turned upright, with square pixels. */
  width: number
  height: number
  rotation: 0 | 90 | 180 | 270
  /** Whether pixels are not square, or the picture is mirrored. */
  distorted: boolean
  frameRate: number
  /** Frames a second, on average and as measured. */
  rate: number
  /** Shortest usual distance between two frames, s: at a constant rate, that of all. */
  interval: number
  /** Time of the first frame that can be shown, s. */
  first: number
  /** Seconds at the start that cannot be shown, as no decoder can begin there; 0 for a whole film. */
  unshown: number
  /** 8 bit 4:2:0 as the encoders here make it; anything else cannot stand beside their frames. */
  usualFormat: boolean
}

export interface OpenSound {
  track: InputAudioTrack
  packets: EncodedPacketSink
  samples: AudioSampleSink
  sampleRate: number
  channels: number
}

export interface OpenFeed {
  input: Input
  picture: OpenPicture | null
  sound: OpenSound | null
}

/** Profiles of 8 bit 4:2:0: H.264 Baseline, Main, Extended and High; VP9 profile 0; AV1 Main at 8 bit. */
function isUsualFormat(codec: VideoCodec | null, codecString: string): boolean {
  if (codec === 'avc') return /^avc[13]\.(42|4d|58|64)/i.test(codecString)
  if (codec === 'vp9') return /^vp09\.00\.\d+\.08/.test(codecString) || codecString === 'vp9'
  if (codec === 'av1') return /^av01\.0\.\w+\.08/.test(codecString)
  return codec === 'vp8'
}

/**
 * Opens a file for rendering. The caller disposes of `input`. @throws {Error} when neither picture nor sound can be
 * read
 */
export async function openFeed(blob: Blob): Promise<OpenFeed> {
  const input = openInput(blob)
  try {
    const [video, audio] = [await input.getPrimaryVideoTrack(), await input.getPrimaryAudioTrack()]
    return { input, picture: video && (await openPicture(video)), sound: audio && (await openSound(audio)) }
  } catch (error) {
    input.dispose()
    throw error
  }
}

async function openPicture(track: InputVideoTrack): Promise<OpenPicture> {
  const [codec, config, rotation, codedWidth, codedHeight, width, height] = [
    await track.getCodec(),
    await track.getDecoderConfig(),
    await track.getRotation(),
    await track.getCodedWidth(),
    await track.getCodedHeight(),
    await track.getDisplayWidth(),
    await track.getDisplayHeight(),
  ]
  const packets = new EncodedPacketSink(track)
  const start = await track.getFirstTimestamp()
  const entry = await firstEntry(track)
  if (!entry)
    throw new Error(
      'No picture in this film can be decoded: it has neither a key frame nor a recovery point at which a decoder can begin.',
    )
  const upright = rotation % 180 === 0
  const distorted =
    (upright ? width : height) !== codedWidth || (upright ? height : width) !== codedHeight || (await track.getFlip())
  return {
    track,
    codec,
    config,
    rotation,
    codedWidth,
    codedHeight,
    width,
    height,
    distorted,
    packets,
    frames: new VideoSampleSink(track),
    frameRate: nominalFrameRate((await track.computePacketStats(240)).averagePacketRate),
    ...(await pace(packets)),
    first: entry.at,
    unshown: Math.max(0, entry.at - Math.max(0, start)),
    usualFormat: isUsualFormat(codec, config?.codec ?? ''),
  }
}

/** Packets looked at for how frames come. */
const LOOK = 400

async function pace(packets: EncodedPacketSink): Promise<Pick<OpenPicture, 'rate' | 'interval'>> {
  const times: number[] = []
  for await (const packet of packets.packets(undefined, undefined, { metadataOnly: true }))
    if (times.push(packet.timestamp) >= LOOK) break
  times.sort((a, b) => a - b)
  // The last few may still wait for pictures that are shown between them.
  const sure = times.length > 16 ? times.slice(0, -8) : times
  const steps = sure
    .slice(1)
    .map((t, i) => t - (sure[i] ?? 0))
    .filter((step) => step > 0.002)
    .sort((a, b) => a - b)
  const interval = steps[Math.floor(steps.length / 10)] ?? 1 / 25
  const length = (sure.at(-1) ?? 0) - (sure[0] ?? 0)
  return { interval, rate: length > 0 ? (sure.length - 1) / length : 1 / interval }
}

async function openSound(track: InputAudioTrack): Promise<OpenSound> {
  return {
    track,
    packets: new EncodedPacketSink(track),
    samples: new AudioSampleSink(track),
    sampleRate: await decodedRate(track),
    channels: await track.getNumberOfChannels(),
  }
}
