/** Pictures along a time line. */

/** How far a picture may be from its instant, in steps: below half of one, so that no picture is near two. */
const NEAR = 0.4

/**
 * Those of some instants that still need a picture, so that neighbours show different ones.
 * @param times s
 * @param step how far apart neighbours are, s, where nothing is taken out between them
 * @param there instants, s, for which there is a picture, or none to be had
 */
export function missingPictures<T extends number>(times: readonly T[], step: number, there: readonly number[]): T[] {
  return times.filter((t) => !there.some((at) => Math.abs(at - t) <= NEAR * step))
}
