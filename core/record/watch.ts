/** Watches the level of a live sound and says what is wrong with it, while there is still time. */
import { quantileSorted } from 'd3-array'
import { decibels } from '../sound/level'

/** One short look at a sound: amplitudes (0…1). */
export interface SoundLook {
  peak: number
  rms: number
}

export type SoundWarning = 'silent' | 'clipping' | 'noise' | null

/** Seconds without sound until that is said. */
const SILENCE = 5
/** How long clipping stays said, s, and how long when nothing is heard any more. */
const CLIPPED = 3
const GONE = 1.2
const CLIPPING = 0.966
/** What is quieter than this is no sound at all, dBFS. */
const NOTHING = -58
/**
 * Noise is judged by the very quietest looks of this long, s, as fluent speech leaves few gaps. It is too much above
 * this, dBFS, when it is also this near to the loud looks, dB.
 */
const NOISE_TIME = 8
const NOISE = -42
const CLEAR = 18

/**
 * @returns takes the looks in turn, with their times in s, and says what is wrong at each
 */
export function soundWatch(): (time: number, look: SoundLook) => SoundWarning {
  let began: number | null = null
  let heard = 0
  let clipped = -Infinity
  const looks: { time: number; level: number }[] = []
  return (time, { peak, rms }) => {
    began ??= heard = time
    const level = decibels(rms)
    if (decibels(peak) > NOTHING) heard = time
    if (peak >= CLIPPING) clipped = time
    looks.push({ time, level })
    while (looks.length && (looks[0]?.time ?? 0) < time - NOISE_TIME) looks.shift()
    if (time - clipped < CLIPPED && time - heard < GONE) return 'clipping'
    if (time - heard >= SILENCE) return 'silent'
    if (time - began < NOISE_TIME - 0.5) return null
    const levels = looks.map((l) => l.level).sort((a, b) => a - b)
    const floor = quantileSorted(levels, 0.03) ?? -Infinity
    const loud = quantileSorted(levels, 0.9) ?? -Infinity
    return floor > NOISE && loud - floor < CLEAR ? 'noise' : null
  }
}

/** What to do about a warning. */
export const soundRemedies: Record<Exclude<SoundWarning, null>, string> = {
  silent: 'No sound for five seconds: check that the microphone is on and is the right one.',
  clipping: 'Clipping: the sound is distorted and cannot be repaired. Turn the gain down.',
  noise: 'Steady noise: close the window, switch off fans, or move nearer to the microphone.',
}

/**
 * Which of several microphones is meant: the one that hears the speaker, when another is being recorded.
 * @param levels the loud looks (90th percentile) of each over the last seconds, dBFS
 * @returns a sentence, or null
 */
export function wrongMicrophone(
  recorded: { label: string; level: number },
  others: readonly { label: string; level: number }[],
): string | null {
  const best = others.reduce<{ label: string; level: number } | null>((a, b) => (a && a.level >= b.level ? a : b), null)
  return best && recorded.level < -50 && best.level > recorded.level + 15
    ? `${best.label} hears the speaker, but ${recorded.label} is what is recorded.`
    : null
}
