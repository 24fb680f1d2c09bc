/**
 * Text inside an MP4, in tracks that are added to its index. Their samples stand just behind the index, in room that was kept
 * for them.
 *
 * - Chapters: a track of titles, named as chapters by the tracks of picture and sound: QTFF (2016), “Chapter Lists” and “Text
 *   Media”, which players of many kinds read, as does ffmpeg.
 * - Captions: 3GPP timed text (3GPP TS 26.245), the form that players of MP4 read, rather than WebVTT in MP4 (ISO/IEC
 *   14496-30), which most take for data.
 *
 *     moov ( mvhd │ trak ( tkhd │ tref: chap = 4 │ … ) │ … │ trak 3: tx3g │ trak 4: text ) │ mdat: captions, titles │ mdat: the film
 */
import { utf8 } from '../text/utf8'
import { styledLines, type StyledLine } from '../captions/styled'

/** Ticks a second of the track. */
const SCALE = 1000

type Part = Uint8Array | readonly number[]
const u16 = (v: number) => [(v >>> 8) & 255, v & 255]
const u32 = (v: number) => [(v >>> 24) & 255, (v >>> 16) & 255, (v >>> 8) & 255, v & 255]
const ascii = (s: string) => [...s].map((c) => c.charCodeAt(0))
const IDENTITY = [0x10000, 0, 0, 0, 0x10000, 0, 0, 0, 0x40000000].flatMap(u32)

function join(parts: readonly Part[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0))
  let at = 0
  for (const part of parts) {
    out.set(part, at)
    at += part.length
  }
  return out
}
const box = (type: string, ...content: Part[]): Uint8Array<ArrayBuffer> => {
  const length = content.reduce((sum, p) => sum + p.length, 8)
  return join([u32(length), ascii(type), ...content])
}
const full = (type: string, flags: number, ...content: Part[]) => box(type, u32(flags), ...content)

interface Found {
  type: string
  at: number
  size: number
}
/** The boxes that stand one after the other in a range of bytes. @throws {RangeError} where they do not */
function boxesIn(bytes: Uint8Array, from: number, to: number): Found[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const found: Found[] = []
  for (let at = from; at + 8 <= to;) {
    const size = view.getUint32(at)
    const type = String.fromCharCode(...bytes.subarray(at + 4, at + 8))
    if (size < 8 || at + size > to) throw new RangeError(`The index is damaged at its box ${type}.`)
    found.push({ type, at, size })
    at += size
  }
  return found
}

export interface Mp4Chapter {
  /** Where it begins, s of the film, from 0 on and in order. */
  at: number
  /** One line, in UTF-8. */
  title: Uint8Array
}

/** A cue of captions, as it is shown. Cues follow each other and do not overlap. */
export interface Mp4Cue {
  /** s of the film */
  from: number
  to: number
  lines: readonly StyledLine[]
  top: boolean
}

export interface Mp4Captions {
  cues: readonly Mp4Cue[]
  /** ISO 639-2/T, three small letters. */
  language: string
  /** What the track is called. */
  label: string
  /** The picture that they stand on, px. */
  width: number
  height: number
}

/** What stands in a track: samples one after the other, from the film's first instant on. */
interface Samples {
  /** Ticks each lasts, and its bytes. */
  samples: readonly { ticks: number; bytes: Uint8Array }[]
  /** Ticks of the film before the first. */
  before: number
}

/** At most so many bytes of text in a sample. */
const MOST_TEXT = 60_000

/** A title as a sample: its length, its text, and that this is UTF-8. */
function titleSample(title: Uint8Array): Uint8Array {
  const bytes = title.subarray(0, MOST_TEXT)
  return join([u16(bytes.length), bytes, box('encd', u32(0x100))])
}

function chapterSamples(chapters: readonly Mp4Chapter[], length: number): Samples {
  const starts = chapters.map(({ at }) => Math.round(at * SCALE))
  const end = Math.max((starts.at(-1) ?? 0) + 1, Math.round(length * SCALE))
  const samples = chapters.map(({ title }, i) => ({
    ticks: Math.max(1, (starts[i + 1] ?? end) - (starts[i] ?? 0)),
    bytes: titleSample(title),
  }))
  return { samples, before: starts[0] ?? 0 }
}

/** Share of the picture's height that captions stand in, at the foot or at the top, and that a letter is high. */
const [BAND, LETTER] = [0.2, 0.05]
const boxRecord = (top: number, left: number, bottom: number, right: number) => [top, left, bottom, right].flatMap(u16)
const bandOf = ({ width, height }: Mp4Captions, atTop: boolean) => {
  const band = Math.round(height * BAND)
  return atTop ? boxRecord(0, 0, band, width) : boxRecord(height - band, 0, height, width)
}
const WHITE = [255, 255, 255, 255]
/** Characters `from` up to `to` (of Unicode, not of UTF-8), as they are written (TS 26.245, 5.16). */
const styleRecord = (from: number, to: number, face: number, size: number) => [
  ...u16(from),
  ...u16(to),
  ...u16(1),
  face,
  size,
  ...WHITE,
]
const letterSize = ({ height }: Mp4Captions) => Math.max(8, Math.min(255, Math.round(height * LETTER)))

