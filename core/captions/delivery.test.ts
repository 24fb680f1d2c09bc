import { describe, expect, it } from 'vitest'
import type { Cue } from '../schema/captions'
import { recorded } from '../time/units'
import { deliveryProblems } from './delivery'

const words = 'the ice moves slowly down its valley under its own weight'.split(' ')
const cue = (from: number, to: number, text = words.slice(0, 6).join(' ')): Cue => ({
  id: `c${from}`,
  from: recorded(from),
  to: recorded(to),
  text,
})
/** A cue every 4 s. */
const cues = (until: number) => Array.from({ length: until / 4 }, (_, i) => cue(4 * i, 4 * i + 3.6))
const to = (duration: number, before: readonly Cue[] = []) => ({
  ...{ duration, before },
  speech: [{ from: recorded(0), to: recorded(duration) }],
})

describe('what a service sends', () => {
  it('is taken where it covers what is said', () => {
    expect(deliveryProblems(cues(60), [], to(60, cues(60)))).toEqual([])
    expect(deliveryProblems(cues(60), [], { ...to(60), speech: null })).toEqual([])
  })
  it('is held when it is cut short', () => {
    expect(deliveryProblems(cues(40), [], to(60))).toEqual([
      'Nothing stands where somebody speaks, from 0:40 on: 20 s in all.',
    ])
    // Of a short lecture, little is much.
    expect(deliveryProblems(cues(16), [], to(24))).toHaveLength(1)
    expect(deliveryProblems(cues(56), [], to(60))).toEqual([])
  })
  it('is held when it is of another lecture, or of a longer one', () => {
    const other = cues(60).map((c) => ({ ...c, text: 'people met at noon to vote again' }))
    expect(deliveryProblems(other, [], to(60, cues(60)))[0]).toMatch(/only \d+ % are in it: it may be of another/)
    expect(deliveryProblems(other, [], to(60, cues(8)))).toEqual([])
    expect(deliveryProblems(cues(72), [], to(60))).toEqual(['3 cues lie behind the end of the recording, at 1:00.'])
  })
  it('is held when lines of it cannot be read, or nothing stands in it', () => {
    expect(deliveryProblems(cues(60), [{ line: 7, reason: 'the cue ends before it starts.' }], to(60))).toEqual([
      '1 line could not be read; line 7: the cue ends before it starts.',
    ])
    expect(deliveryProblems([], [], to(60))).toEqual(['There is no cue in it.'])
    expect(deliveryProblems([...cues(60), cue(60.1, 61, ' ')], [], to(60))).toEqual(['1 cue says nothing.'])
  })
  it('is not asked to cover pauses', () => {
    const speech = [
      { from: recorded(0), to: recorded(20) },
      { from: recorded(50), to: recorded(60) },
    ]
    const spoken = [...cues(20), ...cues(60).filter((c) => c.from >= 48)]
    expect(deliveryProblems(spoken, [], { duration: 60, before: [], speech })).toEqual([])
  })
})
