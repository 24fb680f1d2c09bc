/** Words that a recogniser is not sure of, settled one after another. */
import type { CaptionTrack, Cue, Word } from '../schema/captions'
import { replaceWord } from './replace'
import { tokens } from './text'
import { DOUBTFUL, InvalidCaptionChange, realignWords } from './track'

/** Where in a cue's text a doubtful word stands: the how manieth word. None while the text has another number than was heard. */
export function doubtsOf(cue: Cue): { index: number; word: Word }[] {
  const heard = cue.words ?? []
  if (heard.length !== tokens(cue.text).length) return []
  return heard.flatMap((word, index) => (word.confidence < DOUBTFUL ? [{ index, word }] : []))
}

/**
 * Settles a word: it is right, or another one takes its place. Everything else of the cue stays, tags too.
 * @param by the other word; null when it is right
 * @throws {InvalidCaptionChange} with a sentence when the cue or the word is not there any more
 */
export function settleWord(track: CaptionTrack, cueId: string, index: number, by: string | null): CaptionTrack {
  const cue = track.cues.find((c) => c.id === cueId)
  if (!cue?.words?.[index]) throw new InvalidCaptionChange('That word is not there any more.')
  const text = by === null ? cue.text : replaceWord(cue.text, index, by)
  const isOne = by === null || tokens(by).length === 1
  // One word in the stead of one is said when that was.
  const said = isOne
    ? cue.words.map((w, i) => (i === index ? { ...w, text: by ?? w.text } : w))
    : realignWords(cue, text)
  const words = said.map((w, i) => {
    if (i !== index) return w
    const { alternatives: _, ...settled } = w
    return { ...settled, confidence: 1 }
  })
  return { ...track, cues: track.cues.map((c) => (c === cue ? { ...cue, text, words } : c)) }
}

/** The next cue in which a word is doubtful, behind the one that is open; from the start again behind the last. */
export function nextDoubtful(cues: readonly Cue[], opened: string | null): Cue | undefined {
  const at = cues.findIndex((c) => c.id === opened)
  const isDoubtful = (c: Cue) => doubtsOf(c).length > 0
  return cues.slice(at + 1).find(isDoubtful) ?? cues.find(isDoubtful)
}
