/**
 * Levels of speech for the meter, in dBFS: 0 dB is the largest sample there is, so levels are negative.
 * Zones follow what practitioners go by: speech should sit in "good" and never reach "clipping".
 */

export type LevelZone = 'silent' | 'quiet' | 'good' | 'hot' | 'clipping'

/** Lower bound of each zone in dBFS of the peak. */
export const zones: readonly { zone: LevelZone; from: number; says: string }[] = [
  {
    zone: 'clipping',
    from: -0.3,
    says: 'Clipping: the sound is distorted and cannot be repaired. Turn the gain down.',
  },
  { zone: 'hot', from: -6, says: 'Hot: turn the gain down a little.' },
  { zone: 'good', from: -24, says: 'Good.' },
  { zone: 'quiet', from: -55, says: 'Too quiet: move nearer or turn the gain up.' },
  { zone: 'silent', from: -Infinity, says: 'No sound: check that the microphone is on and is the right one.' },
]

/** Floor of the meter's scale, dBFS. */
export const METER_FLOOR = -60

/** dBFS of a linear amplitude (0…1); −Infinity for 0. */
export function decibels(amplitude: number): number {
  return 20 * Math.log10(Math.abs(amplitude))
}

/** Largest amplitude and root mean square of a block of samples (−1…1). */
export function measure(samples: Float32Array): { peak: number; rms: number } {
  let peak = 0
  let square = 0
  for (const s of samples) {
    peak = Math.max(peak, Math.abs(s))
    square += s * s
  }
  return { peak, rms: samples.length ? Math.sqrt(square / samples.length) : 0 }
}

/** The size (0…1) of each sample in the loudest of planar channels. */
export function loudest(channels: readonly Float32Array[]): Float32Array {
  const out = new Float32Array(channels[0]?.length ?? 0)
  for (const samples of channels)
    for (let i = 0; i < out.length; i++) {
      const size = Math.abs(samples[i] as number)
      if (size > (out[i] as number)) out[i] = size
    }
  return out
}

/** The zone of a peak level in dBFS, with what to say about it. */
export function zoneOf(peakDb: number): { zone: LevelZone; says: string } {
  return zones.find((z) => peakDb >= z.from) ?? { zone: 'silent', says: '' }
}

/** Share (0…1) of the meter's scale that a level fills. */
export function meterShare(db: number): number {
  return Math.min(1, Math.max(0, (db - METER_FLOOR) / -METER_FLOOR))
}
