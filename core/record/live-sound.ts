/**
 * What is done to live sound on its way to the encoder: gain, two channels, steady times, silence where the device gave
 * nothing.
 */
import { steadyTimes } from './steady'

/** A block of stereo sound: `planes` is all of the left channel, then all of the right one; `at` is its time, s. */
export interface StereoBlock {
  at: number
  planes: Float32Array<ArrayBuffer>
}

/** Longest block of silence, s: a device that gave nothing for an hour must not cost an hour of samples at once. */
const SILENCE = 1

/**
 * @param gain asked at every block; a new one is reached evenly over that block, so that the change does not click
 * @returns takes block after block of −1…1 samples, a plane for each channel (one is heard on both sides, of more the
 * first two
 *   are), with the time that it was stamped with (s) and its rate (Hz), and gives what is to be encoded
 */
export function liveSound(
  gain: () => number,
): (stamp: number, sampleRate: number, channels: readonly Float32Array[]) => StereoBlock[] {
  const steady = steadyTimes()
  let before = gain()
  let end: number | null = null
  return (stamp, sampleRate, channels) => {
    const [left = new Float32Array(0), right = left] = channels
    const length = left.length / sampleRate
    const at = steady(stamp, length)
    const out: StereoBlock[] = []
    let missing = end === null ? 0 : Math.round((at - end) * sampleRate)
    // All of them share their samples.
    const silence = new Float32Array(2 * Math.min(missing, SILENCE * sampleRate))
    while (missing > 0) {
      const frames = Math.min(missing, SILENCE * sampleRate)
      out.push({ at: at - missing / sampleRate, planes: silence.subarray(0, 2 * frames) })
      missing -= frames
    }
    const after = gain()
    const planes = new Float32Array(2 * left.length)
    for (const [c, samples] of [left, right].entries())
      for (let i = 0; i < samples.length; i++)
        planes[c * left.length + i] = (samples[i] as number) * (before + ((after - before) * (i + 1)) / samples.length)
    before = after
    end = at + length
    out.push({ at, planes })
    return out
  }
}
