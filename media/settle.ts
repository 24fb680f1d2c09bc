/**
 * Makes a whole file of what the recorder left: the fragments are copied packet by packet, without encoding,
 * into a file with an index. The same serves a finished recording and one that a crash cut off.
 */
import {
  EncodedAudioPacketSource,
  EncodedPacketSink,
  MkvOutputFormat,
  Mp4OutputFormat,
  Output,
  type InputAudioTrack,
} from 'mediabunny'
import { keepTime, type ClockPoint } from '#core/record/clock'
import { convert } from './convert'
import { UnusableFile } from './probe'
import { atDecodedRate } from './opus'
import { openInput } from './read'
import { openStore, readScratch } from './store'

/**
 * @param recorded the recorder's chunks end to end; the last may be torn
 * @param name of the scratch file
 * @param clock how the feed's own time stood to the take's clock, for a sound that has to keep to it; empty leaves it
 * @returns the whole file, with every packet that can be read
 * @throws {UnusableFile} when not even the first second is there
 */
export async function settle(recorded: Blob, name: string, clock: readonly ClockPoint[]): Promise<File> {
  const kept = clock.length > 1 ? await settleInTime(recorded, name, clock) : null
  return (
    kept ??
    convert(
      recorded,
      name,
      async (input) => {
        if (!(await input.canRead())) throw new UnusableFile('Nothing playable was recorded before it was cut off.')
        const video = await input.getPrimaryVideoTrack()
        return {
          format:
            (await video?.getCodec()) === 'vp8' ? new MkvOutputFormat() : new Mp4OutputFormat({ fastStart: false }),
        }
      },
      () => new UnusableFile('What was recorded holds no picture and no sound that can be read.'),
    )
  )
}

/** The sound with packets left out or repeated so that it keeps to the clock; null when it does by itself. */
async function settleInTime(recorded: Blob, name: string, clock: readonly ClockPoint[]): Promise<File | null> {
  const input = openInput(recorded)
  try {
    const track = (await input.canRead()) ? await input.getPrimaryAudioTrack() : null
    const codec = await track?.getCodec()
    const found = await track?.getDecoderConfig()
    if (!track || !codec || !found) return null
    const config = atDecodedRate(found)
    const times = keepTime(await sizesOf(track), clock)
    if (times.every((n) => n === 1)) return null
    const store = openStore({ kind: 'scratch', name })
    try {
      const output = new Output({ format: new Mp4OutputFormat({ fastStart: false }), target: await store.open('kept') })
      const source = new EncodedAudioPacketSource(codec)
      output.addAudioTrack(source)
      await output.start()
      let i = 0
      let at: number | null = null
      for await (const packet of new EncodedPacketSink(track).packets()) {
        at ??= packet.timestamp
        for (let n = times[i++] ?? 1; n > 0; n--) {
          await source.add(packet.clone({ timestamp: at }), { decoderConfig: config })
          at += packet.duration
        }
      }
      await output.finalize()
      await store.finish()
      return await readScratch(name, 'kept')
    } catch (error) {
      await store.discard()
      throw error
    }
  } finally {
    input.dispose()
  }
}

async function sizesOf(track: InputAudioTrack): Promise<{ at: number; length: number; size: number }[]> {
  const sizes: { at: number; length: number; size: number }[] = []
  for await (const packet of new EncodedPacketSink(track).packets(undefined, undefined, { metadataOnly: true }))
    sizes.push({ at: packet.timestamp, length: packet.duration, size: packet.byteLength })
  return sizes
}
