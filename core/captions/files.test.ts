import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { recorded } from '../time/units'
import { encodingOf, isUtf8 } from './encoding'
import { readLanguage, sayLanguage, sayTracks } from './languages'
import { readTimedText, spreadOver } from './plain-text'
import { readCaptionFile } from './read-file'
import { writeSrt } from './srt'
import { plainText } from './text'
import { retime } from './times'
import { newTrack } from './track'
import { readTime, readTtml, writeTtml } from './ttml'
import { readVtt, writeVtt } from './vtt'

let n = 0
const id = () => `c${++n}`
const read = (file: string) => readCaptionFile(file, id, [{ from: recorded(0), to: recorded(10) }])
const says = (file: string) => read(file).cues.map((c) => [c.from, c.to, c.text])
const tt = (body: string, head = '', more = '') =>
  `<?xml version="1.0"?>\n<tt xmlns="http://www.w3.org/ns/ttml" xmlns:tts="http://www.w3.org/ns/ttml#styling" xmlns:ttp="http://www.w3.org/ns/ttml#parameter" xml:lang="fr" ${more}><head>${head}</head><body>${body}</body></tt>`

describe('a file that is wrong in places', () => {
  it('gives its good cues, and names each bad line with the reason: WebVTT', () => {
    const { cues, problems, format } = read(
      'WEBVTT\n\n1\n00:01.000 --> 00:02.000\none\n\n00:03.000 --> 00:0x.000\nbad\n\nnonsense\n\n00:05.000 --> 00:04.000\nback\n\n00:06.000 --> 00:07.000\nsix\n00:08.000 --> 00:09.000\neight\n',
    )
    expect(format).toBe('WebVTT')
    expect(cues.map((c) => c.text)).toEqual(['one', 'six', 'eight'])
    expect(problems.map((p) => [p.line, p.reason.slice(0, 40)])).toEqual([
      [7, 'the end time is not written as 00:00:01.'],
      [10, 'this block is neither a cue (it has no li'.slice(0, 40)],
      [12, 'the cue ends before it starts.'],
      [17, 'an empty line is missing before this cue'],
    ])
  })
  it('gives its good cues, and names each bad line with the reason: SubRip', () => {
    const { cues, problems, format } = read(
      '1\n00:00:01,000 --> 00:00:02,000\none\n2\n00:00:03,000 --> 00:00:04,000\ntwo\n\n3\nno times\n\n4\n00:00:05,000 --> 00:00:06,000\nfive & <i>six</i>\n',
    )
    expect(format).toBe('SubRip')
    expect(cues.map((c) => c.text)).toEqual(['one', 'two', 'five &amp; <i>six</i>'])
    expect(problems.map((p) => p.line)).toEqual([5, 8])
  })
  it('is refused where nothing of it can be read', () => {
    expect(() => read('<svg/>')).toThrow('Line 1: this XML is no TTML')
    for (const page of [
      '<html/>',
      '<!-- a --> <!DOCTYPE html>\n<html><p>00:01.000 --> 00:02.000</p>',
      '\n<HTML lang="en">',
    ])
      expect(() => read(page)).toThrow('Line 1: this is a web page')
    // Noise, however it is decoded, and a picture.
    for (const encoding of ['utf-8', 'windows-1252', 'utf-16le']) {
      const noise = Uint8Array.from({ length: 20_000 }, (_, i) => (i * i * 31 + i * 17 + (i >> 3)) % 256)
      expect(() => read(new TextDecoder(encoding).decode(noise))).toThrow('Line 1: this is not text')
    }
    expect(() => read('\u0089PNG\r\n\u001a\n\u0000\u0000')).toThrow('Line 1: this is not text')
    expect(() => read('<tt xmlns="http://www.w3.org/ns/ttml"><body>')).toThrow(/Line 1: this is not well-formed XML/)
    expect(() => readVtt('', id)).toThrow('Line 1')
  })
})

