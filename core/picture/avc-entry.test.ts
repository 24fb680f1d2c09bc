import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { escapeNal, nalUnits, packUnits, readAvcConfig, unescapeNal, writeAvcConfig } from './avc'
import { canEnterAt, enterAt, withGaps } from './avc-entry'
import { readPps, readSps } from './avc-headers'

/** Bits as text: what a unit says is written down as the standard lists it. */
const bytesOf = (bits: string) =>
  Uint8Array.from(bits.padEnd(Math.ceil(bits.length / 8) * 8, '0').match(/.{8}/g) ?? [], (b) => Number.parseInt(b, 2))
const fixed = (value: number, count: number) => value.toString(2).padStart(count, '0')
const ue = (value: number) => '0'.repeat((value + 1).toString(2).length - 1) + (value + 1).toString(2)
const unit = (header: number, bits: string) => escapeNal(bytesOf(fixed(header, 8) + bits))

/** `frame_num` has 5 bits, `pic_order_cnt_lsb` 6; three references are held (H.264 §7.3.2.1.1). */
const sps = ({ gaps = 0, order = 0, references = 3, framesOnly = 1 } = {}) =>
  unit(
    0x67,
    `${fixed(77, 8)}${fixed(0, 8)}${fixed(31, 8)}${ue(0)}${ue(1)}${ue(order)}${order === 0 ? ue(2) : ''}${ue(references)}${gaps}` +
      `${ue(39)}${ue(22)}${framesOnly}${framesOnly ? '' : '0'}1001`,
  )
/** §7.3.2.2; two references in the first list, one in the second. */
const pps = ({ arithmetic = 0 } = {}) =>
  unit(0x68, `${ue(0)}${ue(0)}${arithmetic}0${ue(0)}${ue(1)}${ue(0)}0${fixed(0, 2)}${ue(0)}${ue(0)}${ue(0)}0001`)
const config = (of: Parameters<typeof sps>[0] = {}, p: Parameters<typeof pps>[0] = {}) =>
  readAvcConfig(
    writeAvcConfig({
      profile: 77,
      compatibility: 0,
      level: 31,
      sps: [sps(of)],
      pps: [pps(p)],
      tail: new Uint8Array(),
    }),
  )

interface Slice {
  /** 0 P, 1 B, 2 I */
  type: 0 | 1 | 2
  frameNum: number
  order: number
  reference?: boolean
  /** Overrides how many references each list has in use. */
  active?: [number, number]
  /** `[modification_of_pic_nums_idc, abs_diff_pic_num_minus1]` of the first list. */
  moves?: [number, number][]
  /** `difference_of_pic_nums_minus1` of pictures that are taken leave of; null for the window that slides. */
  leave?: number[] | null
  /** What follows the header. */
  data?: string
  arithmetic?: boolean
  /** Rewritten as an IDR picture's, with this id. */
  idr?: number
}
const slice = (s: Slice) => {
  const { type, reference = true, active, moves = [], leave = null, data = '1011', arithmetic, idr } = s
  const isIdr = idr !== undefined
  const listed = (all: [number, number][]) =>
    all.length > 0 ? `1${all.map(([c, d]) => ue(c) + ue(d)).join('')}${ue(3)}` : '0'
  const header =
    ue(0) +
    ue(type + 5) +
    ue(0) +
    fixed(s.frameNum, 5) +
    (isIdr ? ue(idr) : '') +
    fixed(s.order, 6) +
    (type === 1 ? '1' : '') +
    (type === 2 ? '' : active ? `1${ue(active[0] - 1)}${type === 1 ? ue(active[1] - 1) : ''}` : '0') +
    (type === 2 ? '' : listed(moves)) +
    (type === 1 ? '0' : '') +
    (!reference ? '' : isIdr ? '00' : leave ? `1${leave.map((d) => ue(1) + ue(d)).join('')}${ue(0)}` : '0') +
    (arithmetic && type !== 2 ? ue(0) : '') +
    ue(0)
  const begun = arithmetic ? header.padEnd(Math.ceil((header.length + 8) / 8) * 8 - 8, '1') : header
  return unit((reference ? 0x60 : 0) | (isIdr ? 5 : 1), `${begun}${data}${arithmetic ? '' : '1'}`)
}
/** A recovery point (§D.1.8): right at once, and exactly. */
const recovery = (frames = 0, exact = 1) => {
  const payload = bytesOf(`${ue(frames)}${exact}000`)
  return Uint8Array.from([6, 6, payload.length, ...payload, 0x80])
}
const packet = (...units: Uint8Array[]) => packUnits(units)
/** An intra picture in the middle of a film, and what follows: two that lead it, then a group of its own. */
const entry: Slice = { type: 2, frameNum: 30, order: 60 }
const leading: Slice[] = [
  { type: 1, frameNum: 31, order: 56 },
  { type: 1, frameNum: 0, order: 58, reference: false },
]
const own: Slice[] = [
  { type: 0, frameNum: 0, order: 4, active: [1, 0], leave: [3] },
  { type: 1, frameNum: 1, order: 0, reference: false, active: [1, 1] },
  { type: 0, frameNum: 1, order: 8, active: [2, 0] },
]
const film = (...slices: Slice[]) => [packet(recovery(), slice(entry)), ...slices.map((s) => packet(slice(s)))]

