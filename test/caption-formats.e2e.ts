/** The standard's cases, and what Thaw writes, put to the browser's own WebVTT parser and to ffmpeg. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { fileCases, textCases } from '../core/captions/webvtt-cases'
import { breakText, fromTyped, withSpeaker } from '../core/captions/markup'
import { standingOf } from '../core/captions/position'
import { plainText } from '../core/captions/text'
import { readSrt, writeSrt } from '../core/captions/srt'
import { readTtml, writeTtml } from '../core/captions/ttml'
import { newTrack } from '../core/captions/track'
import { readVtt, writeVtt } from '../core/captions/vtt'
import { recorded } from '../core/time/units'
import { person, type Person } from './person'
import { served } from './served'

interface Parsed {
  from: number
  to: number
  id: string
  text: string
  /** What is seen of it. */
  seen: string
  line: number | 'auto'
  lines: boolean
  align: string
}

let who: Person
beforeAll(async () => {
  who = await person({ devices: false })
  await who.go(`${served.courseSite}/`)
})
afterAll(() => who.leave())

/** Has the browser parse a file. */
const parse = (file: string): Promise<Parsed[]> =>
  who.page.evaluate(async (text) => {
    const video = document.createElement('video')
    const track = document.createElement('track')
    track.kind = 'captions'
    track.src = `data:text/vtt;charset=utf-8,${encodeURIComponent(text)}`
    video.append(track)
    document.body.append(video)
    track.track.mode = 'hidden'
    await new Promise((resolve) => {
      track.onload = track.onerror = resolve
    })
    const cues = [...(track.track.cues ?? [])] as VTTCue[]
    video.remove()
    return cues.map((c) => ({
      ...{ from: c.startTime, to: c.endTime, id: c.id, text: c.text, seen: c.getCueAsHTML().textContent ?? '' },
      ...{ line: c.line, lines: c.snapToLines, align: c.align },
    }))
  }, file)

describe('the browser’s parser', () => {
  test.each(fileCases)('$name', async ({ file, cues, stands, id }) => {
    const parsed = await parse(file)
    const byStart = parsed.map((c) => [c.from, c.to, c.text]).sort((a, b) => Number(a[0]) - Number(b[0]))
    expect(byStart).toEqual(cues)
    if (id) expect(parsed[0]?.id).toBe(id)
    if (stands) {
      const { line, lines, align } = parsed[0]!
      const isTop = typeof line === 'number' && (lines ? line >= 0 : line < 50)
      expect(isTop ? 'top' : 'foot').toBe(stands.line)
      expect({ start: 'left', end: 'right' }[align] ?? align).toBe(stands.align)
    }
  })

  test('sees of cue texts what Thaw sees', async () => {
    const file = `WEBVTT\n\n${textCases.map(({ text }, i) => `00:0${Math.floor(i / 10)}:${10 + (i % 10)}.000 --> 00:01:00.000\n${text}\n`).join('\n')}`
    const parsed = (await parse(file)).sort((a, b) => a.from - b.from)
    expect(parsed.map((c) => c.seen)).toEqual(textCases.map((c) => c.seen))
  })

  test('reads all that Thaw writes, as it was written', async () => {
    const typed = [
      'ice & <i>snow</i>',
      'R&D <3',
      '<b>a</b> -- > b',
      '&lt;i&gt;',
      'שלג ⛄',
      '[applause]',
      'a\nb',
      '<v Bo>one</v> two',
    ]
    const cues = Array.from({ length: 64 }, (_, i) => ({
      id: `c${i}`,
      from: recorded(3.333 * i),
      to: recorded(3.333 * i + 2.1),
      text: breakText(withSpeaker(fromTyped(typed[i % typed.length]!), i % 3 ? '' : 'Ann & Co'), 42),
      ...(i % 4 === 0 && { settings: i % 8 ? 'line:0 align:left' : 'align:right' }),
    }))
    const file = writeVtt({ cues })
    const parsed = await parse(file)
    expect(parsed.map((c) => c.seen)).toEqual(cues.map((c) => plainText(c.text)))
    parsed.forEach((c, i) => {
      expect(Math.abs(c.from - cues[i]!.from)).toBeLessThan(0.0006)
      expect(Math.abs(c.to - cues[i]!.to)).toBeLessThan(0.0006)
      expect(c.line === 0 ? 'top' : 'foot').toBe(standingOf(cues[i]!).line)
    })
    let n = 0
    expect(readVtt(file, () => `c${n++}`).cues.map((c) => c.text)).toEqual(cues.map((c) => c.text))
  })
})

describe('ffmpeg', () => {
  const folder = mkdtempSync(join(tmpdir(), 'thaw-formats-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  const said = [
    'ice & snow',
    'it <i>creeps</i>, and',
    'two lines\nof words',
    '[applause]',
    'שלג ⛄',
    'R&D is 3 > 2',
    'the <b>end</b>',
  ]
  const track = newTrack(
    {
      cues: said.map((typed, i) => ({
        ...{ id: `c${i}`, from: recorded(1 + 3.5 * i), to: recorded(3.25 + 3.5 * i) },
        text: fromTyped(typed),
      })),
    },
    'person',
  )
  /** Has ffmpeg read a file and write it in another format. */
  const through = (text: string, from: string, to: string): string => {
    const [file, out] = [join(folder, `in.${from}`), join(folder, `out.${to}`)]
    writeFileSync(file, text)
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', file, out])
    return readFileSync(out, 'utf8')
  }
  const times = (cues: readonly { from: number; to: number }[]) =>
    cues.map((c) => [c.from, c.to].map((t) => Math.round(1000 * t)))
  const seen = (cues: readonly { text: string }[]) => cues.map((c) => plainText(c.text))
  let n = 0
  const id = () => `x${n++}`

  test.each([
    ['WebVTT', writeVtt(track), 'vtt', 'srt', (text: string) => readSrt(text, id)],
    ['SubRip', writeSrt(track), 'srt', 'vtt', (text: string) => readVtt(text, id)],
    ['WebVTT', writeVtt(track), 'vtt', 'vtt', (text: string) => readVtt(text, id)],
    ['SubRip', writeSrt(track), 'srt', 'srt', (text: string) => readSrt(text, id)],
    ['WebVTT', writeVtt(track), 'vtt', 'ttml', (text: string) => readTtml(text, id)],
  ] as const)('reads the %s that Thaw writes, and Thaw what it makes of it (%#)', (_, text, from, to, read) => {
    const { cues } = read(through(text, from, to))
    expect(times(cues)).toEqual(times(track.cues))
    expect(seen(cues)).toEqual(seen(track.cues))
    // ffmpeg's own TTML says nothing of italics.
    if (to !== 'ttml') expect(cues[1]?.text).toMatch(/<i>creeps<\/i>/)
  })
  test('and the two read the same out of TTML', () => {
    const { cues } = readTtml(writeTtml(track), id)
    expect(times(cues)).toEqual(times(track.cues))
    expect(seen(cues)).toEqual(seen(track.cues))
  })
})
