/**
 * What makes captions hard to read, found before students do. Limits as in `reflow.ts`; reading speed after the
 * common 20 characters a second for adults.
 */
import type { Cue } from '../schema/captions'
import { captionLimits } from './reflow'
import { plainText } from './text'

export interface CaptionProblem {
  cueId: string
  kind: 'empty' | 'long-line' | 'many-lines' | 'fast' | 'overlap'
  /** A sentence for a person. */
  says: string
}

/** Characters a second above which a cue is called too fast. */
export const FASTEST = 20

/** @param cues sorted by start */
export function checkCues(cues: readonly Cue[]): CaptionProblem[] {
  const problems: CaptionProblem[] = []
  cues.forEach((cue, i) => {
    const say = (kind: CaptionProblem['kind'], says: string) => problems.push({ cueId: cue.id, kind, says })
    const text = plainText(cue.text).trim()
    const lines = text.split('\n')
    if (text === '') say('empty', 'This cue says nothing.')
    const longest = Math.max(...lines.map((l) => l.length))
    if (longest > captionLimits.lineLength)
      say('long-line', `A line has ${longest} characters; ${captionLimits.lineLength} fit.`)
    if (lines.length > 2) say('many-lines', `${lines.length} lines cover the picture; keep to two.`)
    const speed = text.replace(/\n/g, ' ').length / (cue.to - cue.from)
    if (speed > FASTEST)
      say('fast', `${Math.round(speed)} characters a second is too fast to read; give it more time or fewer words.`)
    const next = cues[i + 1]
    if (next && next.from < cue.to - 0.001) say('overlap', 'The next cue starts before this one ends.')
  })
  return problems
}
