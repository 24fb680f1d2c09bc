/** Short fades on both sides of a seam, so that a cut through a waveform does not click. */

/** Length of a seam's fade, s: too short to hear as a fade, long enough for no click. */
export const SEAM_FADE = 0.004

/**
 * Gain (0…1) for a sample `at` s into a kept stretch of `length` s, raised-cosine at the ends that are seams.
 * @param seamBefore whether a cut precedes the stretch
 * @param seamAfter whether a cut follows it
 */
export function seamGain(at: number, length: number, seamBefore: boolean, seamAfter: boolean): number {
  const fade = Math.min(SEAM_FADE, length / 2)
  const curve = (share: number) => 0.5 - 0.5 * Math.cos(Math.PI * Math.min(1, Math.max(0, share)))
  if (fade <= 0) return 1
  const rise = seamBefore ? curve(at / fade) : 1
  const fall = seamAfter ? curve((length - at) / fade) : 1
  return Math.min(rise, fall)
}

/** Where the loudest of a sound begins to be pressed together. */
const KNEE = 0.9

/** A sample, −1…1 and beyond, kept inside: what is louder than the knee comes nearer to 1 and never reaches it. */
export function softLimit(sample: number): number {
  const size = Math.abs(sample)
  if (size <= KNEE) return sample
  return Math.sign(sample) * (KNEE + (1 - KNEE) * Math.tanh((size - KNEE) / (1 - KNEE)))
}
