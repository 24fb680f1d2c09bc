/** The sound of a file as recognisers take it. */
import { WavOutputFormat } from 'mediabunny'
import { convert } from './convert'

/** The sound as a WAVE file, 16 kHz, mono, 16 bit. */
export function extractSpeech(blob: Blob, name: string, onProgress: (share: number) => void): Promise<File> {
  const none = () => new Error('This file has no sound.')
  return convert(
    blob,
    name,
    async (input) => {
      if (!(await input.getPrimaryAudioTrack())) throw none()
      return {
        format: new WavOutputFormat(),
        options: { video: { discard: true }, audio: { codec: 'pcm-s16', sampleRate: 16_000, numberOfChannels: 1 } },
      }
    },
    none,
    onProgress,
  )
}
