/**
 * H.264 as bytes: what is needed so that packets of several encoders stand in one track with one sample entry `avc1`
 * (ISO/IEC 14496-15 §5.3): all parameter sets are in its configuration, under ids of their own, and none in the
 * packets. The ids stand in parameter sets and slice headers as Exp-Golomb codes (ITU-T H.264 §7.3.2, §7.3.3, §9.1).
 */
import { max } from 'd3-array'
import { BitReader, BitWriter, codeLength } from './bits'

/**
 * An AVCDecoderConfigurationRecord (ISO/IEC 14496-15 §5.3.3.1): its parameter sets, and the bytes of each NAL unit's
 * length.
 */
export interface AvcConfig {
  lengthSize: number
  profile: number
  compatibility: number
  level: number
  /** NAL units, in order. */
  sps: Uint8Array[]
  pps: Uint8Array[]
  /** What follows the sets for profiles above Main: chroma format, bit depths, extensions. */
  tail: Uint8Array
}

/** Types of NAL units (H.264 table 7-1). */
export const SLICE = 1
const PARTITION_A = 2
export const IDR = 5
const SEI = 6
const SPS = 7
const PPS = 8

export const typeOf = (nal: Uint8Array): number => (nal[0] ?? 0) & 0x1f

/** Reads a configuration record. @throws {RangeError} when it is not one */
export function readAvcConfig(record: Uint8Array): AvcConfig {
  if (record[0] !== 1 || record.length < 7) throw new RangeError('This is no H.264 decoder configuration.')
  let at = 5
  const lists = [0x1f, 0xff].map((mask) => {
    const count = (record[at++] ?? 0) & mask
    return Array.from({ length: count }, () => {
      const length = ((record[at] ?? 0) << 8) | (record[at + 1] ?? 0)
      if (at + 2 + length > record.length) throw new RangeError('This H.264 decoder configuration is cut short.')
      const set = record.subarray(at + 2, at + 2 + length)
      at += 2 + length
      return set
    })
  })
  const [profile = 0, compatibility = 0, level = 0] = record.subarray(1)
  return {
    lengthSize: ((record[4] ?? 0) & 3) + 1,
    profile,
    compatibility,
    level,
    sps: lists[0] ?? [],
    pps: lists[1] ?? [],
    tail: record.subarray(at),
  }
}

/** Profiles whose record says more about the picture's format. */
const saysMore = (profile: number) => ![66, 77, 88].includes(profile)

/** Writes a configuration record; lengths are four bytes. */
export function writeAvcConfig({
  profile,
  compatibility,
  level,
  sps,
  pps,
  tail,
}: Omit<AvcConfig, 'lengthSize'>): Uint8Array {
  const listed = (sets: readonly Uint8Array[]) => sets.flatMap((set) => [set.length >> 8, set.length & 0xff, ...set])
  return Uint8Array.from([
    1,
    profile,
    compatibility,
    level,
    0xff,
    0xe0 | sps.length,
    ...listed(sps),
    pps.length,
    ...listed(pps),
    ...(saysMore(profile) ? tail : []),
  ])
}

/** The NAL units of a packet. @param lengthSize bytes of each one's length */
export function nalUnits(data: Uint8Array, lengthSize: number): Uint8Array[] {
  const units: Uint8Array[] = []
  for (let at = 0; at + lengthSize <= data.length;) {
    let length = 0
    for (let i = 0; i < lengthSize; i++) length = length * 256 + (data[at + i] ?? 0)
    units.push(data.subarray(at + lengthSize, at + lengthSize + length))
    at += lengthSize + length
  }
  return units
}

/** A packet of NAL units, each with its length in four bytes. */
export function packUnits(units: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(units.reduce((sum, u) => sum + 4 + u.length, 0))
  const view = new DataView(out.buffer)
  let at = 0
  for (const unit of units) {
    view.setUint32(at, unit.length)
    out.set(unit, at + 4)
    at += 4 + unit.length
  }
  return out
}

/** A NAL unit without its emulation prevention (H.264 §7.4.1): `00 00 03` becomes `00 00`. */
export function unescapeNal(nal: Uint8Array): Uint8Array {
  const out = new Uint8Array(nal.length)
  let length = 0
  let zeros = 0
  for (const byte of nal) {
    if (zeros >= 2 && byte === 3) {
      zeros = 0
      continue
    }
    zeros = byte === 0 ? zeros + 1 : 0
    out[length++] = byte
  }
  return out.subarray(0, length)
}

/** Bytes in which a slice's header is looked for first. */
const HEAD = 192

/**
 * Rewrites the beginning of a unit without going through the rest of it: headers are short, and what is coded behind
 * them is not.
 * @param rewrite gives the unescaped bytes anew, of which the last stays; null when it needs the unit whole
 */
