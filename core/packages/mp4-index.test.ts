import { describe, expect, it } from 'vitest'
import { frontBoxes, moveChunks } from './mp4-index'

const box = (type: string, ...content: (Uint8Array | number[])[]): Uint8Array => {
  const body = content.flatMap((c) => [...c])
  const out = new Uint8Array(8 + body.length)
  new DataView(out.buffer).setUint32(0, out.length)
  out.set(
    [...type].map((c) => c.charCodeAt(0)),
    4,
  )
  out.set(body, 8)
  return out
}
const numbers = (...values: number[]) => values.flatMap((v) => [v >>> 24, (v >>> 16) & 255, (v >>> 8) & 255, v & 255])
const moov = () =>
  box(
    'moov',
    box('mvhd', numbers(1, 2)),
    box(
      'trak',
      box('mdia', box('minf', box('stbl', box('stsz', numbers(0, 0, 0)), box('stco', numbers(0, 2, 5000, 90_000))))),
    ),
    box('trak', box('mdia', box('minf', box('stbl', box('co64', numbers(0, 1, 1, 7)))))),
  )
const file = (...boxes: Uint8Array[]) => Uint8Array.from(boxes.flatMap((b) => [...b]))
const reading = (bytes: Uint8Array) => (at: number, length: number) => Promise.resolve(bytes.subarray(at, at + length))

describe('the index of an MP4', () => {
  it('is found with the room that is left behind it', async () => {
    const bytes = file(
      box('ftyp', numbers(1)),
      moov(),
      box('free', new Uint8Array(500)),
      box('mdat', new Uint8Array(100)),
    )
    expect(await frontBoxes(reading(bytes))).toEqual({
      moov: { at: 12, size: moov().length },
      free: 508,
      media: 12 + moov().length + 508,
    })
  })
  it('that stands behind the media, or is cut short, is left alone', async () => {
    expect(
      await frontBoxes(reading(file(box('ftyp', numbers(1)), box('mdat', new Uint8Array(100)), moov()))),
    ).toBeNull()
    expect(await frontBoxes(reading(moov().subarray(0, 20)))).toBeNull()
    expect(
      await frontBoxes(reading(file(box('ftyp', numbers(1)), moov(), box('free', new Uint8Array(9)).fill(0, 0, 4)))),
    ).toBeNull()
  })
  it('moves every chunk of every track, also behind 4 GiB', () => {
    const made = moov()
    moveChunks(made, 508)
    const text = Buffer.from(made).toString('latin1')
    const view = new DataView(made.buffer)
    const stco = text.indexOf('stco')
    expect([view.getUint32(stco + 12), view.getUint32(stco + 16)]).toEqual([4492, 89_492])
    expect(Number(view.getBigUint64(text.indexOf('co64') + 12))).toBe(2 ** 32 + 7 - 508)
    expect(() => moveChunks(made.fill(0, 8, 12), 1)).toThrow(/damaged/)
  })
})