describe('TTML', () => {
  it.each([
    ['00:00:01.5', 1.5],
    ['01:02:03', 3723],
    ['00:00:01:12', 1.5],
    ['2.5s', 2.5],
    ['1500ms', 1.5],
    ['48f', 2],
    ['3m', 180],
    ['20t', 2],
    ['1:2', null],
    ['x', null],
  ])('takes %s as a time', (text, seconds) => {
    expect(readTime(text, { frameRate: 24, tickRate: 10 })).toBe(seconds)
  })
  it('is refused where it is nested without end', () => {
    const spans = '<span begin="0s">'.repeat(8000) + 'x' + '</span>'.repeat(8000)
    const file = `<tt xmlns="http://www.w3.org/ns/ttml"><body><div><p begin="0s" end="2s">${spans}</p></div></body></tt>`
    expect(() => readTtml(file, () => 'x')).toThrow('nested more than 100 deep')
  })
  it('holds paragraphs with breaks, italics and what stands at the top', () => {
    const head =
      '<styling><style xml:id="i" tts:fontStyle="italic"/></styling><layout><region xml:id="r" tts:displayAlign="before"/></layout>'
    const file = tt(
      '<div begin="10s"><p begin="1s" end="2s">one<br/>two &amp; &lt;three&gt;</p>\n<p begin="3s" dur="1s" region="r"><span style="i">so</span> it\n   goes</p></div>',
      head,
    )
    expect(says(file)).toEqual([
      [11, 12, 'one\ntwo &amp; &lt;three&gt;'],
      [13, 14, '<i>so</i> it goes'],
    ])
    const { language, cues } = readTtml(file, id)
    expect(language).toBe('fr')
    expect(readTtml(file.replace('lang="fr"', 'lang="FR-ca"'), id).language).toBe('fr-CA')
    expect(readTtml(file.replace('lang="fr"', 'lang="x_?"'), id).language).toBeUndefined()
    expect(cues[1]!.settings).toBe('line:0')
  })
  it('has times of its frames, of what holds a paragraph, of spans, and one after the other', () => {
    expect(says(tt('<div><p begin="00:00:01:15" end="00:00:02:00">a</p></div>', '', 'ttp:frameRate="30"'))).toEqual([
      [1.5, 2, 'a'],
    ])
    expect(says(tt('<div timeContainer="seq"><p dur="2s">a</p><p dur="3s">b</p></div>'))).toEqual([
      [0, 2, 'a'],
      [2, 5, 'b'],
    ])
    expect(
      says(
        tt(
          '<div><p begin="1s" end="9s"><span begin="0s" end="1s">a</span><span begin="2s" end="3s">b</span></p></div>',
        ),
      ),
    ).toEqual([
      [1, 2, 'a'],
      [3, 4, 'b'],
    ])
  })
  it('names the line of a paragraph that has no end, and takes the others', () => {
    const { cues, problems } = read(
      tt('\n<div><p begin="1s">a</p>\n<p begin="x" end="3s">b</p>\n<p begin="4s" end="5s">c</p></div>'),
    )
    expect(cues.map((c) => c.text)).toEqual(['b', 'c'])
    expect(problems.map((p) => p.line)).toEqual([3, 4])
  })
  it('expands nothing of its own, so that a small file stays small', () => {
    const bomb = `<!DOCTYPE tt [<!ENTITY a "${'x'.repeat(50)}"><!ENTITY b "&a;&a;&a;">]>${tt('<div><p begin="1s" end="2s">&b;</p></div>').slice(22)}`
    expect(() => read(bomb)).toThrow(/entity/)
  })
})

