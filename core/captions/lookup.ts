/** Finding cues by time and by words. Small and free of the schemas, as the student player carries it. */
import type { Cue } from '../schema/captions'
import { plainText } from './text'

/** The cue shown at `time` (s, on the cues' own clock), the later one where two overlap. */
export function cueAt<C extends Pick<Cue, 'from' | 'to'>>(cues: readonly C[], time: number): C | undefined {
  return cues.findLast((c) => c.from <= time && time < c.to)
}

/** Cues in which every word of `query` begins some word, whatever the case. An empty query finds all. */
export function findCues<C extends Pick<Cue, 'text'>>(cues: readonly C[], query: string): C[] {
  const wanted = query.toLowerCase().split(/\s+/).filter(Boolean)
  if (wanted.length === 0) return [...cues]
  return cues.filter((cue) => {
    const words = plainText(cue.text)
      .toLowerCase()
      .split(/[^\p{L}\p{N}']+/u)
    return wanted.every((w) => words.some((word) => word.startsWith(w)))
  })
}
