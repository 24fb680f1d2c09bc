/**
 * Makes a whole file of what the recorder left: the fragments are copied packet by packet, without encoding,
 * into a file with an index. The same serves a finished recording and one that a crash cut off.
 */
import { MkvOutputFormat, Mp4OutputFormat } from 'mediabunny'
import { convert } from './convert'
import { UnusableFile } from './probe'

/**
 * @param recorded the recorder's chunks end to end; the last may be torn
 * @param name of the scratch file
 * @returns the whole file, with every packet that can be read
 * @throws {UnusableFile} when not even the first second is there
 */
export function settle(recorded: Blob, name: string): Promise<File> {
  return convert(recorded, name, async (input) => {
    if (!(await input.canRead())) throw new UnusableFile('Nothing playable was recorded before it was cut off.')
    const video = await input.getPrimaryVideoTrack()
    return { format: (await video?.getCodec()) === 'vp8' ? new MkvOutputFormat() : new Mp4OutputFormat({ fastStart: false }) }
  }, () => new UnusableFile('What was recorded holds no picture and no sound that can be read.'))
}
