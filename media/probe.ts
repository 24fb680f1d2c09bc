/**
 * What a media file is, read from the file itself and not from its name; and a true sentence when it cannot be used.
 */
import { max } from 'd3-array'
import {
  EncodedPacketSink,
  MPEG_TS,
  type Input,
  type InputAudioTrack,
  type InputTrack,
  type InputVideoTrack,
} from 'mediabunny'
import { openInput } from './read'
import { firstEntry } from './render/recovered'

/** A file that cannot be used. The message is a sentence for a person. */
export class UnusableFile extends Error {
  override name = 'UnusableFile'
}

export interface PictureProbe {
  codec: string
  /** Display size in px. */
  width: number
  height: number
  /** Frames per second, averaged over the first few seconds. */
  frameRate: number
  /** Whether frames come at one rate, as far as the first few hundred tell. */
  constant: boolean
  /** Longest distance between key frames near the start, s; null when there is only one. */
  keyFrameSpacing: number | null
  /** Degrees clockwise by which a player turns it. */
  rotation: number
  /** Time of the first frame, s. */
  start: number
}

export interface Probe {
  container: string
  type: string
  /** Length in seconds, to the end of the last frame or sample. */
  duration: number
  /** Whether the container itself states a length; without one a media element cannot seek well. */
  statesDuration: boolean
  picture: PictureProbe | null
  sound: { codec: string; sampleRate: number; channels: number; start: number } | null
  /** What a person should know before using it, as sentences. */
  remarks: string[]
}

/** Usual frame rates, to which a measured one is rounded when it is within 2 %. */
const usualRates = [10, 12, 12.5, 15, 20, 24, 25, 30, 48, 50, 60]

export function nominalFrameRate(measured: number): number {
  const near = usualRates.find((r) => Math.abs(measured - r) / r < 0.02)
  return near ?? Math.min(60, Math.max(1, Math.round(measured)))
}

/** Packets looked at near the start, for rates and key frames. */
const LOOK = 400

async function probePicture(track: InputVideoTrack): Promise<PictureProbe> {
  const sink = new EncodedPacketSink(track)
  const times: number[] = []
  const keys: number[] = []
  for await (const packet of sink.packets(undefined, undefined, { metadataOnly: true })) {
    times.push(packet.timestamp)
    if (packet.type === 'key') keys.push(packet.timestamp)
    if (times.length >= LOOK) break
  }
  times.sort((a, b) => a - b)
  const steps = times
    .slice(1)
    .map((t, i) => t - (times[i] ?? 0))
    .sort((a, b) => a - b)
  const usual = steps[Math.floor(steps.length / 2)] ?? 0
  // A millisecond of rounding is no variation; one odd frame at an end is none either.
  const odd = steps.filter((s) => Math.abs(s - usual) > 0.0025).length
  return {
    codec: (await track.getCodec()) ?? '',
    width: await track.getDisplayWidth(),
    height: await track.getDisplayHeight(),
    frameRate: nominalFrameRate((await track.computePacketStats(120)).averagePacketRate),
    constant: odd <= Math.max(1, steps.length / 100),
    keyFrameSpacing:
      keys.length > 1
        ? Math.round(1000 * (max(keys.slice(1).map((t, i) => t - (keys[i] ?? 0))) ?? -Infinity)) / 1000
        : null,
    rotation: await track.getRotation(),
    start: await track.getFirstTimestamp(),
  }
}

async function readsToTheEnd(track: InputTrack, size: number): Promise<boolean> {
  const sink = new EncodedPacketSink(track)
  const last = await sink.getPacket(Infinity)
  return last !== null && last.byteLength > 0 && last.byteLength <= size
}

/**
 * Probes a file.
 * @param name for the messages
 * @throws {UnusableFile} when it is no media, is cut short, or holds nothing this browser can decode
 */