/** A cue as a sample (TS 26.245, 5.17): its text, what of it is set otherwise, and its box where it stands at the top. */
function cueSample({ lines, top }: Mp4Cue, captions: Mp4Captions): Uint8Array {
  let at = 0
  const styles: number[][] = []
  const text = lines
    .map((line) => {
      const said = line.map(({ text, bold, italic, underlined }) => {
        const length = [...text].length
        const face = (bold ? 1 : 0) + (italic ? 2 : 0) + (underlined ? 4 : 0)
        if (face > 0) styles.push(styleRecord(at, at + length, face, letterSize(captions)))
        at += length
        return text
      })
      // The line's end is a character as well.
      at++
      return said.join('')
    })
    .join('\n')
  const bytes = utf8(text).subarray(0, MOST_TEXT)
  return join([
    u16(bytes.length),
    bytes,
    ...(styles.length > 0 ? [box('styl', u16(styles.length), styles.flat())] : []),
    ...(top ? [box('tbox', bandOf(captions, true))] : []),
  ])
}

/** Nothing is shown. */
const SILENT = new Uint8Array(2)

function captionSamples(captions: Mp4Captions, length: number): Samples {
  const samples: { ticks: number; bytes: Uint8Array }[] = []
  let at = 0
  const upTo = (end: number, bytes: Uint8Array) => {
    if (end > at) samples.push({ ticks: end - at, bytes })
    at = Math.max(at, end)
  }
  for (const cue of captions.cues) {
    upTo(Math.round(cue.from * SCALE), SILENT)
    upTo(Math.round(cue.to * SCALE), cueSample(cue, captions))
  }
  upTo(Math.round(length * SCALE), SILENT)
  return { samples, before: 0 }
}

/** Three letters of a language, five bits each (ISO/IEC 14496-12, 8.4.2). */
const packed = (language: string) =>
  [...language].reduce((sum, letter) => (sum << 5) | ((letter.charCodeAt(0) - 0x60) & 31), 0)

/** What tells tracks of text apart. */
interface TrackKind {
  id: number
  /** 0 for what only leads, 3 for what is shown. */
  enabled: number
  language: string
  handler: string
  name: string
  /** px; 0 for what is not seen. */
  width: number
  height: number
  /** The box of its media's head, and its sample entry. */
  mediaHead: Uint8Array
  entry: Uint8Array
}

/**
 * A track of text.
 * @param scale ticks a second of the film
 * @param offset where its samples stand in the file, bytes
 */
function textTrack(kind: TrackKind, { samples, before }: Samples, scale: number, length: number, offset: number) {
  const media = samples.reduce((sum, { ticks }) => sum + ticks, 0)
  const inFilm = (ticks: number) => Math.round((ticks / SCALE) * scale)
  const tkhd = full(
    'tkhd',
    kind.enabled,
    ...[u32(0), u32(0), u32(kind.id), u32(0), u32(Math.round(length * scale)), u32(0), u32(0), u32(0), u32(0)],
    ...[IDENTITY, u32(kind.width * 0x10000), u32(kind.height * 0x10000)],
  )
  // Until the first begins there is nothing.
  const edits = [
    ...(before > 0 ? [[...u32(inFilm(before)), ...u32(0xffffffff), ...u32(0x10000)]] : []),
    [...u32(inFilm(media)), ...u32(0), ...u32(0x10000)],
  ]
  const edts = box('edts', full('elst', 0, u32(edits.length), edits.flat()))
  const mdhd = full('mdhd', 0, u32(0), u32(0), u32(SCALE), u32(media), u16(packed(kind.language)), u16(0))
  const name = utf8(kind.name)
  const hdlr = full('hdlr', 0, u32(0), ascii(kind.handler), u32(0), u32(0), u32(0), name, [0])
  const dinf = box('dinf', full('dref', 0, u32(1), full('url ', 1)))
  const stbl = box(
    'stbl',
    full('stsd', 0, u32(1), kind.entry),
    full(
      'stts',
      0,
      u32(samples.length),
      samples.flatMap(({ ticks }) => [...u32(1), ...u32(ticks)]),
    ),
    full('stsc', 0, u32(1), u32(1), u32(samples.length), u32(1)),
    full(
      'stsz',
      0,
      u32(0),
      u32(samples.length),
      samples.flatMap(({ bytes }) => u32(bytes.length)),
    ),
    full('co64', 0, u32(1), u32(Math.floor(offset / 2 ** 32)), u32(offset % 2 ** 32)),
  )
  return box('trak', tkhd, edts, box('mdia', mdhd, hdlr, box('minf', kind.mediaHead, dinf, stbl)))
}

