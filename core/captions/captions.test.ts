import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { CaptionTrack, Cue, Word } from '../schema/captions'
import { buildTimeMap } from '../time/time-map'
import { recorded } from '../time/units'
import { checkCues } from './checks'
import { doubtsOf } from './doubts'
import { cueAt } from './lookup'
import { readCaptionFile } from './read-file'
import { breakLines, captionLimits, reflow } from './reflow'
import { readSrt, writeSrt } from './srt'
import { escapeText, plainText, tokens } from './text'
import { setTimes } from './times'
import {
  addCue,
  checkedShare,
  confirmCue,
  deleteCue,
  joinWithNext,
  newTrack,
  nextUnchecked,
  projectCues,
  readTrack,
  realignWords,
  setState,
  setText,
  splitCue,
} from './track'
import { CaptionFileError, readVtt, writeVtt } from './vtt'

const ids = () => {
  let n = 0
  return () => `c${++n}`
}
const word = (text: string, from: number, to: number, confidence = 0.9): Word => ({
  text,
  from: recorded(from),
  to: recorded(to),
  confidence,
})
const cue = (id: string, from: number, to: number, text: string, words?: Word[]): Cue => ({
  id,
  from: recorded(from),
  to: recorded(to),
  text,
  ...(words && { words }),
})
const track = (...cues: Cue[]): CaptionTrack => newTrack({ cues }, 'person')

/**
 * Uses what the standard allows and few files have: a header text, STYLE, REGION and NOTE blocks, ids, settings, tags,
 * references.
 */
const rich = `WEBVTT Meltwater, first draft
Kind: captions

STYLE
::cue(b) { color: gold }

REGION
id:top
width:40%

NOTE
checked up to here
by the helper

intro
00:00:01.000 --> 00:00:03.500 align:start line:0 region:top
<v Speaker>Today we follow <b>the water</b></v>
&amp; where it goes &lt;down&gt;

00:04.000 --> 00:06.000
second

NOTE the end
`

describe('WebVTT', () => {
  it('keeps settings, tags, ids, notes, styles and the header through a read and a write', () => {
    const file = readVtt(rich, ids())
    expect(file.cues[0]).toMatchObject({ from: 1, to: 3.5, name: 'intro', settings: 'align:start line:0 region:top' })
    expect(plainText(file.cues[0]?.text ?? '')).toBe('Today we follow the water\n& where it goes <down>')
    expect(writeVtt(file)).toBe(rich.replace('00:04.000 --> 00:06.000', '00:00:04.000 --> 00:00:06.000'))
    expect(readVtt(writeVtt(file), ids())).toEqual(file)
  })
  it('takes every line ending and a byte order mark', () => {
    for (const end of ['\r\n', '\r']) expect(readVtt('\ufeff' + rich.replaceAll('\n', end), ids()).cues).toHaveLength(2)
  })
  it.each([
    ['no signature', 'hello\n', 1, /begin with the word WEBVTT/],
    ['a signature that goes on', 'WEBVTTX\n', 1, /WEBVTT/],
    ['a bad time', 'WEBVTT\n\n00:01 --> 00:02.000\nx\n', 3, /start time/],
    ['minutes over 59', 'WEBVTT\n\n00:61:00.000 --> 00:62:00.000\nx\n', 3, /start time/],
    ['an end before its start', 'WEBVTT\n\n00:03.000 --> 00:02.000\nx\n', 3, /ends before/],
    ['a missing empty line', 'WEBVTT\n\n00:01.000 --> 00:02.000\nx\n00:03.000 --> 00:04.000\ny\n', 5, /empty line/],
    ['text that is no cue', 'WEBVTT\n\njust words\n', 3, /neither a cue/],
    ['a cue in the header', 'WEBVTT\n00:01.000 --> 00:02.000\nx\n', 2, /empty line/],
    ['no space around the arrow', 'WEBVTT\n\n00:01.000-->00:02.000\nx\n', 3, /have to be written/],
  ])('names line and reason for %s', (_, file, line, reason) => {
    try {
      readVtt(file, ids())
      expect.unreachable()
    } catch (error) {
      expect(error).toBeInstanceOf(CaptionFileError)
      expect((error as CaptionFileError).line).toBe(line)
      expect((error as CaptionFileError).reason).toMatch(reason)
    }
  })
  it('reads back whatever text a person types', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (typed) => {
        const text = escapeText(typed.replaceAll('\0', ''))
        const back = readVtt(writeVtt({ cues: [cue('c1', 1, 2, text)] }), ids()).cues[0]?.text
        expect(back).toBe(text)
      }),
    )
  })
})