export async function probe(blob: Blob, name: string): Promise<Probe> {
  if (blob.size === 0) throw new UnusableFile(`“${name}” is empty.`)
  const input = openInput(blob)
  try {
    if (!(await input.canRead()))
      throw new UnusableFile(
        `“${name}” is not a video or sound file that can be read here. MP4, MOV, WebM, MKV, MP3, WAV and Ogg can be.`,
      )
    // Its packets have no lengths before them and its clock begins anywhere: nothing here cuts that.
    if ((await input.getFormat()) === MPEG_TS)
      throw new UnusableFile(
        `“${name}” is an MPEG transport stream, which cannot be cut here. Save it as MP4 first: most players and editors do so without encoding it anew.`,
      )
    const [picture, sound] = [await input.getPrimaryVideoTrack(), await input.getPrimaryAudioTrack()]
    const tracks: InputTrack[] = [picture, sound].filter((t) => t !== null)
    if (tracks.length === 0)
      throw new UnusableFile(
        `No picture and no sound were found in “${name}”. It may have been cut short before its index was written; copy it again from where it came from.`,
      )
    for (const track of tracks)
      if (!(await track.canDecode()))
        throw new UnusableFile(
          `The ${track.type === 'video' ? 'picture' : 'sound'} of “${name}” is coded as ${(await track.getCodec()) ?? 'something unknown'}, which this browser cannot decode.`,
        )
    const stated = await input.getDurationFromMetadata()
    const duration = await input.computeDuration()
    if (!(duration > 0)) throw new UnusableFile(`“${name}” has no picture and no sound in it that last any time.`)
    for (const track of tracks) if (!(await readsToTheEnd(track, blob.size))) throw new UnusableFile(cutShort(name))
    if (stated !== null && duration < stated - Math.max(2, stated * 0.02)) throw new UnusableFile(cutShort(name))
    return {
      container: (await input.getFormat()).name,
      type: await input.getMimeType(),
      duration,
      statesDuration: stated !== null,
      picture: picture && (await probePicture(picture)),
      sound: sound && {
        codec: (await sound.getCodec()) ?? '',
        sampleRate: await sound.getSampleRate(),
        channels: await sound.getNumberOfChannels(),
        start: await sound.getFirstTimestamp(),
      },
      remarks: await remarksOn(input, picture, sound),
    }
  } catch (error) {
    if (error instanceof UnusableFile) throw error
    // A parser that stumbles means a damaged file; which byte it stumbled on helps nobody but us.
    console.warn(`probe of ${name}:`, error)
    throw new UnusableFile(cutShort(name))
  } finally {
    input.dispose()
  }
}

/** What of a picture no decoder can show, as a sentence. @throws {UnusableFile} when that is all of it */
async function sayUnshown(track: InputVideoTrack): Promise<string[]> {
  const entry = await firstEntry(track)
  if (!entry)
    throw new UnusableFile(
      'No picture in this film can be decoded: it was cut out of a longer one and has no frame at which a decoder can begin. Export it anew from the program it came from.',
    )
  const missing = entry.at - Math.max(0, await track.getFirstTimestamp())
  return missing > 0.05
    ? [
        `The first ${missing.toFixed(1)} s of the picture cannot be shown: the film was cut out of a longer one there. The first picture that can be shown stands still meanwhile; the sound is whole.`,
      ]
    : []
}

async function remarksOn(
  input: Input,
  picture: InputVideoTrack | null,
  sound: InputAudioTrack | null,
): Promise<string[]> {
  const tracks = await input.getTracks()
  const more = (type: string, used: InputTrack | null) => (used ? tracks.filter((t) => t.type === type).length - 1 : 0)
  const remarks: string[] = []
  if (picture) remarks.push(...(await sayUnshown(picture)))
  if (more('video', picture) > 0) remarks.push(`It has ${more('video', picture) + 1} pictures; the first is used.`)
  if (more('audio', sound) > 0) remarks.push(`It has ${more('audio', sound) + 1} sound tracks; the first is used.`)
  return remarks
}

const cutShort = (name: string) =>
  `“${name}” is cut short or damaged: it does not hold what its own index says. Copy it again from where it came from.`
