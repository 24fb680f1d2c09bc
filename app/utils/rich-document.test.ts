import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { RichText, Span, TextLine } from '#core/schema/rich-text'
import { fromDocument, toDocument } from './rich-document'

const line = (kind: 'paragraph' | 'bullet' | 'number', text: string, level = 0): TextLine => ({
  ...{ kind, spans: text ? [{ text }] : [] },
  ...(level > 0 && { level }),
})
const through = (rich: RichText) => fromDocument(toDocument(rich))

describe('a text in the editor', () => {
  it('comes back as it went in: lists in lists, marks, formulas and a picture', () => {
    const rich: RichText = [
      line('paragraph', 'Which?'),
      line('paragraph', ''),
      line('bullet', 'snow'),
      line('bullet', 'firn', 1),
      line('number', 'a', 2),
      line('number', 'b', 2),
      line('bullet', 'ice', 1),
      line('bullet', 'rock'),
      line('number', 'first'),
      {
        kind: 'paragraph',
        spans: [
          { text: 'H' },
          { text: '2', marks: ['subscript'] },
          { text: 'O at ' },
          { text: '\\rho = 917', marks: ['formula'] },
          { text: 'bold', marks: ['bold', 'italic'] },
        ],
      },
      { kind: 'picture', file: 'ab'.repeat(32), description: 'A core', width: 640, height: 360 },
    ]
    expect(through(rich)).toEqual(rich)
  })
  it('is empty when nothing is written', () => {
    expect(through([])).toEqual([])
    expect(fromDocument({ type: 'doc', content: [{ type: 'paragraph' }] })).toEqual([])
    expect(through([line('paragraph', ' ')])).toEqual([])
  })
  it('keeps every word, whatever its lines are', () => {
    const anySpan: fc.Arbitrary<Span> = fc.record({
      text: fc.string({ minLength: 1, maxLength: 6 }),
      marks: fc.constantFrom<Span['marks'][]>(['bold'], ['formula'], ['italic', 'code']),
    }) as fc.Arbitrary<Span>
    const anyLine = fc.record({
      kind: fc.constantFrom('paragraph' as const, 'bullet' as const, 'number' as const),
      level: fc.constantFrom(1, 2, 3),
      spans: fc.array(anySpan, { maxLength: 3 }),
    })
    fc.assert(
      fc.property(fc.array(anyLine, { maxLength: 8 }), (rich) => {
        const words = (lines: RichText) =>
          lines.map((l) => (l.kind === 'picture' ? '' : l.spans.map((s) => s.text).join(''))).join('\n')
        const once = through(rich)
        if (words(rich).trim()) expect(words(once)).toBe(words(rich))
        expect(through(once)).toEqual(once)
      }),
    )
  })
})
