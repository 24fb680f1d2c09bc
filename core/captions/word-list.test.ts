import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { correctionsOf, learnWord, readWordList, writeWordList } from './word-list'

const ids = () => {
  let n = 0
  return () => `w${++n}`
}

describe('a correction', () => {
  test.each([
    ['the fern is old', 'the firn is old', [{ heard: 'fern', said: 'firn' }]],
    ['near the more rain lies', 'near the moraine lies', [{ heard: 'more rain', said: 'moraine' }]],
    ['a <i>serac</i>, falls', 'a <i>serac</i> falls', []],
    ['snow falls', 'Snow falls.', []],
    ['in the ice age', 'in the Ice Age', [{ heard: 'ice age', said: 'Ice Age' }]],
    ['one two three four five six', 'none of these are here at all', []],
    ['the ice', 'the ice melts', []],
  ])('from “%s” to “%s”', (before, after, expected) => {
    expect(correctionsOf(before, after)).toEqual(expected)
  })
})

describe('a word list', () => {
  test('learns a word once, and each thing that it was heard as', () => {
    const newId = ids()
    let words = learnWord([], 'firn', ['fern'], newId)
    words = learnWord(words, 'firn', ['fern', 'burn', 'firn', ''], newId)
    words = learnWord(words, 'serac', [], newId)
    expect(words).toEqual([
      { id: 'w1', text: 'firn', heard: ['fern', 'burn'] },
      { id: 'w2', text: 'serac', heard: [] },
    ])
  })
  test('is written and read as CSV, whatever is in it', () => {
    const letters = fc
      .string({ unit: fc.constantFrom(...'abc é"=,-\''), minLength: 1, maxLength: 20 })
      .map((s) => s.replace(/\s+/g, ' ').trim())
      // A leading apostrophe before what a formula begins with is the spreadsheet's.
      .filter((s) => s !== '' && !/^'/.test(s))
    fc.assert(
      fc.property(
        fc.array(fc.record({ text: letters, heard: fc.array(letters, { maxLength: 3 }) }), { minLength: 1 }),
        (words) => {
          const all = words.map((w, i) => ({ id: `w${i}`, ...w }))
          expect(readWordList(writeWordList(all)).words).toEqual(words)
        },
      ),
    )
  })
  test('is read from what people write by hand', () => {
    expect(readWordList('moraine\r\n  firn , fern;  burn \n\n"depth hoar",').words).toEqual([
      { text: 'moraine', heard: [] },
      { text: 'firn', heard: ['fern', 'burn'] },
      { text: 'depth hoar', heard: [] },
    ])
    const { words, problems } = readWordList(`firn\n${'x'.repeat(101)}`)
    expect([words.length, problems]).toEqual([1, ['Line 2: this is longer than the 100 letters of a word.']])
    expect(() => readWordList('Word,Heard as\r\n')).toThrow('no word in this file')
  })
})
