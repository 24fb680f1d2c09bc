/** What a media file is, read from the file itself and not from its name; and a true sentence when it cannot be used. */
import { ALL_FORMATS, BlobSource, EncodedPacketSink, Input, type InputTrack } from 'mediabunny'

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
}

export interface Probe {
  container: string
  type: string
  /** Length in seconds, to the end of the last frame or sample. */
  duration: number
  /** Whether the container itself states a length; without one a media element cannot seek well. */
  statesDuration: boolean
  picture: PictureProbe | null
  sound: { codec: string; sampleRate: number; channels: number } | null
}

/** Opens a blob as media. Dispose of it when done. */
export function openInput(blob: Blob): Input<BlobSource> {
  return new Input({ source: new BlobSource(blob), formats: ALL_FORMATS })
}

/** Usual frame rates, to which a measured one is rounded when it is within 2 %. */
const usualRates = [10, 12, 12.5, 15, 20, 24, 25, 30, 48, 50, 60]

export function nominalFrameRate(measured: number): number {
  const near = usualRates.find((r) => Math.abs(measured - r) / r < 0.02)
  return near ?? Math.min(60, Math.max(1, Math.round(measured)))
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
    if (!(await input.canRead())) throw new UnusableFile(`“${name}” is not a video or sound file that can be read here. MP4, MOV, WebM, MKV, MP3, WAV and Ogg can be.`)
    const [picture, sound] = [await input.getPrimaryVideoTrack(), await input.getPrimaryAudioTrack()]
    const tracks: InputTrack[] = [picture, sound].filter((t) => t !== null)
    if (tracks.length === 0) throw new UnusableFile(`No picture and no sound were found in “${name}”. It may have been cut short before its index was written; copy it again from where it came from.`)
    for (const track of tracks)
      if (!(await track.canDecode()))
        throw new UnusableFile(`The ${track.type === 'video' ? 'picture' : 'sound'} of “${name}” is coded as ${(await track.getCodec()) ?? 'something unknown'}, which this browser cannot decode.`)
    const stated = await input.getDurationFromMetadata()
    const duration = await input.computeDuration()
    if (!(duration > 0)) throw new UnusableFile(`“${name}” has no picture and no sound in it that last any time.`)
    for (const track of tracks)
      if (!(await readsToTheEnd(track, blob.size))) throw new UnusableFile(cutShort(name))
    if (stated !== null && duration < stated - Math.max(2, stated * 0.02)) throw new UnusableFile(cutShort(name))
    return {
      container: (await input.getFormat()).name,
      type: await input.getMimeType(),
      duration,
      statesDuration: stated !== null,
      picture: picture && {
        codec: (await picture.getCodec()) ?? '',
        width: await picture.getDisplayWidth(),
        height: await picture.getDisplayHeight(),
        frameRate: nominalFrameRate((await picture.computePacketStats(120)).averagePacketRate),
      },
      sound: sound && { codec: (await sound.getCodec()) ?? '', sampleRate: await sound.getSampleRate(), channels: await sound.getNumberOfChannels() },
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

const cutShort = (name: string) => `“${name}” is cut short or damaged: it does not hold what its own index says. Copy it again from where it came from.`
