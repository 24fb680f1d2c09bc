import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { bitsFor, readPacked, writePacked } from './bits'
import { mixIn, readTrigramModel, writeTrigramModel, type TrigramModel } from './language-model'

/** Every hundredth of a natural logarithm from −40 on. */
const grid = Float64Array.from({ length: 65_536 }, (_, i) => -40 + i / 1600)
const quantum = (log: number) => Math.max(0, Math.min(65_535, Math.round((log + 40) * 1600)))

/** A model of some words, each with the words that follow it and how likely; what else follows is left to the backoff. */
function model(words: string[], following: Record<string, Record<string, number>>): TrigramModel {
  const alone = 1 / words.length
  const bigrams = Object.entries(following)
    .flatMap(([before, after]) =>
      Object.entries(after).map(([last, p]) => ({ before: words.indexOf(before), last: words.indexOf(last), p })),
    )
    .sort((a, b) => a.last - b.last || a.before - b.before)
  const quanta = new Uint8Array(3 * 4 * 65_536)
  const view = new DataView(quanta.buffer)
  grid.forEach((log, i) => {
    for (const table of [0, 1]) view.setFloat32(4 * (table * 65_536 + i), log / Math.log(1.0001), true)
  })
  return {
    words,
    unigrams: {
      log: Float64Array.from(words, () => Math.log(alone)),
      backoff: Float64Array.from(words, (w) => {
        const after = Object.values(following[w] ?? {})
        const explicit = after.reduce((s, p) => s + p, 0)
        return Math.log((1 - explicit) / (1 - after.length * alone))
      }),
    },
    bigrams: {
      last: Uint32Array.from(bigrams, (b) => b.last),
      before: Uint32Array.from(bigrams, (b) => b.before),
      log: Uint16Array.from(bigrams, (b) => quantum(Math.log(b.p))),
      backoff: Uint16Array.from(bigrams, () => quantum(0)),
      next: new Uint32Array(bigrams.length + 1),
    },
    quanta: { log: grid, backoff: grid },
    trigrams: { count: 0, packed: new Uint8Array(11), quanta },
  }
}
/** How likely a word is after another one, as the recogniser reckons it. */
function likely(m: TrigramModel, before: string, word: string): number {
  const [u, w] = [m.words.indexOf(before), m.words.indexOf(word)]
  for (let i = 0; i < m.bigrams.last.length; i++)
    if (m.bigrams.last[i] === w && m.bigrams.before[i] === u) return Math.exp(m.quanta.log[m.bigrams.log[i]!]!)
  return Math.exp(m.unigrams.backoff[u]! + m.unigrams.log[w]!)
}
const few = ['</s>', '<s>', 'falls', 'ice', 'snow', 'the']
const small = (words = [...few, 'wind', 'water']) =>
  model(words, {
    '<s>': { the: 0.5, snow: 0.2 },
    the: { snow: 0.4, ice: 0.3 },
    snow: { falls: 0.6, '</s>': 0.2 },
  })

describe('packed numbers', () => {
  test('are read as they were written', () => {
    const one = fc
      .integer({ min: 1, max: 25 })
      .chain((width) => fc.tuple(fc.constant(width), fc.integer({ min: 0, max: 2 ** width - 1 })))
    fc.assert(
      fc.property(fc.array(one), (numbers) => {
        const view = new DataView(new ArrayBuffer(4 * numbers.length + 8))
        let at = 0
        for (const [width, value] of numbers) {
          writePacked(view, at, width, value)
          at += width
        }
        at = 0
        for (const [width, value] of numbers) {
          expect(readPacked(view, at, width)).toBe(value)
          at += width
        }
      }),
    )
    expect([0, 1, 2, 255, 256].map(bitsFor)).toEqual([0, 1, 2, 8, 9])
  })
})

describe('a language model', () => {
  test('is read as it was written', () => {
    const { words, bigrams, unigrams } = readTrigramModel(writeTrigramModel(small()))
    expect(words).toEqual(small().words)
    expect(bigrams).toEqual(small().bigrams)
    unigrams.log.forEach((log, i) => expect(log).toBeCloseTo(small().unigrams.log[i]!, 5))
  })
  test.each([
    ['nothing', new Uint8Array(0)],
    ['something else', new TextEncoder().encode('x'.repeat(100))],
    ['one that is cut off', writeTrigramModel(small()).subarray(0, 200_000)],
  ])('that is %s is said to be none', (_, bytes) => {
    expect(() => readTrigramModel(bytes)).toThrow('no language model')
  })
  test('learns the words of a text and what follows what, and forgets nothing', () => {
    const before = small()
    const after = mixIn(before, [
      ['the', 'firn'],
      ['the', 'firn', 'falls'],
    ])
    expect(after.words).toEqual([...before.words, 'firn'])
    expect(likely(after, 'the', 'firn')).toBeGreaterThan(0.2)
    expect(likely(after, 'the', 'snow')).toBeGreaterThan(0.1)
    expect(likely(after, 'snow', 'falls')).toBeCloseTo(likely(before, 'snow', 'falls'), 5)
    const again = readTrigramModel(writeTrigramModel(after))
    expect(likely(again, 'the', 'firn')).toBeCloseTo(likely(after, 'the', 'firn'), 4)
  })
  test('of a text stays one: what may follow a word of it adds up to 1, and its bigrams stay sorted', () => {
    const word = fc.constantFrom('falls', 'ice', 'snow', 'the', 'firn', 'serac')
    fc.assert(
      fc.property(fc.array(fc.array(word, { minLength: 1, maxLength: 5 }), { minLength: 1, maxLength: 8 }), (text) => {
        const mixed = mixIn(small(), text)
        for (const before of ['<s>', ...new Set(text.flat())]) {
          const sum = mixed.words.reduce((s, w) => s + likely(mixed, before, w), 0)
          expect(sum).toBeGreaterThan(0.99)
          expect(sum).toBeLessThan(1.01)
        }
        const { last, before } = mixed.bigrams
        for (let i = 1; i < last.length; i++)
          expect(last[i]! * 1000 + before[i]!).toBeGreaterThan(last[i - 1]! * 1000 + before[i - 1]!)
      }),
    )
  })
  test('takes no more words than it has room for', () => {
    expect(mixIn(small(few), [['firn', 'serac', 'esker']]).words).toEqual([...few, 'firn'])
  })
  test('without a text is the same', () => {
    const one = small()
    expect(mixIn(one, [])).toBe(one)
  })
})