/** What every sample entry begins with: six bytes of nothing, and which data reference it uses. */
const ENTRY_HEAD = [0, 0, 0, 0, 0, 0, 0, 1]

/** Disabled: it is not shown, and only leads. */
const chapterTrack = (id: number): TrackKind => ({
  ...{ id, enabled: 0, language: 'und', handler: 'text', name: 'Chapters', width: 0, height: 0 },
  mediaHead: box(
    'gmhd',
    full('gmin', 0, u16(0x40), u16(0x8000), u16(0x8000), u16(0x8000), u16(0), u16(0)),
    box('text', u16(1), new Uint8Array(14), u16(0x4000), u32(0), new Uint8Array(14)),
  ),
  entry: box('text', ENTRY_HEAD, u32(1), u32(1), new Uint8Array(22), u16(0), [0], u16(0), new Uint8Array(6), [0]),
})

/** White letters on half-clear black, in the middle at the foot (TS 26.245, 5.16). */
function captionTrack(id: number, captions: Mp4Captions): TrackKind {
  const font = ascii('Sans-Serif')
  const entry = box(
    'tx3g',
    ENTRY_HEAD,
    u32(0),
    [1, 0xff, 0, 0, 0, 0x80],
    bandOf(captions, false),
    styleRecord(0, 0, 0, letterSize(captions)),
    box('ftab', u16(1), u16(1), [font.length], font),
  )
  const { language, label: name, width, height } = captions
  return {
    ...{ id, enabled: 3, language, handler: 'sbtl', name, width, height },
    ...{ mediaHead: full('nmhd', 0), entry },
  }
}

/**
 * An index (a `moov` box) with chapters and captions, and behind it the box with their samples. How long both are does not
 * depend on where they stand.
 * @param text what is added; empty chapters and no captions are left out
 * @param length of the film, s
 * @param at where the index stands in the file, bytes
 * @throws {RangeError} when the index cannot be read
 */
export function withText(
  moov: Uint8Array,
  { chapters, captions }: { chapters: readonly Mp4Chapter[]; captions: Mp4Captions | null },
  length: number,
  at: number,
): Uint8Array<ArrayBuffer> {
  const view = new DataView(moov.buffer, moov.byteOffset, moov.byteLength)
  const boxes = boxesIn(moov, 8, moov.length)
  const mvhd = boxes.find((b) => b.type === 'mvhd')
  if (!mvhd) throw new RangeError('The index is damaged: it has no head.')
  const scale = view.getUint32(mvhd.at + (moov[mvhd.at + 8] === 1 ? 28 : 20))
  let id = view.getUint32(mvhd.at + mvhd.size - 4)
  const tracks: { kind: TrackKind; samples: Samples }[] = []
  if (captions) tracks.push({ kind: captionTrack(id++, captions), samples: captionSamples(captions, length) })
  const chapterId = chapters.length > 0 ? id++ : null
  if (chapterId !== null) tracks.push({ kind: chapterTrack(chapterId), samples: chapterSamples(chapters, length) })
  const bytesOf = ({ samples }: Samples) => samples.map(({ bytes }) => bytes)
  const parts = (offset: number): Part[] => {
    let from = offset
    return [
      ...boxes.map(({ type, at: begin, size }) => {
        const bytes = moov.slice(begin, begin + size)
        if (type === 'mvhd') bytes.set(u32(id), size - 4)
        if (type !== 'trak' || chapterId === null) return bytes
        const [head, ...rest] = boxesIn(bytes, 8, size).map((b) => bytes.subarray(b.at, b.at + b.size))
        return box('trak', head ?? [], box('tref', box('chap', u32(chapterId))), ...rest)
      }),
      ...tracks.map(({ kind, samples }) => {
        const made = textTrack(kind, samples, scale, length, from)
        from += bytesOf(samples).reduce((sum, { length }) => sum + length, 0)
        return made
      }),
    ]
  }
  const size = box('moov', ...parts(0)).length
  return join([
    box('moov', ...parts(at + size + 8)),
    box('mdat', join(tracks.flatMap(({ samples }) => bytesOf(samples)))),
  ])
}

/**
 * Cues of WebVTT as they follow each other: where some are shown together, what is shown changes with each that comes or goes.
 * @param cues sorted by start, s of the film
 */
export function inTurn(cues: readonly { from: number; to: number; text: string; top: boolean }[]): Mp4Cue[] {
  const turns: Mp4Cue[] = []
  const instants = [...new Set(cues.flatMap(({ from, to }) => [from, to]))].sort((a, b) => a - b)
  let shown: typeof cues = []
  let next = 0
  instants.forEach((from, i) => {
    const to = instants[i + 1]
    shown = shown.filter((c) => c.to > from)
    for (let cue = cues[next]; cue && cue.from <= from; cue = cues[++next]) if (cue.to > from) shown = [...shown, cue]
    const [first] = shown
    if (to === undefined || !first) return
    turns.push({ from, to, lines: shown.flatMap(({ text }) => styledLines(text)), top: first.top })
  })
  return turns
}
