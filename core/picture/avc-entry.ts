/**
 * Beginning at a recovery point of H.264 (ITU-T H.264 §D.2.8): the intra picture of an open group, at which a decoder
 * can begin, but behind another encoder's pictures only as an IDR picture. Its slices are rewritten as an IDR's, and
 * in those that follow, up to the next real one, `frame_num` and `pic_order_cnt_lsb` are counted from it. Both are of
 * fixed length, so that nothing moves in them.
 *
 *     decoded    I0 b  b  P  …  I9 b7 b8 P12 b10 b11 …
 *     from I9                   ID       P   b   b        leading pictures (b7, b8) are left out; where they were
 *     frame_num                 0   (1)  2   …            references, a gap in frame_num stands for them
 */
import {
  bitsOf,
  escapeNal,
  IDR,
  isSlice,
  nalUnits,
  packUnits,
  recoveryPoint,
  rewriteHead,
  SLICE,
  typeOf,
  unescapeNal,
  type AvcConfig,
} from './avc'
import { readPps, readSliceHeader, readSps, type Pps, type SliceHeader, type Sps } from './avc-headers'
import { BitReader, BitWriter, codeLength } from './bits'

type Sets = ReadonlyMap<number, { sps: Sps; pps: Pps }>

/** Parameter sets by the id of the PPS. @throws {RangeError} when they cannot be read */
function setsOf(config: AvcConfig): Sets {
  const sps = new Map(config.sps.map(readSps).map((s) => [s.id, s]))
  return new Map(
    config.pps.map(readPps).flatMap((pps) => {
      const own = sps.get(pps.sps)
      return own ? [[pps.id, { sps: own, pps }]] : []
    }),
  )
}

const ppsIdOf = (raw: Uint8Array): number => {
  const r = new BitReader(raw, 8)
  r.ue()
  r.ue()
  return r.ue()
}

/** The same configuration, in which frame numbers may have gaps (§7.4.2.1.1). */
export const withGaps = (config: AvcConfig): AvcConfig => ({
  ...config,
  sps: config.sps.map((nal) => {
    const raw = unescapeNal(nal).slice()
    const { gapsAt } = readSps(nal)
    raw[gapsAt >> 3] = (raw[gapsAt >> 3] ?? 0) | (0x80 >> (gapsAt & 7))
    return escapeNal(raw)
  }),
})

/** NAL units of scalable and multiview coding, which say themselves whether they are an IDR picture's. */
const EXTENSIONS = [14, 15, 20]
/** An adaptive marking that resets the order and the numbers of frames as an IDR picture does. */
const RESET = 5

const modulo = (value: number, size: number): number => ((value % size) + size) % size

const slicesOf = (data: Uint8Array, lengthSize: number): Uint8Array[] => nalUnits(data, lengthSize).filter(isSlice)

/** Counts frames (`frame_num`) and their order (`PicOrderCnt`, §8.2.1) from an entry on, without wrapping. */
function counter(entry: SliceHeader) {
  let number = 0
  let previous = { lsb: 0, msb: 0 }
  return {
    frame(header: SliceHeader, { sps }: { sps: Sps }): { number: number; order: number } {
      number += modulo(header.frameNum.value - entry.frameNum.value - number, 2 ** sps.frameNumBits)
      if (!header.order || !entry.order) return { number, order: 2 * number - (header.isReference ? 0 : 1) }
      const most = 2 ** sps.orderBits
      const lsb = modulo(header.order.value - entry.order.value, most)
      let msb = previous.msb
      if (previous.lsb - lsb >= most / 2) msb += most
      else if (lsb - previous.lsb > most / 2) msb -= most
      if (header.isReference) previous = { lsb, msb }
      return { number, order: msb + lsb }
    },
  }
}

/**
 * Whether what is shown from a packet on can be decoded and copied from there, when it is rewritten: it is an intra
 * picture from which on everything is exact, and the pictures after it find their references at the same places of
 * their lists as with the pictures before it.
 * @param packets from the recovery point on, in the order of decoding, until as many references have come as the film
 * holds (16 at most); 120 are enough
 */
export function canEnterAt(config: AvcConfig, packets: readonly Uint8Array[]): boolean {
  const [first] = packets
  const point = first && recoveryPoint(first, config.lengthSize)
  if (!point?.isExact || point.frames > 0) return false
  try {
    return isEntry(config, packets)
  } catch (error) {
    // Headers that cannot be read cannot be rewritten either.
    if (error instanceof RangeError) return false
    throw error
  }
}

