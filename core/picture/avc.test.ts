import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  avcEntry,
  escapeNal,
  joinAvcConfigs,
  joinedPacket,
  nalUnits,
  packUnits,
  readAvcConfig,
  unescapeNal,
  writeAvcConfig,
} from './avc'

/** Bits as text, and back; a unit ends with a stop bit and zeros. */
const bitsOf = (bytes: Uint8Array) => [...bytes].map((b) => b.toString(2).padStart(8, '0')).join('')
const bytesOf = (bits: string) =>
  Uint8Array.from(bits.padEnd(Math.ceil(bits.length / 8) * 8, '0').match(/.{8}/g) ?? [], (b) => Number.parseInt(b, 2))
/** Exp-Golomb, from its definition (H.264 table 9-1). */
const code = (value: number) => {
  const binary = (value + 1).toString(2)
  return '0'.repeat(binary.length - 1) + binary
}
const unit = (type: number, bits: string) => escapeNal(bytesOf((0x60 | type).toString(2).padStart(8, '0') + bits))
const anyBits = (most: number) =>
  fc.array(fc.constantFrom('0', '1', '00000000', '00000011'), { maxLength: most, size: 'max' }).map((b) => b.join(''))

const sps = (id: number, rest: string) => unit(7, `${bitsOf(Uint8Array.of(100, 0, 31))}${code(id)}${rest}1`)
const pps = (id: number, spsId: number, rest: string) => unit(8, `${code(id)}${code(spsId)}${rest}1`)
const slice = (ppsId: number, rest: string) => unit(5, `${code(0)}${code(7)}${code(ppsId)}${rest}`)
const config = (level: number, s: Uint8Array[], p: Uint8Array[]) =>
  readAvcConfig(
    writeAvcConfig({ profile: 100, compatibility: 0, level, sps: s, pps: p, tail: Uint8Array.of(0xfd, 0xf8, 0xf8, 0) }),
  )

describe('a NAL unit', () => {
  it('has no start code in it once it is escaped, and is the same when it is read again', () => {
    fc.assert(
      fc.property(
        fc
          .array(fc.constantFrom(0, 0, 0, 1, 2, 3, 4, 255), { maxLength: 60 })
          .map((b) => Uint8Array.from([0x65, ...b])),
        (raw) => {
          const escaped = escapeNal(raw)
          for (let i = 2; i < escaped.length; i++)
            if (escaped[i - 2] === 0 && escaped[i - 1] === 0) expect(escaped[i]).toBeGreaterThanOrEqual(3)
          expect([...unescapeNal(escaped)].slice(0, raw.length)).toEqual([...raw])
        },
      ),
    )
  })
})

describe('a configuration', () => {
  const record = Uint8Array.from([1, 0x64, 0, 0x1f, 0xfd, 0xe1, 0, 3, 0x67, 1, 2, 1, 0, 2, 0x68, 3])
  it('is read', () => {
    const { lengthSize, sps, pps, level } = readAvcConfig(record)
    expect([lengthSize, level, sps.map((s) => [...s]), pps.map((s) => [...s])]).toEqual([
      2,
      31,
      [[0x67, 1, 2]],
      [[0x68, 3]],
    ])
    expect(() => readAvcConfig(Uint8Array.from([0, 0, 0, 1]))).toThrow(RangeError)
    expect(() => readAvcConfig(record.subarray(0, 10))).toThrow('cut short')
  })
  it('of several encoders gives every set an id of its own, and changes nothing else in it', () => {
    fc.assert(
      fc.property(anyBits(30), anyBits(30), anyBits(30), anyBits(30), (a, b, c, d) => {
        fc.pre(a !== b)
        const one = config(30, [sps(0, a)], [pps(0, 0, c)])
        const two = config(41, [sps(0, b)], [pps(0, 0, d)])
        const { record, sources } = joinAvcConfigs([one, two, one])
        const all = readAvcConfig(record)
        expect([all.lengthSize, all.level, all.sps.length, all.pps.length, sources[0], sources[2]]).toEqual([
          4,
          41,
          2,
          2,
          null,
          null,
        ])
        expect([[...all.sps[0]!], [...all.pps[0]!]]).toEqual([[...one.sps[0]!], [...one.pps[0]!]])
        const id = sources[1]!.pps.get(0)!
        // One byte longer, so that what follows in a slice stays where it was in its byte.
        expect(code(id).length - code(0).length).toBe(8)
        expect([...all.sps[1]!]).toEqual([...sps(1, b)])
        expect([...all.pps[1]!]).toEqual([...pps(id, 1, d)])
      }),
    )
  })
})

describe('packets of a joined track', () => {
  const { sources } = joinAvcConfigs([
    config(30, [sps(0, '0')], [pps(0, 0, '0')]),
    config(30, [sps(0, '1')], [pps(0, 0, '1')]),
  ])
  it('name their own sets, and what is coded behind the header is left as it is', () => {
    fc.assert(
      fc.property(anyBits(600), (rest) => {
        const id = sources[1]!.pps.get(0)!
        const [made] = nalUnits(joinedPacket(packUnits([slice(0, `${rest}1`)]), 4, sources[1]!), 4)
        const meant = slice(id, `${rest}1`)
        // Zeros that pad the last byte, on both sides, count for nothing.
        expect([...unescapeNal(made!)].slice(0, unescapeNal(meant).length)).toEqual([...unescapeNal(meant)])
      }),
    )
  })
  it('bring no sets along, and have lengths of four bytes', () => {
    const short = Uint8Array.from([0, 2, 0x67, 1, 0, 2, 0x68, 1, 0, 2, 0x65, 0x88])
    expect([...joinedPacket(short, 2, null)]).toEqual([0, 0, 0, 2, 0x65, 0x88])
    const whole = Uint8Array.from([0, 0, 0, 1, 0x41])
    expect(joinedPacket(whole, 4, null)).toBe(whole)
  })
})

describe('where a decoder can begin', () => {
  const sei = (type: number) => Uint8Array.from([6, 5, 3, 1, 2, 3, type, 1, 0x84, 0x80])
  it('is at an IDR picture, at a recovery point, and nowhere else', () => {
    const packet = (...units: Uint8Array[]) => packUnits(units)
    expect(avcEntry(packet(slice(0, '1')), 4)).toBe('idr')
    expect(avcEntry(packet(sei(6), Uint8Array.of(0x41, 1)), 4)).toBe('recovery')
    expect(avcEntry(packet(sei(1), Uint8Array.of(0x41, 1)), 4)).toBeNull()
    expect(avcEntry(packet(Uint8Array.of(0x41, 1)), 4)).toBeNull()
  })
})
