import { describe, expect, it } from 'vitest'
import type { Cue, Word } from '../schema/captions'
import { recorded } from '../time/units'
import { replaceIn } from './replace'
import { reflow } from './reflow'
import { proposeSentences } from './sentences'
import { plainText } from './text'
import { newTrack } from './track'

/** Words said one after another, 0.3 s each; a number is a pause before the next, s. */
function said(...parts: (string | number)[]): Word[] {
  let at = 0
  return parts.flatMap((part) => {
    if (typeof part === 'number') {
      at += part
      return []
    }
    return part.split(' ').map((text) => {
      const from = at
      at += 0.3
      return { text, from: recorded(from), to: recorded(at), confidence: 0.9 }
    })
  })
}
let n = 0
const drafted = (...parts: (string | number)[]) =>
  newTrack({ cues: reflow(said(...parts), () => `c${++n}`) }, 'recogniser')
const reads = (track: { cues: readonly Cue[] }) =>
  track.cues.map((c) => plainText(c.text).replaceAll('\n', ' ')).join(' ')
const written = (track: ReturnType<typeof drafted>, terms: string[] = []) =>
  reads(replaceIn(track, proposeSentences(track, terms)))

describe('capitals and full stops', () => {
  it('stand where somebody pauses, and not where a sentence cannot end', () => {
    expect(written(drafted('snow falls and stays', 0.6, 'the grains settle in the', 0.6, 'first winter'))).toBe(
      'Snow falls and stays. The grains settle in the first winter.',
    )
  })
  it('stand at a shorter pause where the next word begins a sentence', () => {
    const words = ['the ice is thick', 0.3, 'so it creeps', 0.3, 'downhill slowly'] as const
    expect(written(drafted(...words))).toBe('The ice is thick. So it creeps downhill slowly.')
  })
  it('are those of the word list, in words that belong together too', () => {
    expect(
      written(drafted('ice in antarctica after the little ice age'), ['Antarctica', 'Little Ice Age', 'firn']),
    ).toBe('Ice in Antarctica after the Little Ice Age.')
    expect(written(drafted("and what i've seen i keep"))).toBe("And what I've seen I keep.")
  })
  it('leave what a person wrote, went through, or ended already', () => {
    const track = drafted('the firn settles', 0.9, 'then it is ice')
    const own = {
      ...track,
      cues: track.cues.map((c, i) => (i === 0 ? { ...c, checked: true as const } : { ...c, text: 'Then it is ICE!' })),
    }
    expect(proposeSentences(own, [])).toEqual([])
    const typed = { ...track, cues: track.cues.map(({ words: _, ...c }) => c) }
    expect(proposeSentences(typed, [])).toEqual([])
  })
  it('keep tags, and the times of words', () => {
    const track = drafted('the firn settles')
    const marked = { ...track, cues: track.cues.map((c) => ({ ...c, text: 'the <i>firn</i> settles' })) }
    const after = replaceIn(marked, proposeSentences(marked, []))
    expect(after.cues[0]?.text).toBe('The <i>firn</i> settles.')
    expect(after.cues[0]?.words?.map((w) => w.from)).toEqual(track.cues[0]?.words?.map((w) => w.from))
  })
  it('of other languages come from long pauses alone', () => {
    const track = { ...drafted('der schnee bleibt liegen', 0.5, 'und wird zu eis', 1, 'das fließt'), language: 'de' }
    expect(written(track)).toBe('Der schnee bleibt liegen und wird zu eis. Das fließt.')
  })
})
