/** Keeping one thing that plays with another by playing it a little faster or slower, which nobody notices. */

/** So near, s, it is left alone. */
const NEAR = 0.008
/** How long leading takes, s, and how much slower – it may stand still – or faster it plays meanwhile. */
const WITHIN = 0.12
const SLOWER = 1
const FASTER = 0.6

/** What browsers can play at, besides standing still (Chromium; HTML leaves the limits to the browser). */
const SLOWEST = 0.0625
const FASTEST = 16

/** Further away than this, s, what plays is sought and not led. */
export const SEEK_BEYOND = 0.5

/**
 * At what speed something is to play that is `apart` s ahead of what it belongs with (behind when negative).
 * @param speed at which that plays; 1 as it was recorded
 */
export function leadingSpeed(apart: number, speed: number): number {
  if (Math.abs(apart) <= NEAR) return speed
  const leading = speed * (1 + Math.max(-SLOWER, Math.min(FASTER, -apart / WITHIN / speed)))
  return leading < SLOWEST ? 0 : Math.min(FASTEST, leading)
}
