/**
 * Which coded packets an edit leaves alone. Pictures can be copied from a key frame on, and up to the last packet
 * that needs nothing behind the cut; sound is copied in whole packets on the result's own grid.
 *
 *     source    K · · · │ · · · K · · · K · · · │ · · K        K key frame, │ the cuts
 *     result            ├encode─┤ copied        ┤
 */

/** One packet of a picture as far as splicing cares: when it is shown, s. Listed in the order of decoding. */
export interface Shown {
  timestamp: number
}

/**
 * How much of one group of pictures can be copied up to `to`: the longest run of packets, in decoding order, that is
 * shown without a gap and ends before it. Only pictures shown out of order make it shorter than what is kept.
 * @param group packets from a key frame up to the next, in decoding order
 * @param tolerance s by which timestamps may be off
 * @returns number of packets to copy, and the instant from which frames must be encoded anew; null when none must
 */
export function copyablePart(
  group: readonly Shown[],
  to: number,
  tolerance: number,
): { count: number; encodeFrom: number | null } {
  const kept = group.filter((p) => p.timestamp < to - tolerance).sort((a, b) => a.timestamp - b.timestamp)
  let count = 0
  let latest = -Infinity
  for (const [i, packet] of group.entries()) {
    if (packet.timestamp >= to - tolerance) break
    latest = Math.max(latest, packet.timestamp)
    // Closed when every frame shown up to the latest one is among the packets so far.
    if (kept.findLastIndex((p) => p.timestamp <= latest) === i) count = i + 1
  }
  const next = kept[count]
  return { count, encodeFrom: next ? next.timestamp : null }
}

/** Where copied packets of one stretch of sound stand: `first`…`end` (exclusive) of its packets, by number. */
export interface SoundPiece {
  kind: 'copy' | 'encode'
  /** Result time at which the piece begins and its length, s. Pieces follow one another without a gap. */
  at: number
  length: number
}

export interface CopiedSound extends SoundPiece {
  kind: 'copy'
  /** Index of the stretch. */
  span: number
  /** Time in the source at which the first packet to copy begins, s. */
  from: number
  /** Number of packets. */
  count: number
  /** Seconds by which the stretch stands later in the result than its edit says; at most half a unit. */
  shift: number
}

export interface EncodedSound extends SoundPiece {
  kind: 'encode'
  /** Number of units to encode. */
  units: number
}

/** One stretch of the result's sound. `source` is null for silence, or for sound that cannot be copied. */
export interface SoundStretch {
  at: number
  length: number
  /** Source time at its start; packets begin at `grid + n × packet`. Nothing is there outside `begin`…`end`. */
  source: { from: number; grid: number; begin: number; end: number } | null
}

export interface SoundGrid {
  /** Length of a packet of the source, s. */
  packet: number
  /** Length of a packet that is encoded anew, s. */
  unit: number
  /** Seconds before a seam, and after one, that are encoded anew: the fade, and what the decoder needs to settle. */
  lead: number
  settle: number
}

/**
 * Lays copied runs and newly encoded pieces end to end. Every run is placed on its own instant, to half a unit, and
 * counted from the result's start, so that nothing adds up over many cuts.
 */
export function planSound(
  stretches: readonly SoundStretch[],
  length: number,
  grid: SoundGrid,
): (CopiedSound | EncodedSound)[] {
  const pieces: (CopiedSound | EncodedSound)[] = []
  let at = 0
  const encodeUpTo = (ideal: number): void => {
    const units = Math.max(0, Math.round((ideal - at) / grid.unit))
    if (units > 0) pieces.push({ kind: 'encode', at, length: units * grid.unit, units })
    at += units * grid.unit
  }
  for (const [span, stretch] of stretches.entries()) {
    const { source } = stretch
    if (!source) continue
    const last = span === stretches.length - 1
    const start =
      stretch.at <= 0 && source.from <= source.begin + grid.packet
        ? source.from
        : source.from + (stretch.at <= 0 ? 0 : grid.settle)
    const end = source.from + stretch.length - (last ? -grid.packet / 2 : grid.lead)
    const first = Math.ceil((Math.max(start, source.begin) - source.grid) / grid.packet - 1e-6)
    const from = source.grid + first * grid.packet
    const count = Math.floor((Math.min(end, source.end + grid.packet * 0.01) - from) / grid.packet + 1e-6)
    const ideal = stretch.at + (from - source.from)
    // A piece between two copied runs needs a few units of its own, or the seam would have none.
    if (count < 4 || ideal < at) continue
    encodeUpTo(ideal)
    pieces.push({ kind: 'copy', at, length: count * grid.packet, span, from, count, shift: at - ideal })
    at += count * grid.packet
  }
  encodeUpTo(length)
  return pieces
}