export function rewriteHead(
  nal: Uint8Array,
  rewrite: (raw: Uint8Array, isWhole: boolean) => Uint8Array | null,
): Uint8Array {
  // Divided where emulation prevention begins anew: behind a byte that is neither 0 nor prevents anything.
  let end = Math.min(HEAD, nal.length)
  while (end < nal.length && (nal[end - 1] ?? 0) <= 3) end++
  const head = end < nal.length ? rewrite(unescapeNal(nal.subarray(0, end)), false) : null
  if (!head) {
    const whole = rewrite(unescapeNal(nal), true)
    if (!whole) throw new RangeError('A slice header cannot be read.')
    return escapeNal(whole)
  }
  const begin = escapeNal(head)
  const out = new Uint8Array(begin.length + nal.length - end)
  out.set(begin)
  out.set(nal.subarray(end), begin.length)
  return out
}

/** The same with emulation prevention: no `00 00` stands before a byte of 3 or less. */
export function escapeNal(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length + (raw.length >> 1) + 2)
  let length = 0
  let zeros = 0
  for (const byte of raw) {
    if (zeros >= 2 && byte <= 3) {
      out[length++] = 3
      zeros = 0
    }
    zeros = byte === 0 ? zeros + 1 : 0
    out[length++] = byte
  }
  // A unit never ends on a zero.
  if (raw.at(-1) === 0) out[length++] = 3
  return out.slice(0, length)
}

/** An unsigned Exp-Golomb code that begins at bit `at`: its value, and the bit behind it. */
function readCode(bytes: Uint8Array, at: number): { value: number; end: number } {
  const reader = new BitReader(bytes, at)
  return { value: reader.ue(), end: reader.at }
}

/**
 * Replaces the bits `from`…`to` (exclusive) by the code of `value`; what follows moves. `size` is the number of bits
 * that count.
 */
function replaceCode(
  bytes: Uint8Array,
  from: number,
  to: number,
  value: number,
  size: number,
): { bytes: Uint8Array; size: number } {
  const writer = new BitWriter(size - (to - from) + codeLength(value))
  writer.copy(bytes, 0, from)
  writer.ue(value)
  writer.copy(bytes, to, size)
  return { bytes: writer.bytes(), size: writer.at }
}

/** Bits of a unit up to and with its stop bit (H.264 §7.3.2.11). */
export function bitsOf(raw: Uint8Array): number {
  let end = raw.length
  while (end > 0 && raw[end - 1] === 0) end--
  const last = raw[end - 1] ?? 0
  return end * 8 - Math.log2(last & -last)
}

/** Where the ids stand in a parameter set. An SPS leads with profile, constraints and level. */
const START = { sps: 32, pps: 8 }

const idOf = (set: Uint8Array, kind: 'sps' | 'pps'): number => readCode(unescapeNal(set), START[kind]).value

function withId(set: Uint8Array, kind: 'sps' | 'pps', id: number): Uint8Array {
  const raw = unescapeNal(set)
  const { end } = readCode(raw, START[kind])
  return escapeNal(replaceCode(raw, START[kind], end, id, bitsOf(raw)).bytes)
}

/** A PPS under another id, that names another SPS. */
function withIds(pps: Uint8Array, id: number, spsOf: (id: number) => number): Uint8Array {
  const raw = unescapeNal(pps)
  const own = readCode(raw, START.pps)
  const named = readCode(raw, own.end)
  const second = replaceCode(raw, own.end, named.end, spsOf(named.value), bitsOf(raw))
  return escapeNal(replaceCode(second.bytes, START.pps, own.end, id, second.size).bytes)
}

/** What one source of packets is called in the joined track: its PPS ids there, by those in its own packets. */
export interface Renumbered {
  pps: ReadonlyMap<number, number>
}

const same = (a: readonly Uint8Array[], b: readonly Uint8Array[]) =>
  a.length === b.length &&
  a.every((set, i) => set.length === b[i]?.length && set.every((byte, k) => byte === b[i]?.[k]))

/**
 * Joins the configurations of several sources. The first keeps its ids; those of others are changed where they differ.
 * A new PPS id is chosen so that its code is longer by whole bytes: whatever follows it in a slice header then stays
 * where it was within its byte, and the arithmetic-coded data behind the header, which begins on a byte, is left as it
 * is.
 * @returns the record, and for each source how its packets are renumbered; null when they stay as they are
 * @throws {RangeError} when there are more sets than ids
 */