/** What counts of a unit: padding behind its last bit does not. */
const bits = (nal: Uint8Array) =>
  [...unescapeNal(nal)]
    .map((b) => fixed(b, 8))
    .join('')
    .replace(/0+$/, '')

describe('a recovery point', () => {
  it('can be entered at when all that follows finds its references there', () => {
    expect(canEnterAt(config(), film(...leading, ...own))).toBe(true)
    expect(canEnterAt(config({}, { arithmetic: 1 }), [packet(recovery(), slice({ ...entry, arithmetic: true }))])).toBe(
      true,
    )
  })
  it.each([
    ['is no recovery point', [packet(slice(entry))]],
    ['is right only some frames later', [packet(recovery(3), slice(entry))]],
    ['is only about right', [packet(recovery(0, 0), slice(entry))]],
    ['is no intra picture', [packet(recovery(), slice({ ...entry, type: 0 }))]],
    ['is followed by what goes back behind it', film({ ...own[0]!, active: [2, 0] })],
    ['is followed by what moves a picture before it to the front', film({ ...own[0]!, moves: [[0, 4]] })],
    ['is followed by what has a picture in front of one after it', film(own[0]!, { ...own[1]!, active: [2, 1] })],
    ['names a set that is not there', [packet(recovery(), unit(0x61, `${ue(0)}${ue(7)}${ue(3)}`))]],
  ])('cannot be when it %s', (_, packets) => {
    expect(canEnterAt(config(), packets)).toBe(false)
  })
  it('can be when an IDR picture follows before anything is known, and cannot when partitions do', () => {
    const idr = packet(slice({ ...entry, frameNum: 0, order: 0, idr: 0 }))
    expect(canEnterAt(config(), [...film(), idr])).toBe(true)
    expect(canEnterAt(config(), [...film(), packet(unit(0x62, '1'))])).toBe(false)
  })
  it('cannot be in a film of fields', () => {
    expect(canEnterAt(config({ framesOnly: 0 }), film(...own))).toBe(false)
  })
  it('may be followed by one picture twice in a list, as weighted prediction has it', () => {
    const twice: Slice = {
      type: 0,
      frameNum: 1,
      order: 8,
      active: [3, 0],
      moves: [
        [0, 0],
        [0, 31],
      ],
    }
    expect(canEnterAt(config(), film(own[0]!, own[1]!, twice))).toBe(true)
  })
})