describe('SubRip', () => {
  const srt =
    '1\r\n00:00:01,000 --> 00:00:02,500\r\n<i>Ice</i> & <font color="red">snow</font>\r\n\r\n2\r\n00:00:03,000 --> 00:00:04,000\r\ntwo\r\nlines\r\n'
  it('reads tags it knows as tags and everything else as text', () => {
    const { cues } = readSrt(srt, ids())
    expect(cues.map((c) => [c.from, c.to])).toEqual([
      [1, 2.5],
      [3, 4],
    ])
    expect(cues[0]?.text).toBe('<i>Ice</i> &amp; &lt;font color="red"&gt;snow&lt;/font&gt;')
    expect(writeSrt({ cues })).toBe(srt)
  })
  it('is told apart from WebVTT by its own first line', () => {
    expect(readCaptionFile(srt, ids()).cues).toHaveLength(2)
    expect(readCaptionFile(rich, ids()).cues).toHaveLength(2)
  })
  it.each([
    ['nothing', '', 1, /no cue/],
    ['words', 'hello there\n', 1, /times of a cue/],
    ['a bad end', '1\n00:00:01,000 --> soon\nx\n', 2, /end time/],
    [
      'a cue run into the next',
      '1\n00:00:01,000 --> 00:00:02,000\nx\n00:00:03,000 --> 00:00:04,000\n',
      4,
      /empty line/,
    ],
  ])('names line and reason for %s', (_, file, line, reason) => {
    expect(() => readSrt(file, ids())).toThrow(reason)
    expect(() => readSrt(file, ids())).toThrow(`Line ${line}:`)
  })
})

describe('text', () => {
  it('resolves references and leaves unknown ones', () => {
    expect(plainText('a &amp; b &#65; &#x42; &nope; <c.loud>x</c>')).toBe('a & b A B &nope; x')
    expect(tokens('<b>two</b>\nlines  here')).toEqual(['two', 'lines', 'here'])
  })
})

describe('reflow', () => {
  const many = Array.from({ length: 120 }, (_, i) => word(`word${i}`, i * 0.4, i * 0.4 + 0.35))
  it('holds cues to two lines, to their length and to the speech', () => {
    const cues = reflow(many, ids())
    expect(cues.flatMap((c) => c.words ?? [])).toEqual(many)
    for (const c of cues) {
      const lines = c.text.split('\n')
      expect(lines.length).toBeLessThanOrEqual(2)
      for (const l of lines) expect(l.length).toBeLessThanOrEqual(captionLimits.lineLength)
      expect(c.to - c.from).toBeLessThanOrEqual(captionLimits.longest + 1e-9)
    }
    expect(checkCues(cues).filter((p) => p.kind === 'overlap')).toEqual([])
  })
  it('breaks at a pause, and shows a short word long enough to be read', () => {
    const cues = reflow([word('yes', 0, 0.2), word('later', 3, 3.4)], ids())
    expect(cues.map((c) => [c.from, c.to])).toEqual([
      [0, 1],
      [3, 4],
    ])
  })
  it('ends a cue where a sentence ends, unless that leaves next to nothing', () => {
    const said = 'Yes. The glacier moves under its weight. Next we drill'
      .split(' ')
      .map((w, i) => word(w, i * 0.4, i * 0.4 + 0.4))
    expect(reflow(said, ids()).map((c) => c.text.replace('\n', ' '))).toEqual([
      'Yes. The glacier moves under its weight.',
      'Next we drill',
    ])
  })
  it('breaks lines evenly', () => {
    expect(breakLines('the loss of ice is called ablation in this course'.split(' '), 42)).toBe(
      'the loss of ice is called\nablation in this course',
    )
  })
})

