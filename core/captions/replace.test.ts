import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { recorded } from '../time/units'
import { findReplacements, patternOf, replaceIn, type Wanted } from './replace'
import { escapeText, letters, plainText } from './text'
import { newTrack } from './track'

const cue = (text: string, id = 'a') => ({ id, from: recorded(1), to: recorded(3), text })
const wanted = (find: string, replace: string, more: Partial<Wanted> = {}): Wanted => ({
  ...{ find, replace, wholeWords: true, matchCase: false },
  ...more,
})
const after = (text: string, how: Wanted) => findReplacements(newTrack({ cues: [cue(text)] }, 'person'), how)[0]?.text

describe('replacing', () => {
  it.each<[string, Wanted, string | undefined]>([
    ['the ice and the Ice', wanted('ice', 'firn'), 'the firn and the firn'],
    ['the ice and the Ice', wanted('ice', 'firn', { matchCase: true }), 'the firn and the Ice'],
    ['nice ice', wanted('ice', 'x'), 'nice x'],
    ['nice ice', wanted('ice', 'x', { wholeWords: false }), 'nx x'],
    ['la névé, la neve', wanted('névé', 'glace'), 'la glace, la neve'],
    ['a mass\nbalance b', wanted('mass balance', 'budget'), 'a budget b'],
    ['so <i>mass</i> balance is', wanted('mass balance', 'budget'), 'so <i>budget</i> is'],
    ['R&amp;D &lt;b&gt;', wanted('R&D', 'A<B', { wholeWords: false }), 'A&lt;B &lt;b&gt;'],
    ['1.5 and 145', wanted('1.5', '2'), '2 and 145'],
    ['💧 drop', wanted('drop', '💧'), '💧 💧'],
    ['ice', wanted('snow', 'x'), undefined],
    ['ice', wanted('  ', 'x'), undefined],
  ])('in “%s” (%j) gives “%s”', (text, how, result) => {
    expect(after(text, how)).toBe(result)
  })
  it('says how often, and keeps the times of words', () => {
    const words = ['the', 'sir', 'ack'].map((text, i) => ({
      ...{ text, confidence: 0.2 },
      from: recorded(1 + i * 0.5),
      to: recorded(1.5 + i * 0.5),
    }))
    const track = newTrack({ cues: [{ ...cue('the sir ack'), words }, cue('sir ack, sir ack', 'b')] }, 'recogniser')
    const found = findReplacements(track, wanted('sir ack', 'serac'))
    expect(found.map((f) => [f.cueId, f.count, f.before, f.after])).toEqual([
      ['a', 1, 'the sir ack', 'the serac'],
      ['b', 2, 'sir ack, sir ack', 'serac, serac'],
    ])
    const next = replaceIn(track, found.slice(0, 1))
    expect(next.cues[0]!.words).toMatchObject([
      { text: 'the', from: 1, confidence: 0.2 },
      { text: 'serac', from: 1.5, confidence: 1 },
    ])
    // What was not chosen stays as it is.
    expect(next.cues[1]).toBe(track.cues[1])
  })
  it('by itself changes nothing, whatever the text, and never makes a tag', () => {
    const text = fc.stringMatching(/^[a-c&<>.\n ]{0,30}$/).map(escapeText)
    fc.assert(
      fc.property(text, fc.constantFrom('a', 'b c', '<b>', '&'), (said, find) => {
        const how = wanted(find, find, { wholeWords: false, matchCase: true })
        const found = after(said, how)
        if (found !== undefined)
          expect(plainText(found).replace(/\s+/g, ' ')).toBe(plainText(said).replace(/\s+/g, ' '))
        const other = after(said, { ...how, replace: '<i>&' })
        if (other !== undefined) expect(other).not.toMatch(/<i>|&(?!amp;|lt;|gt;)/)
      }),
    )
  })
  it('looks through what a reader sees, letter by letter', () => {
    const text = fc.array(
      fc.constantFrom('a', ' ', '\n', '<', '>', '&', '&amp;', '&#8217;', '<i>', '</i>', '💧', '<v A>'),
    )
    fc.assert(
      fc.property(text, (parts) => {
        const said = parts.join('')
        expect(
          letters(said)
            .map((l) => l.letter)
            .join(''),
        ).toBe(plainText(said))
      }),
    )
  })
  it('takes what is typed as letters, not as a pattern', () => {
    for (const find of ['a.c', '(x', '[', 'a|b', '\\d', '$', '^', 'a-b', 'a/b', '{2}'])
      expect(patternOf(wanted(find, '', { wholeWords: false }))!.test(find)).toBe(true)
    expect(patternOf(wanted('a.c', ''))!.test('abc')).toBe(false)
  })
})
