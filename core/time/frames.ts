/**
 * The frame grid of a picture: edges of an edit snap to it, so that the picture and the sound of a result
 * are cut at the same instant.
 */

/**
 * Nearest instant, in seconds, at which a frame of a `frameRate` (frames/s) picture begins. A rate of 0 means sound
 * only: nothing snaps.
 */
export function snapToFrame(seconds: number, frameRate: number): number {
  return frameRate > 0 ? Math.round(seconds * frameRate) / frameRate : seconds
}

/** Number of whole frames that stand for `seconds` at `frameRate` (frames/s). */
export function frameCount(seconds: number, frameRate: number): number {
  return Math.round(seconds * frameRate)
}

/** Length of one frame in seconds; for sound only, the hundredth of a second that arrow keys move by. */
export function frameLength(frameRate: number): number {
  return frameRate > 0 ? 1 / frameRate : 0.01
}
