/**
 * Times for blocks of live sound. What hands them over stamps them by when it does so, which trembles by some ms on a
 * busy machine; an encoder that takes this for holes chops speech up with silence and makes it longer. So blocks follow
 * each other end to end, and a hole is one only when every block of a while stands behind it.
 */

/** How long a hole has to stay, s; one that is longer is seen at once. */
const WHILE = 0.3
/** What is shorter is no hole, s: whatever drifts is set right by the clock (`clock.ts`). */
const HOLE = 0.02

/** Gives, block after block, the time that a block gets for the time (s) it was stamped with and its length (s). */
export function steadyTimes(): (stamp: number, length: number) => number {
  let next: number | null = null
  let least = Infinity
  let since = 0
  return (stamp, length) => {
    next ??= stamp
    const ahead = stamp - next
    least = Math.min(least, ahead)
    since += length
    if (ahead > WHILE || since >= WHILE) {
      next += ahead > WHILE ? ahead : least >= HOLE ? least : 0
      least = Infinity
      since = 0
    }
    const at = next
    next += length
    return at
  }
}
