/** Finding cues by time. Small and free of the schemas, as the student player carries it. */
import type { Cue } from '../schema/captions'

/** The cue shown at `time` (s, on the cues' own clock), the later one where two overlap. */
export function cueAt<C extends Pick<Cue, 'from' | 'to'>>(cues: readonly C[], time: number): C | undefined {
  return cues.findLast((c) => c.from <= time && time < c.to)
}