describe('correcting captions', () => {
  const heard = cue('a', 0, 3, 'nail biter of ice', [
    word('nail', 0, 0.5, 0.01),
    word('biter', 0.5, 1, 0.02),
    word('of', 1.5, 2),
    word('ice', 2, 3),
  ])
  it('keeps the times of words that stay and shares the rest among new ones', () => {
    const words = realignWords(heard, 'meltwater of Ice')
    expect(words.map((w) => [w.text, w.from, w.to, w.confidence])).toEqual([
      ['meltwater', 0, 1.5, 1],
      ['of', 1.5, 2, 0.9],
      ['Ice', 2, 3, 1],
    ])
  })
  it('always gives words in order, inside the cue, one for each word typed', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('nail', 'biter', 'of', 'ice', 'snow', 'melt'), { maxLength: 9 }),
        (typed) => {
          const words = realignWords(heard, typed.join(' '))
          expect(words.map((w) => w.text)).toEqual(typed)
          words.forEach((w, i) => {
            expect(w.to).toBeGreaterThanOrEqual(w.from)
            expect(w.from).toBeGreaterThanOrEqual(words[i - 1]?.to ?? 0)
            expect(w.to).toBeLessThanOrEqual(3)
          })
        },
      ),
    )
  })
  it('marks doubtful words until a person has confirmed them', () => {
    expect(doubtsOf(heard).map((d) => d.word.text)).toEqual(['nail', 'biter'])
    const confirmed = confirmCue(track(heard, cue('b', 4, 5, 'snow')), 'a')
    expect(doubtsOf(confirmed.cues[0] as Cue)).toEqual([])
    expect(checkedShare(confirmed)).toBe(0.5)
    expect([nextUnchecked(confirmed.cues, 'a')?.id, nextUnchecked(confirmed.cues, 'b')?.id]).toEqual(['b', 'b'])
    expect(nextUnchecked(confirmCue(confirmed, 'b').cues, null)).toBeUndefined()
  })
  it('takes typed tags of WebVTT as tags, and everything else as text', () => {
    expect(setText(track(heard), 'a', '<b>1 & 2</b> <loud>').cues[0]?.text).toBe('<b>1 &amp; 2</b> &lt;loud&gt;')
  })
  it('does not touch markup from a file when the text was not changed', () => {
    const t = track(cue('a', 0, 1, '<b>x</b>'))
    expect(setText(t, 'a', '<b>x</b>').cues[0]?.text).toBe('<b>x</b>')
  })
  it('splits at a word’s own time and joins again', () => {
    const split = splitCue(track(heard), 'a', 2, 'b')
    expect(split.cues.map((c) => [c.id, c.from, c.to, c.text])).toEqual([
      ['a', 0, 1.5, 'nail biter'],
      ['b', 1.5, 3, 'of ice'],
    ])
    const joined = joinWithNext(split, 'a')
    expect(joined.cues).toEqual([heard])
    for (const at of [0, 4]) expect(() => splitCue(track(heard), 'a', at, 'b')).toThrow(/between two words/)
  })
  it('splits in proportion where no word times are known', () => {
    expect(splitCue(track(cue('a', 0, 10, 'aaaa bbbbb')), 'a', 1, 'b').cues[0]?.to).toBeCloseTo(4, 5)
  })
  it('adds, moves and deletes, keeping cues in order and notes in the file', () => {
    let t = track(
      cue('a', 1, 2, 'one'),
      { ...cue('b', 3, 4, 'two'), before: ['NOTE mind this'] },
      cue('c', 5, 6, 'three'),
    )
    t = addCue(t, 'n', recorded(2), recorded(3))
    t = setTimes(t, 'a', { from: recorded(7), to: recorded(8) })
    expect(t.cues.map((c) => c.id)).toEqual(['n', 'b', 'c', 'a'])
    t = deleteCue(t, 'b')
    expect(t.cues.find((c) => c.id === 'c')?.before).toEqual(['NOTE mind this'])
    expect(() => setTimes(t, 'a', { from: recorded(8), to: recorded(8) })).toThrow(/end after/)
    expect(() => addCue(t, 'x', recorded(4), recorded(4))).toThrow(/no room/)
    expect(() => deleteCue(t, 'b')).toThrow(/not there/)
  })
  it('a correction does not switch captions off', () => {
    expect(setText(setState(track(heard), 'on'), 'a', 'meltwater').state).toBe('on')
  })
})

