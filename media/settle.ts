/**
 * Makes a whole file of what the recorder left: the fragments are copied packet by packet, without encoding,
 * into a file with an index. The same serves a finished recording and one that a crash cut off.
 */
import { ALL_FORMATS, BlobSource, Conversion, Input, MkvOutputFormat, Mp4OutputFormat, Output } from 'mediabunny'
import { openScratch } from './scratch'
import { UnusableFile } from './probe'

/**
 * @param recorded the recorder's chunks end to end; the last may be torn
 * @param name of the scratch file
 * @returns the whole file, with every packet that can be read
 * @throws {UnusableFile} when not even the first second is there
 */
export async function settle(recorded: Blob, name: string): Promise<File> {
  const input = new Input({ source: new BlobSource(recorded), formats: ALL_FORMATS })
  const scratch = await openScratch(name)
  try {
    if (!(await input.canRead())) throw new UnusableFile('Nothing playable was recorded before it was cut off.')
    const video = await input.getPrimaryVideoTrack()
    const webm = (await video?.getCodec()) === 'vp8'
    const output = new Output({ format: webm ? new MkvOutputFormat() : new Mp4OutputFormat({ fastStart: false }), target: scratch.target })
    const conversion = await Conversion.init({ input, output, tracks: 'primary', showWarnings: false })
    if (!conversion.isValid) throw new UnusableFile('What was recorded holds no picture and no sound that can be read.')
    await conversion.execute()
    return await scratch.finish()
  } catch (error) {
    await scratch.discard()
    throw error
  } finally {
    input.dispose()
  }
}