function isEntry(config: AvcConfig, packets: readonly Uint8Array[]): boolean {
  const sets = setsOf(config)
  const supported = [...sets.values()].every(
    ({ sps, pps }) => sps.framesOnly && sps.orderType !== 1 && pps.sliceGroups === 1,
  )
  const [first] = packets
  if (!supported || !first) return false
  const read = (nal: Uint8Array) => {
    const raw = unescapeNal(nal)
    const own = sets.get(ppsIdOf(raw))
    if (!own) throw new RangeError('A slice names a parameter set that is not there.')
    return { header: readSliceHeader(raw, own), own }
  }
  const entry = slicesOf(first, config.lengthSize).map(read)
  const [begin] = entry
  const isIntra = entry.every(
    ({ header: h }) =>
      h.type === 2 && h.isReference && h.bottom >= 0 && h.marking?.operations.every((o) => o.code === 1),
  )
  if (!begin || !isIntra) return false
  const all = counter(begin.header)
  const kept = counter(begin.header)
  /** References since the entry: those left out are not in the lists of bipredictive slices. */
  let references: Reference[] = [{ number: 0, order: 0, there: true }]
  for (const data of packets.slice(1)) {
    const units = nalUnits(data, config.lengthSize)
    if (units.some((nal) => EXTENSIONS.includes(typeOf(nal)))) return false
    const slices = units.filter(isSlice)
    // From an IDR picture on nothing is rewritten; data in partitions is not read.
    const other = slices.find((nal) => typeOf(nal) !== SLICE)
    if (other) return typeOf(other) === IDR
    const headers = slices.map(read)
    const [slice] = headers
    if (!slice) continue
    const at = all.frame(slice.header, slice.own)
    const isLeading = at.order < 0
    if (!isLeading) {
      if (kept.frame(slice.header, slice.own).order !== at.order) return false
      if (!headers.every(({ header, own }) => findsReferences(header, own.sps, at, references))) return false
    }
    if (!slice.header.isReference) continue
    const operations = slice.header.marking?.operations ?? []
    if (operations.some((o) => o.code !== 1)) return false
    const gone = operations.map((o) => at.number - (o.difference + 1))
    references = [...references.filter((r) => !gone.includes(r.number)), { ...at, there: !isLeading }]
    // As many as the decoder holds: no picture before the entry is among them any more.
    if (references.length >= slice.own.sps.references) return true
  }
  return true
}

interface Reference {
  number: number
  order: number
  /** Whether it is in the run; what was left out is a gap. */
  there: boolean
}

/** Whether all references of a slice are among those since the entry, and at the same places of its lists (§8.2.4). */
function findsReferences(
  header: SliceHeader,
  sps: Sps,
  at: { number: number; order: number },
  references: readonly Reference[],
): boolean {
  /** A list begins with what is moved to its front (§8.2.4.3), then come those since the entry that were not. */
  const leads = (list: 0 | 1, own: readonly Reference[]): boolean => {
    const moved = new Set<Reference>()
    let number = at.number
    for (const { code, difference } of header.moves[list]) {
      number += (code === 0 ? -1 : 1) * (difference + 1)
      // Numbers wrap; a reference is never after the picture.
      number = at.number - modulo(at.number - number, 2 ** sps.frameNumBits)
      const found = references.find((r) => r.number === number)
      if (code > 1 || !found?.there) return false
      moved.add(found)
    }
    return header.active[list] <= header.moves[list].length + own.filter((r) => !moved.has(r)).length
  }
  if (header.type !== 1) return leads(0, references)
  const before = references.filter((r) => r.there && r.order < at.order)
  const after = references.filter((r) => r.there && r.order > at.order)
  // With pictures of one side alone both lists are alike, and the second begins with another where there are two.
  if (after.length === 0 && before.length < 2) return false
  return leads(0, before) && leads(1, after.length > 0 ? after : before)
}

/**
 * Rewrites the packets of a run that begins at a recovery point, in the order of decoding and without those that lead
 * it, so that it begins with an IDR picture.
 * @param run tells runs from one another: two that follow at once have to differ
 * @throws {RangeError} when the first has no slice
 */
