import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  breakText,
  fromTyped,
  joinTexts,
  pickWords,
  spansOf,
  speakerOf,
  speakersOf,
  styledWords,
  toTyped,
  withSpeaker,
} from './markup'
import { escapeText, plainText, tokens } from './text'

/** What people type, tags that are right, wrong, crossed and half written among it. */
const typed = fc
  .array(
    fc
      .constantFrom('ice ', '<i>', '</i>', '<b>', '</b>', '<u.x>', '</u>', '<', '>', '&', '&lt;', '\n', '<v Ann>')
      .map((s) => s),
    { maxLength: 12 },
  )
  .map((parts) => parts.join(''))

describe('what is typed', () => {
  it('keeps tags of the standard, closes them in order, and takes the rest as text', () => {
    expect(fromTyped('an <i>erratic</i> & a <till>')).toBe('an <i>erratic</i> &amp; a &lt;till&gt;')
    expect(fromTyped('<i>one <b>two</i> three')).toBe('<i>one <b>two</b></i> three')
    expect(fromTyped('<i>open')).toBe('<i>open</i>')
    expect(fromTyped('shut</i>')).toBe('shut&lt;/i&gt;')
    expect(fromTyped('<v>nobody')).toBe('&lt;v&gt;nobody')
    expect(fromTyped('one\n\n \ntwo\r\n')).toBe('one\ntwo')
  })
  it('is the same when it is typed again', () => {
    fc.assert(
      fc.property(typed, (text) => {
        const cueText = fromTyped(text)
        // Somebody who speaks all of it stands apart.
        expect(withSpeaker(fromTyped(toTyped(cueText)), speakerOf(cueText)).replace(/\s/g, '')).toBe(
          cueText.replace(/\s/g, ''),
        )
      }),
    )
  })
  it('never loses a letter', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 40 }), (text) => {
        const clean = text.replaceAll('\0', '')
        fc.pre(!/<\/?(?:c|i|b|u|ruby|rt|v|lang)[\s.>]|&lt;|<[\d:.]+>/.test(clean))
        expect(plainText(fromTyped(clean))).toBe(plainText(escapeText(clean)))
      }),
    )
  })
  it('shows what reads as a tag and is none as it is written', () => {
    expect(toTyped('&lt;i&gt; &amp; <i>x</i>')).toBe('&lt;i&gt; & <i>x</i>')
    expect(fromTyped('&lt;i&gt; & <i>x</i>')).toBe('&lt;i&gt; &amp; <i>x</i>')
  })
})

describe('who speaks', () => {
  it('is named, renamed and taken away', () => {
    expect(withSpeaker('Look at <i>this</i>', 'Ann & Bo')).toBe('<v Ann &amp; Bo>Look at <i>this</i></v>')
    expect(speakerOf('<v.loud Ann &amp; Bo>Look')).toBe('Ann & Bo')
    expect(withSpeaker('<v Ann>Look</v>', 'Bo')).toBe('<v Bo>Look</v>')
    expect(withSpeaker('<v Ann>Look', ' ')).toBe('Look')
    expect(toTyped('<v Ann>Look</v>')).toBe('Look')
  })
  it('is left in the text where two speak', () => {
    const both = '<v Ann>Look.</v>\n<v Bo>Where?</v>'
    expect(speakerOf(both)).toBe('')
    expect(toTyped(both)).toBe(both)
    expect(speakerOf('<v Ann>Look.</v> And all laughed')).toBe('')
    expect(speakersOf([{ text: both }, { text: '<v Bo>Here' }])).toEqual(['Bo', 'Ann'])
  })
})

describe('some of the words', () => {
  it('keep the tags around them', () => {
    const text = '<v Ann>The <i>basal sliding</i> of\nice'
    expect(pickWords(text, (i) => i < 2)).toBe('<v Ann>The <i>basal</i></v>')
    expect(pickWords(text, (i) => i >= 2)).toBe('<v Ann><i>sliding</i> of ice</v>')
    expect(pickWords(text, (i) => i !== 1 && i !== 2)).toBe('<v Ann>The of ice</v>')
    expect(pickWords('a <00:00:02.000>b <00:00:03.000>c', (i) => i !== 1)).toBe('a <00:00:03.000>c')
    expect(pickWords('a&nbsp;b &amp;c', (i) => i > 0)).toBe('b &amp;c')
  })
  it('are the words that were picked, whatever the tags', () => {
    fc.assert(
      fc.property(typed, fc.array(fc.boolean(), { minLength: 12, maxLength: 12 }), (text, keeps) => {
        const cueText = fromTyped(text)
        const wanted = tokens(cueText).filter((_, i) => keeps[i])
        const picked = pickWords(cueText, (i) => keeps[i] ?? false)
        expect(tokens(picked)).toEqual(wanted)
        expect(withSpeaker(fromTyped(toTyped(picked)), speakerOf(picked))).toBe(picked)
      }),
    )
  })
  it('are broken in two lines with their tags', () => {
    expect(breakText('<i>the loss of ice is called ablation in this course</i>', 42)).toBe(
      '<i>the loss of ice is called\nablation in this course</i>',
    )
    expect(breakText('<i>the</i> loss\nof ice', 42)).toBe('<i>the</i> loss of ice')
  })
  it('are joined, and what was parted reads as before', () => {
    expect(joinTexts('<v Ann>The <i>basal</i></v>', '<v Ann><i>sliding</i> of ice</v>')).toBe(
      '<v Ann>The <i>basal sliding</i> of ice</v>',
    )
    expect(joinTexts('<v Ann>Look.', '<v Bo>Where?</v>')).toBe('<v Ann>Look.</v> <v Bo>Where?</v>')
  })
})

it('is shown in spans', () => {
  expect(spansOf('<v Ann>The <i>ice &amp; <b>snow</b></i></v>')).toEqual([
    { text: 'The ', italic: false, bold: false, underlined: false, speaker: 'Ann' },
    { text: 'ice & ', italic: true, bold: false, underlined: false, speaker: '' },
    { text: 'snow', italic: true, bold: true, underlined: false, speaker: '' },
  ])
})
it('is shown word by word', () => {
  expect(styledWords('The <i>ice</i>berg\nmelts')).toEqual([
    { text: 'The', italic: false },
    { text: 'iceberg', italic: true },
    { text: 'melts', italic: false },
  ])
  fc.assert(
    fc.property(typed, (text) => {
      expect(styledWords(fromTyped(text)).map((w) => w.text)).toEqual(tokens(fromTyped(text)))
    }),
  )
})