describe('text', () => {
  it('with times lasts until the next piece, or as long as it takes to read', () => {
    expect(says('[0:01] Ice\n0:03.5 - 0:05 Snow\nand more snow\n(00:00:09) The end')).toEqual([
      [1, 2, 'Ice'],
      [3.5, 5, 'Snow and more snow'],
      [9, 10, 'The end'],
    ])
  })
  it('that is long between two times becomes several cues inside them', () => {
    const { cues } = readTimedText(`0:00 ${'Water finds its way under the ice. '.repeat(10)}\n0:40 End`, id)
    expect(cues.length).toBeGreaterThan(5)
    expect(cues.at(-2)!.to).toBeLessThanOrEqual(40)
    for (const c of cues) expect(Math.max(...c.text.split('\n').map((l) => l.length))).toBeLessThanOrEqual(42)
  })
  it('without times lies where somebody speaks, in its order', () => {
    const speech = [
      { from: recorded(2), to: recorded(4) },
      { from: recorded(10), to: recorded(14) },
    ]
    const words = spreadOver(['aaaa', 'bbbb', 'cccc', 'dddd', 'eeee', 'ffff'], speech)
    expect(words.map((w) => [w.from, w.to])).toEqual([
      [2, 3],
      [3, 4],
      [10, 11],
      [11, 12],
      [12, 13],
      [13, 14],
    ])
    const { cues, format } = readCaptionFile('Ice moves.\nIt slides.', id, speech)
    expect(format).toBe('text without times')
    expect(cues.map((c) => c.text).join(' ')).toBe('Ice moves. It slides.')
    expect(readCaptionFile('Ice', id).cues).toEqual([])
  })
  it('keeps every word, whatever the stretches', () => {
    const range = fc.tuple(fc.double({ min: 0.1, max: 30, noNaN: true }), fc.double({ min: 0, max: 9, noNaN: true }))
    fc.assert(
      fc.property(
        fc.array(fc.stringMatching(/^[a-z]{1,12}$/), { minLength: 1 }),
        fc.array(range, { minLength: 1 }),
        (words, gaps) => {
          let at = 0
          const ranges = gaps.map(([long, gap]) => {
            const from = at + gap
            at = from + long
            return { from: recorded(from), to: recorded(at) }
          })
          const spread = spreadOver(words, ranges)
          expect(spread.map((w) => w.text)).toEqual(words)
          spread.forEach((w, i) => {
            expect(w.to).toBeGreaterThanOrEqual(w.from)
            expect(w.from).toBeGreaterThanOrEqual((spread[i - 1]?.from ?? 0) - 1e-9)
          })
        },
      ),
    )
  })
})

describe('a language', () => {
  it('is told by its tag, whatever that is', () => {
    expect([readLanguage('EN-gb'), readLanguage('zh-hans'), readLanguage('english'), readLanguage('x')]).toEqual([
      'en-GB',
      'zh-Hans',
      null,
      null,
    ])
    expect([sayLanguage('fr'), sayLanguage('fr', 'fr'), sayLanguage('pt-BR')]).toEqual([
      'French',
      'français',
      'Brazilian Portuguese',
    ])
    for (const tag of ['12', 'en-abcd-abcd', '', 'no such', 'en--gb']) expect(sayLanguage(tag, tag)).toBe(tag)
    expect(sayTracks([])).toBe('no captions')
    expect(sayTracks([{ language: 'en' }])).toBe('captions')
    expect(sayTracks([{ language: 'en' }, { language: 'fr', role: 'translation' }])).toBe(
      'English captions, French translation',
    )
  })
})

