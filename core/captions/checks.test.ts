import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Cue } from '../schema/captions'
import { recorded } from '../time/units'
import { checkCues, MEASURES, mendAll, mendCue, problemKinds, type ProblemKind } from './checks'
import { tokens } from './text'
import { newTrack, readTrack } from './track'

const ids = () => {
  let n = 0
  return () => `n${++n}`
}
const cue = (id: string, from: number, to: number, text: string): Cue => ({
  id,
  from: recorded(from),
  to: recorded(to),
  text,
})
const track = (...cues: Cue[]) => newTrack({ cues }, 'file')
const measures = MEASURES.lectures
const kindsOf = (cues: readonly Cue[]) => checkCues(cues, measures).map((p) => [p.cueId, p.kind])
const LONG = 'near the bed the ice is held back and at the surface it slides on over the wet rock below'

describe('a problem', () => {
  it('is found, whichever it is, and said with its measure', () => {
    const cues = [
      cue('a', 0, 5, LONG),
      cue('b', 5.05, 5.3, 'gone'),
      cue('c', 5.2, 20, 'one\ntwo\nthree'),
      cue('d', 21, 22, 'a very long line of words said fast'),
      cue('e', 23, 24, ''),
    ]
    expect(kindsOf(cues)).toEqual([
      ['a', 'long-line'],
      ['a', 'flicker'],
      ['b', 'short'],
      ['b', 'overlap'],
      ['c', 'many-lines'],
      ['c', 'long'],
      ['d', 'fast'],
      ['e', 'empty'],
    ])
    expect(checkCues(cues, MEASURES['small screens']).find((p) => p.kind === 'long-line')?.says).toContain('32 fit')
  })
  it('is none in what is well made', () => {
    expect(checkCues([cue('a', 0, 2, 'ice moves'), cue('b', 2, 4, 'and slides\nover rock')])).toEqual([])
  })
})

describe('a mend', () => {
  const mended = (kind: ProblemKind, ...cues: Cue[]) => mendAll(track(...cues), kind, measures, ids())
  it('breaks lines anew, and splits what does not fit', () => {
    const { track: once, left } = mended('long-line', cue('a', 0, 8, `${LONG} ${LONG}`))
    expect(left).toBe(0)
    expect(once.cues.length).toBeGreaterThan(1)
    expect(once.cues.flatMap((c) => tokens(c.text)).join(' ')).toBe(`${LONG} ${LONG}`)
    expect([once.cues[0]!.from, once.cues.at(-1)!.to]).toEqual([0, 8])
    expect(mended('many-lines', cue('a', 0, 4, 'one\ntwo\nthree')).track.cues[0]!.text).toBe('one two three')
  })
  it('gives a cue the time of the pauses beside it, and no more', () => {
    const pause = mended('short', cue('a', 1, 1.2, 'ice'), cue('b', 5, 7, 'snow'))
    expect([pause.track.cues[0]!.from, pause.track.cues[0]!.to, pause.left]).toEqual([1, 2, 0])
    const before = mended(
      'fast',
      cue('z', 0, 1, 'so'),
      cue('a', 3, 4, 'thirty letters are read in two'),
      cue('b', 4, 7, 'snow'),
    )
    expect(before.track.cues[1]).toMatchObject({ from: 2.5, to: 4 })
    const none = mended('short', cue('z', 0, 1, 'so'), cue('a', 1, 1.2, 'ice'), cue('b', 1.2, 3, 'snow'))
    expect(none.left).toBe(1)
  })
  it('closes a flicker and an overlap, joins what stands at one place, and takes what is empty out', () => {
    expect(mended('flicker', cue('a', 0, 1, 'a'), cue('b', 1.05, 3, 'b')).track.cues[0]!.to).toBe(1.05)
    expect(mended('overlap', cue('a', 0, 2, 'a'), cue('b', 1, 3, 'b')).track.cues[0]!.to).toBe(1)
    expect(mended('overlap', cue('a', 0, 2, 'a'), cue('b', 0.1, 3, 'b')).track.cues).toMatchObject([
      { text: 'a b', to: 3 },
    ])
    expect(mended('empty', cue('a', 0, 2, ''), cue('b', 2, 3, 'b')).track.cues).toHaveLength(1)
  })
  it('halves what is shown too long, where a sentence ends', () => {
    const { track: once, left } = mended('long', cue('a', 0, 10, 'Ice moves under its own weight. It slides on.'))
    expect(left).toBe(0)
    expect(once.cues[0]!.text).toBe('Ice moves under its own weight.')
    expect(mended('long', cue('a', 0, 30, 'Ice')).track.cues[0]!.to).toBe(7)
  })
  it('of a cue that is gone changes nothing', () => {
    const one = track(cue('a', 0, 2, ''))
    expect(mendCue(one, 'z', 'empty', measures, ids())).toBe(one)
  })
  it('loses no word, whatever is mended in whichever order, and leaves a track that can be read', () => {
    const text = fc.array(fc.stringMatching(/^[a-z]{1,14}[.,]?$/), { maxLength: 30 }).map((w) => w.join(' '))
    const any = fc.array(
      fc.tuple(fc.double({ min: 0.05, max: 12, noNaN: true }), fc.double({ min: -0.5, max: 3, noNaN: true }), text),
      {
        minLength: 1,
        maxLength: 8,
      },
    )
    fc.assert(
      fc.property(any, fc.shuffledSubarray([...problemKinds], { minLength: problemKinds.length }), (list, kinds) => {
        let at = 1
        const cues = list.map(([long, gap, said], i) => {
          const from = Math.max(0, at + gap)
          at = from + long
          return cue(`c${i}`, from, at, said)
        })
        const before = readTrack(track(...cues))
        const said = (t: typeof before) =>
          t.cues
            .flatMap((c) => tokens(c.text))
            .sort()
            .join(' ')
        const id = ids()
        let now = before
        for (const kind of kinds) now = mendAll(now, kind, measures, id).track
        expect(said(now)).toBe(said(before))
        expect(() => readTrack(now)).not.toThrow()
        expect(now.cues.every((c, i) => i === 0 || c.from >= now.cues[i - 1]!.from)).toBe(true)
      }),
    )
  })
})
