/** A deck of slides with what the speaker says to each, as the hall shows it and as the demo lectures are made from. */

export type Figure = 'glacier' | 'balance' | 'flow' | 'channel' | 'crystal' | 'layers' | 'core' | 'isotopes' | 'none'

export interface Slide {
  title: string
  lines: string[]
  figure: Figure
  /** What is said while the slide is shown. */
  says: string
}

export interface Deck {
  course: string
  title: string
  slides: Slide[]
}

/** A deck with its slides' starts (s) and the whole length (s), once its voice has been made. */
export interface TimedDeck extends Deck {
  starts: number[]
  duration: number
}

/** Index of the slide shown at `time` (s). */
export function slideAt(deck: TimedDeck, time: number): number {
  return Math.max(
    0,
    deck.starts.findLastIndex((s) => s <= time),
  )
}
