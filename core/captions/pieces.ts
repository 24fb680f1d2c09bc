/** Where speech is parted to be recognised piece by piece: at its pauses, so that no word is cut and each time is that of the sound. */
import { pauses, pauseThreshold } from '../sound/silence'
import { recorded, type RecordedRange } from '../time/units'

export interface PieceSettings {
  /** Longest piece, s. */
  longest: number
  /** A pause of this length parts pieces, however short they are, s. */
  gap: number
  /** Silence that a piece keeps at its ends, s. */
  margin: number
}

export const usualPieces: PieceSettings = { longest: 20, gap: 1, margin: 0.2 }

/** Shortest pause at which speech is parted, s; and how long it has to be quiet where it has no pause. */
const PAUSE = 0.3
const QUIETEST = 0.1
/** Where no sample is above this, nobody speaks. */
const NOTHING = 0.002

/**
 * @param tops highest sample (0…1) of each block; @param rate blocks a second
 * @returns pieces in order that do not overlap; what lies between them is silent
 */
export function speechPieces(tops: Float32Array, rate: number, settings: PieceSettings = usualPieces): RecordedRange[] {
  const { longest, gap, margin } = settings
  const whole = tops.length / rate
  if (tops.every((top) => top < NOTHING)) return []
  const pieces: RecordedRange[] = []
  const add = (from: number, to: number) => {
    for (let begin = from; begin < to;) {
      const end = to - begin <= longest ? to : quietest(tops, rate, begin + longest / 2, begin + longest)
      const last = pieces.at(-1)
      if (last && begin - last.to < gap && end - last.from <= longest) last.to = recorded(end)
      else pieces.push({ from: recorded(begin), to: recorded(end) })
      begin = end
    }
  }
  let at = 0
  for (const silence of pauses(tops, rate, pauseThreshold(tops), PAUSE)) {
    add(at, silence.from)
    at = silence.to
  }
  add(at, whole)
  return pieces.map(({ from, to }, i) => {
    const before = from - (pieces[i - 1]?.to ?? 0)
    const after = (pieces[i + 1]?.from ?? whole) - to
    return { from: recorded(from - Math.min(margin, before / 2)), to: recorded(to + Math.min(margin, after / 2)) }
  })
}

/** The middle of the quietest tenth of a second within a stretch, s. */
function quietest(tops: Float32Array, rate: number, from: number, to: number): number {
  const width = Math.max(1, Math.round(QUIETEST * rate))
  let best = Math.floor(to * rate) - width
  let least = Infinity
  for (let i = Math.ceil(from * rate); i + width <= to * rate; i++) {
    const sum = tops.subarray(i, i + width).reduce((s, x) => s + x, 0)
    if (sum < least) [least, best] = [sum, i]
  }
  return (best + width / 2) / rate
}
