/** Joining a draft that ends late with what a person has written meanwhile. */
import equal from 'fast-deep-equal'
import type { CaptionTrack, Cue, Word } from '../schema/captions'
import { reflow } from './reflow'
import { newTrack } from './track'
import { sortCues } from './vtt'

/**
 * A draft that takes the place of what was there when it was begun. What a person has written since stays, and of the
 * draft only the words that are said elsewhere are added.
 * @param language of a track that is not there yet
 * @param before the track when the draft was begun, @param now as it is; null when there is none
 */
export function joinDraft(
  before: CaptionTrack | null,
  now: CaptionTrack | null,
  words: readonly Word[],
  newId: () => string,
  language = now?.language ?? 'en',
): CaptionTrack {
  const known = new Map(before?.cues.map((c) => [c.id, c]))
  const written = (now?.cues ?? []).filter((c) => !equal(c, known.get(c.id)))
  const isWritten = (w: Word) => written.some((c) => (w.from + w.to) / 2 >= c.from && (w.from + w.to) / 2 < c.to)
  const cues: Cue[] = [...written]
  let run: Word[] = []
  // Words on both sides of what a person wrote never share a cue.
  for (const word of words) {
    if (!isWritten(word)) run.push(word)
    else {
      cues.push(...reflow(run, newId))
      run = []
    }
  }
  cues.push(...reflow(run, newId))
  const draft = newTrack({ cues: sortCues(cues) }, 'recogniser', language)
  return written.length > 0 && now ? { ...now, state: 'draft', cues: draft.cues } : draft
}
