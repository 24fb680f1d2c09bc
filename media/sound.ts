/** Passes over a sound track: peaks for the waveform, and 16 kHz mono for the recogniser. */
import { AudioSampleSink, Conversion, Output, WavOutputFormat, type AudioSample, type InputAudioTrack } from 'mediabunny'
import { collectPeaks, type PeakLevel } from '#core/sound/peaks'
import { openInput } from './probe'
import { openScratch } from './scratch'

/** The mean of all channels, −1…1. */
export function toMono(sample: AudioSample): Float32Array {
  const mono = new Float32Array(sample.numberOfFrames)
  const plane = new Float32Array(sample.numberOfFrames)
  for (let channel = 0; channel < sample.numberOfChannels; channel++) {
    sample.copyTo(plane, { planeIndex: channel, format: 'f32-planar' })
    for (let i = 0; i < mono.length; i++) mono[i] = (mono[i] ?? 0) + (plane[i] ?? 0) / sample.numberOfChannels
  }
  return mono
}

async function soundTrack(input: ReturnType<typeof openInput>): Promise<InputAudioTrack> {
  const track = await input.getPrimaryAudioTrack()
  if (!track) throw new Error('This file has no sound.')
  return track
}

/**
 * Peaks of a file's sound, streamed.
 * @param onProgress called with 0…1
 */
export async function computePeaks(blob: Blob, onProgress: (share: number) => void): Promise<PeakLevel[]> {
  const input = openInput(blob)
  try {
    const track = await soundTrack(input)
    const rate = await track.getSampleRate()
    const duration = await track.computeDuration()
    const collector = collectPeaks(rate)
    let next = 0
    let written = 0
    for await (const sample of new AudioSampleSink(track).samples()) {
      // A gap in the track is silence: peaks stay on the clock.
      const gap = Math.round(sample.timestamp * rate) - written
      if (gap > 0) {
        collector.push(new Float32Array(gap))
        written += gap
      }
      const mono = toMono(sample)
      collector.push(mono)
      written += mono.length
      if (sample.timestamp > next) {
        onProgress(Math.min(1, sample.timestamp / duration))
        next = sample.timestamp + duration / 50
      }
      sample.close()
    }
    return collector.finish()
  } finally {
    input.dispose()
  }
}

/** The sound as a WAVE file, 16 kHz, mono, 16 bit: what recognisers take. */
export async function extractSpeech(blob: Blob, name: string, onProgress: (share: number) => void): Promise<File> {
  const input = openInput(blob)
  const scratch = await openScratch(name)
  try {
    await soundTrack(input)
    const output = new Output({ format: new WavOutputFormat(), target: scratch.target })
    const conversion = await Conversion.init({
      input, output, tracks: 'primary', showWarnings: false,
      video: { discard: true },
      audio: { codec: 'pcm-s16', sampleRate: 16_000, numberOfChannels: 1 },
    })
    conversion.onProgress = onProgress
    await conversion.execute()
    return await scratch.finish()
  } catch (error) {
    await scratch.discard()
    throw error
  } finally {
    input.dispose()
  }
}