describe('an encoding', () => {
  const utf16 = (text: string, little: boolean) =>
    Uint8Array.from(
      [...text].flatMap((c) =>
        little ? [c.charCodeAt(0) & 255, c.charCodeAt(0) >> 8] : [c.charCodeAt(0) >> 8, c.charCodeAt(0) & 255],
      ),
    )
  it.each([
    ['utf-8', new TextEncoder().encode('Où l’eau va – über')],
    ['utf-8', new TextEncoder().encode('plain')],
    ['utf-8', new Uint8Array()],
    ['windows-1252', Uint8Array.from([0x4f, 0xf9, 0x20, 0x93, 0x65, 0x94])],
    ['utf-16le', Uint8Array.from([0xff, 0xfe, 0x41, 0])],
    ['utf-16be', Uint8Array.from([0xfe, 0xff, 0, 0x41])],
    ['utf-16le', utf16('1\n00:00:01,000', true)],
    ['utf-16be', utf16('WEBVTT\n\n00:01', false)],
  ] as const)('%s is told from its bytes', (encoding, bytes) => {
    expect(encodingOf(bytes)).toBe(encoding)
  })
  it('is UTF-8 exactly where a strict decoder reads it', () => {
    const strict = (bytes: Uint8Array) => {
      try {
        new TextDecoder('utf-8', { fatal: true }).decode(bytes)
        return true
      } catch {
        return false
      }
    }
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 6 }), (bytes) => isUtf8(bytes) === strict(bytes)),
      { numRuns: 3000 },
    )
    const leads = fc.constantFrom(0xc1, 0xc2, 0xe0, 0xed, 0xef, 0xf0, 0xf4, 0xf5, 0x80, 0x9f, 0xa0, 0x8f, 0x90, 0x41)
    fc.assert(
      fc.property(
        fc.array(leads, { maxLength: 6 }),
        (list) => isUtf8(Uint8Array.from(list)) === strict(Uint8Array.from(list)),
      ),
      { numRuns: 3000 },
    )
  })
})

/** Words of cues as a reader sees them. */
const line = fc.stringMatching(/^[a-zA-Z&<>é“”.,']{1,12}( [a-zA-Z&<>é“”.,']{1,12}){0,4}$/)
const anyCues = fc
  .array(fc.tuple(fc.integer({ min: 100, max: 5000 }), fc.integer({ min: 0, max: 3000 }), line, fc.boolean()), {
    minLength: 1,
    maxLength: 30,
  })
  .map((list) => {
    let at = 0
    return list.map(([long, gap, text, italic]) => {
      const from = at + gap
      at = from + long
      const escaped = text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;')
      return {
        id: id(),
        from: recorded(from / 1000),
        to: recorded(at / 1000),
        text: italic ? `<i>${escaped}</i>` : escaped,
      }
    })
  })

describe('a way through all formats', () => {
  it('keeps words, italics and times', () => {
    fc.assert(
      fc.property(anyCues, (cues) => {
        const track = newTrack({ cues }, 'person')
        const told = (of: readonly { from: number; to: number; text: string }[]) =>
          of.map((c) => [Math.round(1000 * c.from), Math.round(1000 * c.to), c.text])
        const vtt = readVtt(writeVtt(track), id).cues
        expect(told(vtt)).toEqual(told(cues))
        const ttml = readTtml(writeTtml({ language: 'en', cues: vtt }), id).cues
        expect(told(ttml)).toEqual(told(cues))
        // SubRip has no way to say a bracket that is no tag.
        const sayable = ttml.filter((c) => !/&[lg]t;/.test(c.text))
        if (sayable.length === 0) return
        const srt = readCaptionFile(writeSrt({ cues: sayable }), id)
        expect([srt.format, srt.problems]).toEqual(['SubRip', []])
        expect(told(srt.cues)).toEqual(told(sayable))
      }),
    )
  })
})

/** A file with something in it changed, as damage and hands do. */
function mutate(file: string, random: () => number): string {
  const at = Math.floor(random() * file.length)
  const long = Math.floor(random() * 12)
  const pieces = [
    '-->',
    '\n\n',
    '\n',
    '<',
    '>',
    '&',
    '&amp',
    '\0',
    '00:',
    '0x',
    '💧',
    '</p>',
    '<p begin="2s">',
    'NOTE',
    ' ',
    '\u2028',
  ]
  const piece = pieces[Math.floor(random() * pieces.length)] ?? ''
  const how = random()
  if (how < 0.4) return file.slice(0, at) + file.slice(at + long)
  if (how < 0.7) return file.slice(0, at) + piece + file.slice(at)
  if (how < 0.85) return file.slice(0, at) + file.slice(at, at + 40) + file.slice(at)
  return file.slice(0, at)
}
/** mulberry32 */
function seeded(seed: number): () => number {
  return () => {
    seed = (seed + 0x6d2b79f5) | 0
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296
  }
}