describe('a run that begins there', () => {
  const enter = (of: ReturnType<typeof config>, packets: Uint8Array[]) => {
    const rewrite = enterAt(of, 0)
    return packets.map((p) => nalUnits(rewrite(p), 4))
  }
  it('begins with an IDR picture, from which frames and their order are counted', () => {
    const [first, ...rest] = enter(config(), film(...own))
    expect(bits(first![1]!)).toBe(bits(slice({ ...entry, frameNum: 0, order: 0, idr: 2 })))
    // The picture before the entry is not taken leave of: it is not there.
    expect(rest.map(([nal]) => bits(nal!))).toEqual(
      [
        { ...own[0]!, frameNum: 2, order: 8, leave: [] },
        { ...own[1]!, frameNum: 3, order: 4 },
        { ...own[2]!, frameNum: 3, order: 12 },
      ].map((s) => bits(slice(s))),
    )
  })
  it('leaves what is coded behind the headers as it is, arithmetic-coded data on whole bytes', () => {
    const coded = fc.array(fc.constantFrom('00000000', '00000011', '10110101', '11111111'), {
      maxLength: 400,
      size: 'max',
    })
    fc.assert(
      fc.property(fc.boolean(), coded, coded, fc.nat(31), fc.nat(63), (arithmetic, a, b, frameNum, order) => {
        const of = config({}, { arithmetic: arithmetic ? 1 : 0 })
        const data = (bytes: string[]) => `${bytes.join('')}1`
        const begin: Slice = { type: 2, frameNum, order, arithmetic, data: data(a) }
        const next: Slice = {
          type: 0,
          frameNum: (frameNum + 1) % 32,
          order: (order + 2) % 64,
          active: [1, 0],
          arithmetic,
          leave: [0],
          data: data(b),
        }
        const [first, second] = enter(of, [packet(recovery(), slice(begin)), packet(slice(next))])
        expect(bits(first![1]!)).toBe(bits(slice({ ...begin, frameNum: 0, order: 0, idr: 2 })))
        expect(bits(second![0]!)).toBe(bits(slice({ ...next, frameNum: 1, order: 2 })))
      }),
    )
  })
  it('is left as it is from the next IDR picture on', () => {
    const idr = packet(slice({ ...entry, frameNum: 0, order: 0, idr: 0 }))
    const behind = packet(slice({ type: 0, frameNum: 1, order: 2 }))
    const [, , , , real, last] = enter(config(), [...film(...own), idr, behind])
    expect([real, last]).toEqual([nalUnits(idr, 4), nalUnits(behind, 4)])
  })
  it('is told apart from the one before it', () => {
    const made = [0, 1].map((run) => bits(nalUnits(enterAt(config(), run)(film()[0]!), 4)[1]!))
    expect(made[0]).not.toBe(made[1])
  })
})

describe('parameter sets', () => {
  it('are read', () => {
    expect(readSps(sps())).toMatchObject({ id: 0, frameNumBits: 5, orderType: 0, orderBits: 6, references: 3 })
    expect(readPps(pps({ arithmetic: 1 }))).toMatchObject({ id: 0, sps: 0, arithmetic: true, active: [2, 1] })
    // As a widely used encoder writes it for High at 640 × 360, with scaling lists left out.
    const high = Uint8Array.from([
      0x67, 0x64, 0, 0x1e, 0xac, 0xd9, 0x40, 0xa0, 0x2f, 0xf9, 0x70, 0x11, 0, 0, 3, 0, 1, 0, 0, 3, 0, 0x32, 0x0f, 0x16,
      0x2d, 0x96,
    ])
    expect(readSps(high)).toMatchObject({ framesOnly: true, chroma: 1, orderType: 0, references: 4 })
  })
  it('allow gaps in frame numbers afterwards, and say nothing else otherwise', () => {
    expect([...withGaps(config()).sps[0]!]).toEqual([...sps({ gaps: 1 })])
  })
})
