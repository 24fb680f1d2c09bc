/**
 * Keeps feeds on the take's clock. Every device has a clock of its own: two that differ by 50 parts in a million are
 * 180 ms apart after an hour. What arrives is never early, only late by some scheduling; so the least lateness of a
 * window says how a feed's own time stands to the clock, as in the clock filter of network time (RFC 5905 §10).
 *
 *     lateness  · ·  ·   ·     ·  ·
 *               ·  ··  · · ··   ·· ·
 *               ─────·──·─────·──────   the least of each window: offset, and by how much it drifts
 */

/**
 * By how much the take's clock was ahead of a feed's own time, both in s, at the moment (s of own time) of least
 * lateness.
 */
export interface ClockPoint {
  at: number
  late: number
}

export interface ClockWatch {
  /**
   * Something of the feed that ends at `own` has arrived at `clock` (s).
   * @returns whether the points have changed
   */
  push(own: number, clock: number): boolean
  /** One for each window; that of a first window which still runs is there after a second. */
  readonly points: readonly ClockPoint[]
}

/** s */
const WINDOW = 10
const FIRST = 1

export function clockWatch(): ClockWatch {
  const points: ClockPoint[] = []
  let ended = 0
  let from: number | null = null
  let least: ClockPoint = { at: 0, late: Infinity }
  return {
    points,
    push(own, clock) {
      from ??= own
      if (clock - own < least.late) least = { at: own, late: clock - own }
      if (own - from >= WINDOW) {
        // The first takes the place of its own beginning.
        points[ended++] = least
        from = own
        least = { at: own, late: Infinity }
        return true
      }
      if (points.length > 0 || own - from < FIRST) return false
      points.push(least)
      return true
    },
  }
}

/** Share of a packet that a feed has to be off the clock before one is left out or repeated: noise must not do so. */
const WORTH = 0.75

/**
 * How often each packet of a sound stands in a file that keeps to the clock: 0, 1, or more. Where the sound ran slow,
 * some packets are repeated, where it ran fast, left out: the smallest of the window, which in speech are those of its
 * pauses.
 * @param packets in order: start in the feed's own time and length in s, size in bytes
 */
export function keepTime(
  packets: readonly { at: number; length: number; size: number }[],
  points: readonly ClockPoint[],
): number[] {
  const times = packets.map(() => 1)
  let from = points[0]
  let due = 0
  let next = 0
  for (const to of points.slice(1)) {
    if (!from) break
    due += to.late - from.late
    while ((packets[next]?.at ?? Infinity) < from.at) next++
    const window: number[] = []
    for (; (packets[next]?.at ?? Infinity) < to.at; next++) window.push(next)
    from = to
    const length = packets[window[0] ?? -1]?.length ?? 0
    if (length === 0 || Math.abs(due) < WORTH * length) continue
    const count = Math.round(due / length)
    const bySize = window.sort((a, b) => (packets[a]?.size ?? 0) - (packets[b]?.size ?? 0))
    if (count < 0) for (const i of bySize.slice(0, -count)) times[i] = 0
    else
      for (let i = 0; i < count; i++) {
        const which = bySize[i % bySize.length]
        if (which !== undefined) times[which] = (times[which] ?? 1) + 1
      }
    due -= count * length
  }
  return times
}