describe('captions and the cut', () => {
  const map = buildTimeMap(recorded(20), [{ from: recorded(4), to: recorded(8) }])
  it('keep their place in what is said, and what is lost is reported', () => {
    const cues = [cue('a', 1, 3, 'stays'), cue('b', 5, 7, 'goes'), cue('c', 10, 12, 'moves')]
    const projected = projectCues(map, cues)
    expect(projected.cues.map((c) => [c.id, c.from, c.to])).toEqual([
      ['a', 1, 3],
      ['c', 6, 8],
    ])
    expect(projected.lost.map((l) => [l.cue.id, l.lost, l.whole])).toEqual([['b', 2, true]])
  })
  it('of a cue cut through, only words that are still said are shown', () => {
    const cut = cue('a', 3, 6, 'kept word gone', [word('kept', 3, 3.4), word('word', 3.4, 3.9), word('gone', 5, 6)])
    const { cues, lost } = projectCues(map, [cut])
    expect(cues.map((c) => [c.text, c.from, c.to])).toEqual([['kept word', 3, 4]])
    expect(lost).toMatchObject([{ lost: 2, whole: false }])
  })
  it('keep words that are heard, or shown, beyond the end of the recording', () => {
    const last = cue('a', 19, 21, 'to the end', [word('to', 19, 19.2), word('the', 19.2, 19.9), word('end', 20.2, 21)])
    const { cues, lost } = projectCues(map, [last, cue('b', 20.5, 21, 'behind it')])
    expect(cues.map((c) => [c.text, c.from, c.to])).toEqual([['to the end', 15, 16]])
    expect(lost.map((l) => [l.cue.id, l.whole])).toEqual([['b', true]])
    // Cut before it, what is heard beyond the end stays, and what is cut does not.
    const shorter = buildTimeMap(recorded(20), [{ from: recorded(19.15), to: recorded(19.95) }])
    expect(projectCues(shorter, [last]).cues.map((c) => c.text)).toEqual(['to end'])
  })
  it('are not shown over what is put in: each part has its own words', () => {
    const put = buildTimeMap(recorded(20), [], [{ id: 'film', at: recorded(5), length: 60 }])
    const parted = cue('a', 4, 7, 'before it after it', [
      word('before', 4, 4.4),
      word('it', 4.4, 4.8),
      word('after', 5.2, 6),
      word('it', 6, 7),
    ])
    const { cues, lost } = projectCues(put, [parted, cue('b', 4.5, 5.5, 'no words known')])
    expect(cues.map((c) => [c.id, c.text, c.from, c.to])).toEqual([
      ['a', 'before it', 4, 5],
      ['a-2', 'after it', 65, 67],
      ['b', 'no words known', 4.5, 5],
      ['b-2', 'no words known', 65, 65.5],
    ])
    expect(lost).toEqual([])
  })
  it('never show a cue outside the result', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.integer({ min: 0, max: 190 }), fc.integer({ min: 1, max: 40 }))), (pairs) => {
        const cues = pairs.map(([a, n], i) => cue(`c${i}`, a / 10, Math.min(20, (a + n) / 10), 'x'))
        for (const c of projectCues(map, cues).cues) {
          expect(c.from).toBeGreaterThanOrEqual(0)
          expect(c.to).toBeLessThanOrEqual(map.length + 1e-9)
          expect(c.to).toBeGreaterThan(c.from)
        }
      }),
    )
  })
})

describe('finding', () => {
  const cues = [
    cue('a', 0, 2, 'The <b>moulin</b> is deep'),
    cue('b', 1, 3, 'Water falls'),
    cue('c', 4, 5, 'deep water'),
  ]
  it('by time gives the later of two that overlap', () => {
    expect([cueAt(cues, 0.5)?.id, cueAt(cues, 1.5)?.id, cueAt(cues, 3.5)?.id]).toEqual(['a', 'b', undefined])
  })
})

describe('checks', () => {
  it('name every fault of a cue', () => {
    const long = 'x'.repeat(50)
    const kinds = checkCues([cue('a', 0, 1, `${long}\ntwo\nthree`), cue('b', 0.5, 3, ''), cue('c', 3, 9, 'fine')]).map(
      (p) => `${p.cueId} ${p.kind}`,
    )
    expect(kinds).toEqual(['a long-line', 'a many-lines', 'a fast', 'a overlap', 'b empty'])
  })
})

describe('reading a caption track', () => {
  it('takes its own output and refuses what cannot be', () => {
    const t = track(cue('a', 1, 2, 'x'))
    expect(readTrack(JSON.parse(JSON.stringify(t)))).toEqual(t)
    expect(() => readTrack({ ...t, cues: [cue('a', 2, 1, 'x')] })).toThrow(/ends before it starts/)
    expect(() => readTrack({ ...t, state: 'almost' })).toThrow(/caption track/)
  })
})
