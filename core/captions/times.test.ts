import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { CaptionTrack, Cue } from '../schema/captions'
import { recorded } from '../time/units'
import { retime, setTimes } from './times'
import { newTrack } from './track'

const cue = (id: string, from: number, to: number): Cue => ({
  id,
  from: recorded(from),
  to: recorded(to),
  text: id,
  words: [{ text: id, from: recorded(from), to: recorded(to), confidence: 1 }],
})
const track = (...cues: Cue[]): CaptionTrack => newTrack({ cues }, 'person')
const range = (from: number, to: number) => ({ from: recorded(from), to: recorded(to) })
const times = ({ cues }: CaptionTrack) => cues.map((c) => [c.id, c.from, c.to])

describe('neighbours', () => {
  const three = track(cue('a', 0, 2), cue('b', 2, 4), cue('c', 4, 6))
  it('give way to an edge that is moved into them', () => {
    expect(times(setTimes(three, 'b', range(1, 4.5)))).toEqual([
      ['a', 0, 1],
      ['b', 1, 4.5],
      ['c', 4.5, 6],
    ])
  })
  it('keep something of themselves: the edge stops there', () => {
    expect(times(setTimes(three, 'b', range(-1, 9)))).toEqual([
      ['a', 0, 0.2],
      ['b', 0.2, 5.8],
      ['c', 5.8, 6],
    ])
  })
  it('that lay over a cue before stay over it: two may speak at once', () => {
    const over = track(cue('a', 0, 3), cue('b', 2, 5), cue('c', 5, 6))
    expect(times(setTimes(over, 'b', range(1, 5.5)))).toEqual([
      ['a', 0, 3],
      ['b', 1, 5.5],
      ['c', 5.5, 6],
    ])
  })
  it('are never under what is moved, wherever it goes', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 0, max: 30 }), fc.integer({ min: 10, max: 40 })), {
          minLength: 2,
          maxLength: 8,
        }),
        fc.nat(7),
        fc.integer({ min: 0, max: 300 }),
        fc.integer({ min: 5, max: 60 }),
        (shape, which, from, length) => {
          let at = 0
          const cues = shape.map(([gap, long], i) => {
            const start = at + gap
            at = start + long
            return cue(`c${i}`, start / 10, at / 10)
          })
          const id = cues[which % cues.length]!.id
          const moved = setTimes(track(...cues), id, range(from / 10, (from + length) / 10)).cues
          expect(moved.map((c) => c.id).sort()).toEqual(cues.map((c) => c.id).sort())
          moved.forEach((c, i) => {
            expect(c.to).toBeGreaterThan(c.from)
            const next = moved[i + 1]
            if (next) expect(c.to).toBeLessThanOrEqual(next.from + 1e-6)
          })
        },
      ),
    )
  })
})

describe('a run', () => {
  const four = track(cue('a', 0, 2), cue('b', 2, 4), cue('c', 4, 6), cue('d', 8, 9))
  const run = new Set(['b', 'c'])
  it('is shifted with its words, and what stands at its ends gives way', () => {
    const moved = retime(four, { now: 2, belongs: 1.5 }, null, 20, run)
    expect(times(moved)).toEqual([
      ['a', 0, 1.5],
      ['b', 1.5, 3.5],
      ['c', 3.5, 5.5],
      ['d', 8, 9],
    ])
    expect(moved.cues[1]?.words?.[0]).toMatchObject({ from: 1.5, to: 3.5 })
  })
  it('is stretched between two instants', () => {
    expect(times(retime(four, { now: 2, belongs: 2 }, { now: 6, belongs: 8.5 }, 20, run))).toEqual([
      ['a', 0, 2],
      ['b', 2, 5.25],
      ['c', 5.25, 8.5],
      ['d', 8.5, 9],
    ])
  })
  it('does not leave the recording', () => {
    expect(() => retime(four, { now: 0, belongs: -3 }, null, 20, new Set(['a']))).toThrow(/One cue would lie outside/)
    expect(() => retime(four, { now: 8, belongs: 25 }, null, 20, new Set(['d']))).toThrow(/outside/)
  })
})