export function enterAt(config: AvcConfig, run: number): (data: Uint8Array) => Uint8Array {
  const sets = setsOf(config)
  let entry: SliceHeader | null = null
  let count: ReturnType<typeof counter> | null = null
  let isOver = false
  return (data) => {
    const units = nalUnits(data, config.lengthSize)
    if (isOver || units.some((nal) => typeOf(nal) === IDR)) {
      isOver = true
      return packUnits(units)
    }
    const begins = entry === null
    let resets = false
    let at: { number: number } | null = null
    const rewrite = (raw: Uint8Array, isWhole: boolean) => {
      const own = sets.get(ppsIdOf(raw))
      if (!own) throw new RangeError('A slice names a parameter set that is not there.')
      const header = readSliceHeader(raw, own)
      if (header.end > 8 * raw.length) return null
      entry ??= header
      count ??= counter(entry)
      if (!begins) at ??= count.frame(header, own)
      resets ||= header.marking?.operations.some((o) => o.code === RESET) ?? false
      return begins ? asIdr(raw, isWhole, header, own, run) : counted(raw, isWhole, header, own, entry, at?.number ?? 0)
    }
    const made = units.map((nal) => (isSlice(nal) ? rewriteHead(nal, rewrite) : nal))
    if (entry === null) throw new RangeError('A run of pictures begins without one.')
    isOver = resets
    return packUnits(made)
  }
}

/** `idr_pic_id` of rewritten pictures: encoders begin with 0. */
const idrId = (run: number): number => 2 + (run % 2)

function asIdr(
  raw: Uint8Array,
  isWhole: boolean,
  header: SliceHeader,
  own: { sps: Sps; pps: Pps },
  run: number,
): Uint8Array | null {
  const { frameNum, order, marking, end } = header
  const id = idrId(run)
  const writer = new BitWriter(raw.length * 8 + codeLength(id) + 16)
  writer.bits(((raw[0] ?? 0) & 0xe0) | IDR, 8)
  writer.copy(raw, 8, frameNum.from)
  writer.bits(0, own.sps.frameNumBits)
  writer.ue(id)
  if (order) writer.bits(0, own.sps.orderBits)
  const behind = (order ?? frameNum).to
  writer.copy(raw, behind, marking?.from ?? behind)
  // Pictures before are shown, and this one is no long-term reference.
  writer.bits(0, 2)
  writer.copy(raw, marking?.to ?? behind, end)
  return withSliceData(writer, raw, isWhole, end, own.pps)
}

/**
 * What follows a header: arithmetic-coded data begins on a whole byte, behind ones (§7.3.4); all other moves, for which
 * it has to be there whole.
 */
function withSliceData(writer: BitWriter, raw: Uint8Array, isWhole: boolean, end: number, pps: Pps): Uint8Array | null {
  if (!pps.arithmetic && !isWhole) return null
  if (pps.arithmetic) {
    while (writer.at % 8 !== 0) writer.bit(1)
    writer.copy(raw, Math.ceil(end / 8) * 8, raw.length * 8)
  } else writer.copy(raw, end, bitsOf(raw))
  return writer.bytes()
}

function counted(
  raw: Uint8Array,
  isWhole: boolean,
  header: SliceHeader,
  own: { sps: Sps; pps: Pps },
  entry: SliceHeader,
  number: number,
): Uint8Array | null {
  const { frameNum, order, marking, end } = header
  const { frameNumBits, orderBits } = own.sps
  const writer = new BitWriter(raw.length * 8 + 8)
  writer.copy(raw, 0, frameNum.from)
  writer.bits(modulo(frameNum.value - entry.frameNum.value, 2 ** frameNumBits), frameNumBits)
  if (order) writer.bits(modulo(order.value - (entry.order?.value ?? 0), 2 ** orderBits), orderBits)
  let at = (order ?? frameNum).to
  // Pictures before the entry are not there to be taken leave of.
  const gone = marking?.operations.filter((o) => o.code === 1 && number - (o.difference + 1) < 0) ?? []
  for (const operation of gone) {
    writer.copy(raw, at, operation.from)
    at = operation.to
  }
  if (gone.length === 0) {
    writer.copy(raw, at, raw.length * 8)
    return writer.bytes()
  }
  writer.copy(raw, at, end)
  return withSliceData(writer, raw, isWhole, end, own.pps)
}
