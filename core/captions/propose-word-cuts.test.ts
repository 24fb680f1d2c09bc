import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { recorded } from '../time/units'
import { proposeWordCuts } from './propose-word-cuts'

/** Words half a second each; `…` is a pause of half a second. */
function said(text: string) {
  let at = 0
  const words = text.split(' ').flatMap((word) => {
    at += 0.5
    return word === '…' ? [] : [{ text: word, from: recorded(at - 0.5), to: recorded(at - 0.1) }]
  })
  return { words, whole: recorded(at) }
}
const found = (text: string) => {
  const { words, whole } = said(text)
  return proposeWordCuts(words, whole).map(({ reason, from, to }) => [
    reason,
    words
      .filter((w) => w.from >= from && w.to <= to)
      .map((w) => w.text)
      .join(' '),
  ])
}

describe('what could be taken out by what is said', () => {
  test.each([
    [
      'Snow um falls uh er slowly',
      [
        ['filled-pause', 'um'],
        ['filled-pause', 'uh er'],
      ],
    ],
    ['The the snow falls', [['repetition', 'The']]],
    ['when the snow when the snow falls', [['repetition', 'when the snow']]],
    ['the uh the snow falls', [['repetition', 'the uh']]],
    ['if we look … if we measure it', [['restart', 'if we look']]],
    ['if we look if we measure it', []],
    ['it is very very cold and no no ice had had time', []],
    ['ten … 20 20 days', []],
    ['snow falls on snow and falls on ice', []],
  ])('in “%s”', (text, expected) => {
    expect(found(text)).toEqual(expected)
  })

  test('a word that is said again after a while is no repetition', () => {
    expect(found('ice … … … ice')).toEqual([])
  })

  test('proposals never overlap, and never touch a word that is not theirs', () => {
    const word = fc.constantFrom('um', 'the', 'snow', 'falls', 'ice', '…', 'uh', 'we')
    fc.assert(
      fc.property(fc.array(word, { minLength: 1, maxLength: 30 }), (all) => {
        const { words, whole } = said(all.join(' '))
        const cuts = proposeWordCuts(words, whole)
        cuts.forEach((cut, i) => {
          expect(cut.to).toBeGreaterThan(cut.from)
          if (i > 0) expect(cut.from).toBeGreaterThanOrEqual(cuts[i - 1]!.to - 1e-9)
          for (const w of words)
            expect(w.to <= cut.from || w.from >= cut.to || (w.from >= cut.from && w.to <= cut.to)).toBe(true)
        })
      }),
    )
  })
})