describe('damaged files', () => {
  const cues = Array.from({ length: 12 }, (_, i) => ({
    ...{ id: `m${i}`, from: recorded(2 * i), to: recorded(2 * i + 1.5) },
    text: `mark${i}end of <i>ice</i> &amp; snow`,
  }))
  const track = newTrack({ cues }, 'person')
  const text = cues.map((_, i) => `0:${String(2 * i).padStart(2, '0')} mark${i}end of ice`).join('\n')
  it.each([
    ['WebVTT', writeVtt(track)],
    ['SubRip', writeSrt(track)],
    ['TTML', writeTtml({ language: 'en', cues })],
    ['text', text],
  ])('300 of %s are read or refused, at once, and no cue is lost in silence', (_, file) => {
    const random = seeded(7)
    for (let round = 0; round < 300; round++) {
      let bad = file
      for (let k = Math.floor(random() * 3); k >= 0; k--) bad = mutate(bad, random)
      const began = performance.now()
      let found: ReturnType<typeof readCaptionFile> | null = null
      try {
        found = readCaptionFile(bad, id, [{ from: recorded(0), to: recorded(60) }])
      } catch (error) {
        expect((error as Error).name).toBe('CaptionFileError')
        expect((error as Error).message).toMatch(/^Line \d+: \S/)
      }
      expect(performance.now() - began).toBeLessThan(1000)
      if (!found || found.problems.length > 0) continue
      // What still stands in the file as words is in a cue, when nothing was said to be wrong.
      const shown = found.cues.map((c) => plainText(c.text).replace(/\s+/g, ' ')).join(' ')
      for (let i = 0; i < 12; i++) if (bad.includes(`mark${i}end of`)) expect(shown, bad).toContain(`mark${i}end of`)
    }
  })
})

describe('times that sit wrongly', () => {
  const word = { text: 'ice', from: recorded(2), to: recorded(3), confidence: 1 }
  const track = newTrack(
    {
      cues: [
        { id: 'a', from: recorded(2), to: recorded(3), text: 'ice', words: [word] },
        { id: 'b', from: recorded(10), to: recorded(12), text: 'snow' },
      ],
    },
    'file',
  )
  const times = (cues: readonly { from: number; to: number }[]) => cues.map((c) => [c.from, c.to])
  it('are shifted by one point, and stretched by two, with their words', () => {
    const shifted = retime(track, { now: 2, belongs: 5 }, null, 60).cues
    expect(times(shifted)).toEqual([
      [5, 6],
      [13, 15],
    ])
    expect(shifted[0]!.words).toEqual([{ ...word, from: 5, to: 6 }])
    expect(times(retime(track, { now: 2, belongs: 4 }, { now: 10, belongs: 20 }, 60).cues)).toEqual([
      [4, 6],
      [20, 24],
    ])
  })
  it('are not moved out of the recording, nor turned around', () => {
    expect(() => retime(track, { now: 2, belongs: 55 }, null, 60)).toThrow('One cue would lie outside the recording')
    expect(() => retime(track, { now: 10, belongs: 2 }, null, 60)).toThrow('One cue would lie outside')
    expect(() => retime(track, { now: 2, belongs: 4 }, { now: 10, belongs: 3 }, 60)).toThrow('in the same order')
    expect(() => retime(track, { now: 2, belongs: 4 }, { now: 2, belongs: 4 }, 60)).toThrow('have to be apart')
  })
})
