/**
 * Chapters inside an MP4: a track of text whose samples are the titles, named as chapters by the tracks of picture and
 * sound: QTFF (2016), “Chapter Lists” and “Text Media”, which players of many kinds read, as does ffmpeg. The samples stand just behind the index, in room that was kept for it.
 *
 *     moov ( mvhd │ trak ( tkhd │ tref: chap = 3 │ … ) │ … │ trak 3: text ) │ mdat: titles │ mdat: the film
 */

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

/** A title as a sample: its length, its text, and that this is UTF-8. */
function sample(title: Uint8Array): Uint8Array {
  const bytes = title.subarray(0, 60_000)
  return join([u16(bytes.length), bytes, box('encd', u32(0x100))])
}

/** The text track. @param moved s of the film before its first sample */
function track(
  id: number,
  scale: number,
  starts: readonly number[],
  sizes: readonly number[],
  length: number,
  offset: number,
) {
  const first = starts[0] ?? 0
  const ticks = starts.map((at) => Math.round(at * SCALE))
  const end = Math.max((ticks.at(-1) ?? 0) + 1, Math.round(length * SCALE))
  const durations = ticks.map((t, i) => Math.max(1, (ticks[i + 1] ?? end) - t))
  const media = durations.reduce((sum, d) => sum + d, 0)
  const inFilm = (seconds: number) => Math.round(seconds * scale)
  // Disabled: it is not shown, and only leads.
  const tkhd = full(
    'tkhd',
    0,
    u32(0),
    u32(0),
    u32(id),
    u32(0),
    u32(inFilm(length)),
    u32(0),
    u32(0),
    u32(0),
    u32(0),
    IDENTITY,
    u32(0),
    u32(0),
  )
  // Until the first begins there is nothing.
  const edits = [
    ...(first > 0 ? [[...u32(inFilm(first)), ...u32(0xffffffff), ...u32(0x10000)]] : []),
    [...u32(inFilm(media / SCALE)), ...u32(0), ...u32(0x10000)],
  ]
  const edts = box('edts', full('elst', 0, u32(edits.length), edits.flat()))
  const mdhd = full('mdhd', 0, u32(0), u32(0), u32(SCALE), u32(media), u16(0x55c4), u16(0))
  const hdlr = full('hdlr', 0, u32(0), ascii('text'), u32(0), u32(0), u32(0), ascii('Chapters'), [0])
  const gmhd = box(
    'gmhd',
    full('gmin', 0, u16(0x40), u16(0x8000), u16(0x8000), u16(0x8000), u16(0), u16(0)),
    box('text', u16(1), new Uint8Array(14), u16(0x4000), u32(0), new Uint8Array(14)),
  )
  const dinf = box('dinf', full('dref', 0, u32(1), full('url ', 1)))
  const entry = box(
    'text',
    new Uint8Array(6),
    u16(1),
    u32(1),
    u32(1),
    new Uint8Array(6),
    new Uint8Array(8),
    new Uint8Array(8),
    u16(0),
    u16(0),
    [0],
    u16(0),
    new Uint8Array(6),
    [0],
  )
  const stbl = box(
    'stbl',
    full('stsd', 0, u32(1), entry),
    full(
      'stts',
      0,
      u32(durations.length),
      durations.flatMap((d) => [...u32(1), ...u32(d)]),
    ),
    full('stsc', 0, u32(1), u32(1), u32(starts.length), u32(1)),
    full('stsz', 0, u32(0), u32(sizes.length), sizes.flatMap(u32)),
    full('co64', 0, u32(1), u32(Math.floor(offset / 2 ** 32)), u32(offset % 2 ** 32)),
  )
  return box('trak', tkhd, edts, box('mdia', mdhd, hdlr, box('minf', gmhd, dinf, stbl)))
}

/**
 * An index (a `moov` box) that names chapters, and behind it the box with their titles. How long both are does not depend
 * on where they stand.
 * @param length of the film, s
 * @param at where the index stands in the file, bytes
 * @throws {RangeError} when the index cannot be read
 */
export function withChapters(
  moov: Uint8Array,
  chapters: readonly Mp4Chapter[],
  length: number,
  at: number,
): Uint8Array<ArrayBuffer> {
  const view = new DataView(moov.buffer, moov.byteOffset, moov.byteLength)
  const boxes = boxesIn(moov, 8, moov.length)
  const mvhd = boxes.find((b) => b.type === 'mvhd')
  if (!mvhd) throw new RangeError('The index is damaged: it has no head.')
  const scale = view.getUint32(mvhd.at + (moov[mvhd.at + 8] === 1 ? 28 : 20))
  const nextId = mvhd.at + mvhd.size - 4
  const id = view.getUint32(nextId)
  const samples = chapters.map((c) => sample(c.title))
  const parts = (offset: number): Part[] => [
    ...boxes.map(({ type, at: from, size }) => {
      const bytes = moov.slice(from, from + size)
      if (type === 'mvhd') bytes.set(u32(id + 1), size - 4)
      if (type !== 'trak') return bytes
      const [head, ...rest] = boxesIn(bytes, 8, size).map((b) => bytes.subarray(b.at, b.at + b.size))
      return box('trak', head ?? [], box('tref', box('chap', u32(id))), ...rest)
    }),
    track(
      id,
      scale,
      chapters.map((c) => c.at),
      samples.map((s) => s.length),
      length,
      offset,
    ),
  ]
  const size = box('moov', ...parts(0)).length
  return join([box('moov', ...parts(at + size + 8)), box('mdat', ...samples)])
}