export function joinAvcConfigs(configs: readonly AvcConfig[]): { record: Uint8Array; sources: (Renumbered | null)[] } {
  const [first] = configs
  if (!first) throw new RangeError('There is no H.264 configuration.')
  const sps: Uint8Array[] = []
  const pps: Uint8Array[] = []
  const taken = { sps: new Set<number>(), pps: new Set<number>() }
  const sources: (Renumbered | null)[] = []
  for (const [i, config] of configs.entries()) {
    const known = configs.findIndex((other, k) => k < i && same(other.sps, config.sps) && same(other.pps, config.pps))
    if (known >= 0) {
      sources.push(sources[known] ?? null)
      continue
    }
    const spsIds = new Map(config.sps.map((set) => [idOf(set, 'sps'), i === 0 ? idOf(set, 'sps') : -1]))
    const ppsIds = new Map(config.pps.map((set) => [idOf(set, 'pps'), i === 0 ? idOf(set, 'pps') : -1]))
    for (const [own, id] of spsIds) {
      const next = id >= 0 ? id : Array.from({ length: 32 }, (_, n) => n).find((n) => !taken.sps.has(n))
      if (next === undefined) throw new RangeError('There are more H.264 pictures than one track can describe.')
      taken.sps.add(next)
      spsIds.set(own, next)
    }
    for (const [own, id] of ppsIds) {
      const fits = (n: number) => !taken.pps.has(n) && (codeLength(n) - codeLength(own)) % 8 === 0
      const next = id >= 0 ? id : Array.from({ length: 256 }, (_, n) => n).find(fits)
      if (next === undefined) throw new RangeError('There are more H.264 pictures than one track can describe.')
      taken.pps.add(next)
      ppsIds.set(own, next)
    }
    const spsOf = (id: number) => spsIds.get(id) ?? id
    sps.push(...config.sps.map((set) => withId(set, 'sps', spsOf(idOf(set, 'sps')))))
    pps.push(...config.pps.map((set) => withIds(set, ppsIds.get(idOf(set, 'pps')) ?? 0, spsOf)))
    sources.push([...ppsIds].some(([own, id]) => own !== id) ? { pps: ppsIds } : null)
  }
  // What is said of the whole has to hold for each: the highest level and profile, and only constraints that all keep.
  const highest = configs.reduce((a, b) => (b.profile > a.profile ? b : a))
  const record = writeAvcConfig({
    profile: highest.profile,
    compatibility: configs.reduce((all, c) => all & c.compatibility, 0xff),
    level: max(configs, (c) => c.level) ?? -Infinity,
    sps,
    pps,
    tail: highest.tail,
  })
  return { record, sources }
}

export const isSlice = (nal: Uint8Array) => [SLICE, PARTITION_A, IDR].includes(typeOf(nal))

const renumberSlice = (nal: Uint8Array, { pps }: Renumbered): Uint8Array =>
  rewriteHead(nal, (raw) => {
    const firstMacroblock = readCode(raw, 8)
    const sliceType = readCode(raw, firstMacroblock.end)
    const own = readCode(raw, sliceType.end)
    const id = pps.get(own.value) ?? own.value
    // The code is longer by whole bytes.
    return replaceCode(raw, sliceType.end, own.end, id, raw.length * 8).bytes
  })

/** A packet for the joined track: lengths of four bytes, no parameter sets, and the slices' ids changed. */
export function joinedPacket(data: Uint8Array, lengthSize: number, renumbered: Renumbered | null): Uint8Array {
  const units = nalUnits(data, lengthSize)
  const kept = units.filter((nal) => nal.length > 0 && typeOf(nal) !== SPS && typeOf(nal) !== PPS)
  if (!renumbered && lengthSize === 4 && kept.length === units.length) return data
  return packUnits(renumbered ? kept.map((nal) => (isSlice(nal) ? renumberSlice(nal, renumbered) : nal)) : kept)
}

/** How a decoder can begin at a packet: at an IDR picture, at a recovery point, or not. */
export function avcEntry(data: Uint8Array, lengthSize: number): 'idr' | 'recovery' | null {
  if (nalUnits(data, lengthSize).some((nal) => typeOf(nal) === IDR)) return 'idr'
  return recoveryPoint(data, lengthSize) ? 'recovery' : null
}

/** A recovery point (H.264 §D.2.8). */
export interface RecoveryPoint {
  /** Frames after it until the picture is right; 0 when it is so from here on. */
  frames: number
  /** Whether the picture is then exactly that of a decoder that began earlier. */
  isExact: boolean
}

/** SEI payload type of a recovery point (H.264 §D.1.1). */
const RECOVERY_POINT = 6

/** The recovery point that a packet says it is; null for any other packet. */
export function recoveryPoint(data: Uint8Array, lengthSize: number): RecoveryPoint | null {
  for (const nal of nalUnits(data, lengthSize)) {
    if (typeOf(nal) !== SEI) continue
    const raw = unescapeNal(nal)
    for (let at = 1; at + 2 < raw.length;) {
      const number = () => {
        let value = 0
        while (raw[at] === 0xff) {
          value += 255
          at++
        }
        return value + (raw[at++] ?? 0)
      }
      const type = number()
      const size = number()
      if (type === RECOVERY_POINT) {
        const reader = new BitReader(raw, 8 * at)
        return { frames: reader.ue(), isExact: reader.bit() === 1 }
      }
      at += size
    }
  }
  return null
}
