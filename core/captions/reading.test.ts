import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readingBlocks, writeReadingHtml, writeReadingText, type ReadingSource } from './reading'
import { escapeText } from './text'

const said = (from: number, to: number, text: string) => ({ from, to, text })
const lecture: ReadingSource = {
  title: 'Ice & <snow>',
  language: 'en-GB',
  cues: [
    said(0, 2, '<v Ann>Snow falls\nand stays.</v>'),
    said(2, 4, '<v Ann>It becomes <i>firn</i>.</v>'),
    said(6, 8, '<v Bo>How long does that take?</v>'),
    said(8, 10, '<v Ann>[laughs] Years.</v>'),
    said(20, 22, 'Here it is'),
    said(22, 24, 'measured.'),
  ],
  chapters: [{ at: 19, title: 'How it is measured' }],
  pictures: [
    { at: 0, address: 'data:image/webp;base64,AA' },
    { at: 21.5, address: 'data:image/webp;base64,BB' },
  ],
}

describe('captions to read', () => {
  it('are paragraphs by who speaks, pauses, chapters and slides', () => {
    const blocks = readingBlocks(lecture).map((b) => (b.kind === 'said' ? [b.at, b.speaker, b.texts.length] : b.kind))
    expect(blocks).toEqual([
      'picture',
      [0, 'Ann', 2],
      [6, 'Bo', 1],
      [8, 'Ann', 1],
      'chapter',
      [20, '', 1],
      'picture',
      [22, '', 1],
    ])
  })
  it('are plain text, with times or without', () => {
    expect(writeReadingText(lecture, { times: false, pictures: true })).toBe(
      [
        'Ice & <snow>\n============',
        'Ann: Snow falls and stays. It becomes firn.',
        'Bo: How long does that take?',
        'Ann: [laughs] Years.',
        'How it is measured\n------------------',
        'Here it is',
        'measured.\n',
      ].join('\n\n'),
    )
    expect(writeReadingText(lecture, { times: true, pictures: false })).toContain('[0:08] Ann: [laughs]')
  })
  it('are a page in which nothing typed becomes markup', () => {
    const page = writeReadingHtml(lecture, { times: true, pictures: true })
    expect(page).toContain('<html lang="en-GB">')
    expect(page).toContain('<title>Ice &amp; &lt;snow&gt;</title>')
    expect(page).toContain('It becomes <em>firn</em>.')
    expect(page).toContain('<b class="who">Bo:</b> How long')
    expect(page.match(/<img /g)).toHaveLength(2)
    expect(writeReadingHtml(lecture, { times: false, pictures: false })).not.toMatch(/<img|<time/)
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (typed) => {
        const source = { ...lecture, title: typed, cues: [said(0, 1, escapeText(typed))], pictures: [] }
        const written = writeReadingHtml(source, { times: false, pictures: true })
        const known = /<\/?(?:!doctype|html|head|meta|title|style|body|h1|h2|p|time|em|strong|u|b)\b[^<>]*>/g
        expect(written.replace(known, '').replace(/<style>[^]*<\/style>/, '')).not.toMatch(/<[a-z/!]/i)
      }),
    )
  })
  it('loses no word', () => {
    const words = fc.array(fc.constantFrom('ice', 'snow.', 'melt', '[noise]'), { minLength: 1, maxLength: 5 })
    fc.assert(
      fc.property(fc.array(fc.tuple(words, fc.nat(6)), { maxLength: 20 }), (parts) => {
        let at = 0
        const cues = parts.map(([some, pause]) => {
          const from = at + pause
          at = from + 2
          return said(from, at, some.join(' '))
        })
        const text = writeReadingText({ ...lecture, title: 'T', chapters: [], cues }, { times: false, pictures: false })
        expect(text.split(/\s+/).filter(Boolean).slice(2)).toEqual(parts.flatMap(([some]) => some))
      }),
    )
  })
})
