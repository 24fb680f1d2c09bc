/** What stands behind speech recognition here: the program that came with the server, or one of the college's own. */
import type { Word } from '#core/schema/captions'

/** A piece of a lecture's speech: some seconds, cut at pauses. */
export interface Piece {
  /** A WAVE file (16 kHz, mono, 16 bit) that stays until the piece is read. */
  file: string
  /** BCP 47. */
  language: string
  /** A file with lines of text that is the course's own, when it said something of its words. */
  vocabulary?: string
}

export interface Recogniser {
  /** Why it cannot be used here, as a sentence; empty when it can. */
  problem(): Promise<string>
  /** Whether it knows a language (BCP 47). */
  knows(language: string): boolean
  /**
   * @returns words in time order, from the beginning of the piece
   * @throws {Error} with a sentence
   */
  read(piece: Piece, signal: AbortSignal): Promise<Word[]>
}
