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
