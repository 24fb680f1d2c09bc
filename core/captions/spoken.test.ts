import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Cue } from '../schema/captions'
import { recorded } from '../time/units'
import { findRuns, rangeOfRun, spokenWords } from './spoken'

const cue = (id: string, from: number, to: number, text: string): Cue => ({
  id,
  from: recorded(from),
  to: recorded(to),
  text,
})

describe('words that are said', () => {
  it('have the recogniser’s times, or share those of their cue', () => {
    const heard = [
      { text: 'ice', from: recorded(1), to: recorded(1.4), confidence: 0.9 },
      { text: 'flows', from: recorded(1.6), to: recorded(2), confidence: 0.9 },
    ]
    const words = spokenWords([{ ...cue('a', 1, 2, 'Ice flows.'), words: heard }, cue('b', 4, 8, 'it &amp; slides')])
    expect(words.map((w) => [w.text, w.from, w.to])).toEqual([
      ['Ice', 1, 1.4],
      ['flows.', 1.6, 2],
      ['it', 4, expect.closeTo(5.333, 2)],
      ['&', expect.closeTo(5.333, 2), expect.closeTo(6.667, 2)],
      ['slides', expect.closeTo(6.667, 2), 8],
    ])
  })
  it('are found as a phrase, whatever its case and punctuation, and never one inside another', () => {
    const words = 'Um, you know, you know you know it. Um!'.split(' ').map((text) => ({ text }))
    expect(findRuns(words, 'um')).toEqual([
      { first: 0, last: 0 },
      { first: 8, last: 8 },
    ])
    expect(findRuns(words, 'You know')).toHaveLength(3)
    expect(findRuns(words, 'know you know')).toEqual([{ first: 2, last: 4 }])
    expect([findRuns(words, ' '), findRuns(words, 'kno')]).toEqual([[], []])
  })
})

describe('what is taken out for words', () => {
  /** Words after one another, with or without pauses. */
  const said = fc
    .array(fc.tuple(fc.integer({ min: 0, max: 90 }), fc.integer({ min: 5, max: 80 })), { minLength: 1, maxLength: 30 })
    .map((all) => {
      let at = 0
      return all.map(([pause, length]) => {
        const from = at + pause / 100
        at = from + length / 100
        return { from: recorded(from), to: recorded(at) }
      })
    })
  it('has all of them in it, ends in the pauses around them, and leaves half of each', () => {
    fc.assert(
      fc.property(said, fc.nat(), fc.nat(), (words, a, b) => {
        const [first, last] = [a % words.length, b % words.length].sort((x, y) => x - y) as [number, number]
        const whole = recorded(words.at(-1)!.to + 1)
        const { from, to } = rangeOfRun(words, { first, last }, whole)
        expect(from).toBeLessThanOrEqual(words[first]!.from + 1e-9)
        expect(to).toBeGreaterThanOrEqual(words[last]!.to - 1e-9)
        for (const [i, word] of words.entries())
          if (i < first || i > last) expect(Math.min(to, word.to) - Math.max(from, word.from)).toBeLessThan(1e-9)
        const left =
          (words[first - 1] ? from - words[first - 1]!.to : 0) + (words[last + 1] ? words[last + 1]!.from - to : 0)
        const pauses =
          (words[first - 1] ? words[first]!.from - words[first - 1]!.to : 0) +
          (words[last + 1] ? words[last + 1]!.from - words[last]!.to : 0)
        expect(left).toBeCloseTo(pauses / 2, 6)
      }),
    )
  })
  it('is refused for words that are not there', () => {
    expect(() => rangeOfRun([], { first: 0, last: 0 }, recorded(1))).toThrow(RangeError)
  })
})
