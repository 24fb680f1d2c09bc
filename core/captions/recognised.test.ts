import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { recorded } from '../time/units'
import { judgeWord, readLattice, type LatticeWord } from './lattice'
import { speechPieces } from './pieces'
import { readSphinx } from './sphinx'

const line = (...words: (string | number)[]) =>
  `piece S 0 T -1 A -1 L -1 ${words.map((w) => (typeof w === 'number' ? w : `-100 -200 ${w}`)).join(' ')}`

describe('a line of the recogniser', () => {
  test('becomes words, without pauses, noises and marks of pronunciation', () => {
    expect(
      readSphinx(line(0, '<s>', 18, 'good(2)', 36, '<sil>', 50, '[NOISE]', 70, 'morning', 140, '</s>', 150), ''),
    ).toEqual([
      { text: 'good', from: 0.18, to: 0.36, confidence: 0.5 },
      { text: 'morning', from: 0.7, to: 1.4, confidence: 0.5 },
    ])
  })
  test.each([
    ['alone between pauses', [0, '<sil>', 40, '[SPEECH]', 61, '<sil>', 90], ['uh']],
    ['that ends like a word', [0, '<sil>', 40, '[SPEECH]', 53, 'up', 62, '<sil>', 90], ['uh']],
    ['at the very ends', [40, '[SPEECH]', 61], ['uh']],
    ['that runs on in speech', [0, '<sil>', 40, '[SPEECH]', 53, 'the', 62, 'snow', 90, '<sil>', 99], ['the', 'snow']],
    ['behind a word', [0, 'so', 40, '[SPEECH]', 61, '<sil>', 90], ['so']],
    ['that is long', [0, '<sil>', 40, '[SPEECH]', 161, '<sil>', 190], []],
  ])('takes speech without a word for a filled pause: %s', (_, words, expected) => {
    expect(readSphinx(line(...words), '').map((w) => w.text)).toEqual(expected)
  })
  test.each(['', 'piece S 0', 'piece S 0 T 1 A 1 L 1 0 -1 -1', line('word', 'x')])('“%s” is none', (text) => {
    expect(() => readSphinx(text, '')).toThrow('cannot be read')
  })
})

const lattice = `# Lattice
VERSION=1.0
start=3
end=0
N=5	L=6
I=0	t=2.00	W=!SENT_END	v=1
I=1	t=1.00	W=snow	v=1
I=2	t=1.02	W=no	v=1
I=3	t=0.00	W=!SENT_START	v=1
I=4	t=1.00	W=snow	v=2
J=0	S=3	E=1	a=-1.0	p=0.7
J=1	S=3	E=2	a=-1.0	p=0.3
J=2	S=1	E=0	a=-1.0	p=0.5
J=3	S=4	E=0	a=-1.0	p=0.2
J=4	S=2	E=0	a=-1.0	p=0.29
J=5	S=2	E=0	a=-1.0	p=0.01
`

describe('a word lattice', () => {
  test('says how sure a word is, however it was pronounced, and what else it may have been', () => {
    const words = readLattice(lattice)
    expect(words).toHaveLength(6)
    const { confidence, alternatives } = judgeWord({ text: 'snow', from: recorded(1), to: recorded(2) }, words)
    expect(confidence).toBeCloseTo(0.7)
    expect(alternatives).toEqual(['no'])
  })
  test('does not take what is said much longer or shorter for an alternative', () => {
    const all: LatticeWord[] = [
      { text: 'we', from: 0, to: 0.2, posterior: 0.5 },
      { text: 'weather', from: 0, to: 0.8, posterior: 0.5 },
    ]
    const we = judgeWord({ text: 'we', from: recorded(0), to: recorded(0.2) }, all)
    expect(we).toEqual({ confidence: 0.5 })
  })
  test('that is broken is said to be', () => {
    expect(() => readLattice(lattice.replace('I=2\tt=1.02\tW=no\tv=1\n', ''))).toThrow('leads nowhere')
    expect(() => readLattice(lattice.replace('t=1.02', ''))).toThrow('without a time')
  })
  test('posteriors stay between nothing and all', () => {
    const time = fc.integer({ min: 0, max: 400 }).map((x) => x / 100)
    const one = fc.record({
      text: fc.constantFrom('a', 'b', 'c', ''),
      from: time,
      to: time,
      posterior: fc.double({ min: 0, max: 1, noNaN: true }),
    })
    fc.assert(
      fc.property(fc.array(one), one, (all, best) => {
        const { confidence, alternatives = [] } = judgeWord(
          { text: best.text, from: recorded(best.from), to: recorded(best.to) },
          all,
        )
        expect(confidence).toBeGreaterThanOrEqual(0)
        expect(confidence).toBeLessThanOrEqual(1)
        expect(alternatives).not.toContain(best.text)
        expect(alternatives).not.toContain('')
        expect(new Set(alternatives).size).toBe(alternatives.length)
      }),
    )
  })
})

describe('pieces of speech', () => {
  const RATE = 100
  /** Loud (`#`) and quiet (`.`) for a second each. */
  const tops = (text: string) =>
    Float32Array.from({ length: text.length * RATE }, (_, i) => (text[Math.floor(i / RATE)] === '#' ? 0.5 : 0.0005))
  const cut = (text: string, longest = 20) => speechPieces(tops(text), RATE, { longest, gap: 1.5, margin: 0.2 })

  test('are parted at pauses, and leave them out', () => {
    expect(cut('..##...###..')).toEqual([
      { from: 1.8, to: 4.2 },
      { from: 6.8, to: 10.2 },
    ])
  })
  test('run over short pauses for as long as a piece may be', () => {
    expect(cut('##.##.##.##', 5)).toEqual([
      { from: 0, to: 5.2 },
      { from: 5.8, to: 11 },
    ])
  })
  test('of speech without a pause are cut where it is quietest', () => {
    const loud = tops('#'.repeat(30))
    loud.fill(0.2, 1500, 1520)
    const pieces = speechPieces(loud, RATE)
    expect(pieces.length).toBe(2)
    expect(pieces[0]!.to).toBeGreaterThan(14.9)
    expect(pieces[0]!.to).toBeLessThan(15.3)
  })
  test('of silence, and of nothing, are none', () => {
    expect(cut('......')).toEqual([])
    expect(speechPieces(new Float32Array(0), RATE)).toEqual([])
  })
  test('cover all that is loud, in order, none too long', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom('#', '.'), { minLength: 1, maxLength: 90 }), (seconds) => {
        const text = seconds.join('')
        const pieces = cut(text)
        // Where all is loud, nothing is known to be quiet.
        if (!text.includes('.')) return
        pieces.forEach(({ from, to }, i) => {
          expect(to).toBeGreaterThan(from)
          expect(to - from).toBeLessThanOrEqual(20.4 + 1e-9)
          if (i > 0) expect(from).toBeGreaterThanOrEqual(pieces[i - 1]!.to - 1e-9)
        })
        seconds.forEach((s, i) => {
          if (s === '.') return
          for (let at = i + 0.05; at < i + 1; at += 0.1)
            expect(pieces.some((p) => p.from <= at && p.to >= at)).toBe(true)
        })
      }),
    )
  })
})
