/**
 * What H.264's parameter sets and slice headers say, as far as a header has to be understood to be rewritten (ITU-T
 * H.264 §7.3.2.1, §7.3.2.2, §7.3.3). Only whole frames: what codes fields is told apart, and not read on.
 */
import { unescapeNal } from './avc'
import { BitReader } from './bits'

export interface Sps {
  id: number
  /** Bits of `frame_num` in a slice header. */
  frameNumBits: number
  /** `pic_order_cnt_type`: 0 says the order of showing in each slice, 2 is that of decoding. */
  orderType: number
  /** Bits of `pic_order_cnt_lsb`, with type 0. */
  orderBits: number
  /** `max_num_ref_frames` */
  references: number
  /** Bit of `gaps_in_frame_num_value_allowed_flag` in the unescaped set. */
  gapsAt: number
  framesOnly: boolean
  /** `ChromaArrayType`: 0 for grey pictures and planes coded apart. */
  chroma: number
  planesApart: boolean
}

/** Profiles whose sets say more about the picture's format (§7.3.2.1.1). */
const HIGH = [100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135]

export function readSps(nal: Uint8Array): Sps {
  const r = new BitReader(unescapeNal(nal), 8)
  const profile = r.bits(8)
  r.bits(16)
  const id = r.ue()
  let chroma = 1
  let planesApart = false
  if (HIGH.includes(profile)) {
    chroma = r.ue()
    if (chroma === 3) planesApart = r.bit() === 1
    // Bit depths, and transform bypass.
    r.ue()
    r.ue()
    r.bit()
    if (r.bit()) for (let i = 0; i < (chroma === 3 ? 12 : 8); i++) if (r.bit()) passScalingList(r, i < 6 ? 16 : 64)
  }
  const frameNumBits = r.ue() + 4
  const orderType = r.ue()
  let orderBits = 0
  if (orderType === 0) orderBits = r.ue() + 4
  else if (orderType === 1) {
    r.bit()
    r.se()
    r.se()
    for (let i = r.ue(); i > 0; i--) r.se()
  }
  const references = r.ue()
  const gapsAt = r.at
  r.bit()
  // Width and height in macroblocks.
  r.ue()
  r.ue()
  const framesOnly = r.bit() === 1
  return {
    id,
    frameNumBits,
    orderType,
    orderBits,
    references,
    gapsAt,
    framesOnly,
    chroma: planesApart ? 0 : chroma,
    planesApart,
  }
}

/** §7.3.2.1.1.1 */
function passScalingList(r: BitReader, size: number): void {
  let [last, next] = [8, 8]
  for (let i = 0; i < size; i++) {
    if (next !== 0) next = (last + r.se() + 256) % 256
    last = next === 0 ? last : next
  }
}

export interface Pps {
  id: number
  sps: number
  /** Whether what follows a slice header is arithmetic-coded, and so begins on a whole byte. */
  arithmetic: boolean
  /** `bottom_field_pic_order_in_frame_present_flag` */
  bottomOrder: boolean
  sliceGroups: number
  /** References in use by each list unless a slice says otherwise. */
  active: [number, number]
  weighted: boolean
  bipredictive: number
  deblocking: boolean
  redundant: boolean
}

export function readPps(nal: Uint8Array): Pps {
  const r = new BitReader(unescapeNal(nal), 8)
  const [id, sps] = [r.ue(), r.ue()]
  const [arithmetic, bottomOrder] = [r.bit() === 1, r.bit() === 1]
  const sliceGroups = r.ue() + 1
  const active: [number, number] = [r.ue() + 1, r.ue() + 1]
  const [weighted, bipredictive] = [r.bit() === 1, r.bits(2)]
  // Quantizers, and the chroma's offset.
  for (let i = 0; i < 3; i++) r.se()
  const deblocking = r.bit() === 1
  r.bit()
  const redundant = r.bit() === 1
  return { id, sps, arithmetic, bottomOrder, sliceGroups, active, weighted, bipredictive, deblocking, redundant }
}

/** An operation of a slice header on reference pictures: `code` is its `idc` or `memory_management_control_operation`. */
export interface Operation {
  code: number
  /** `abs_diff_pic_num_minus1` or `difference_of_pic_nums_minus1`, where it has one. */
  difference: number
  /** Its bits, with what belongs to it. */
  from: number
  to: number
}

/** Bits `from`…`to` (exclusive) of the unescaped unit, and the number they are. */
interface Field {
  from: number
  to: number
  value: number
}

export interface SliceHeader {
  /** 0 P, 1 B, 2 I, 3 SP, 4 SI */
  type: number
  isReference: boolean
  frameNum: Field
  /** `pic_order_cnt_lsb`, with type 0. */
  order: Field | null
  /** `delta_pic_order_cnt_bottom` */
  bottom: number
  /** References in use by each list. */
  active: [number, number]
  /** What moves pictures to the front of each list. */
  moves: [Operation[], Operation[]]
  /** `dec_ref_pic_marking`; null where the picture is no reference. */
  marking: { from: number; to: number; operations: Operation[] } | null
  /** The bit behind the header. */
  end: number
}

/**
 * The header of a slice that is no IDR picture's.
 * @param raw the unescaped unit
 */
export function readSliceHeader(raw: Uint8Array, { sps, pps }: { sps: Sps; pps: Pps }): SliceHeader {
  const r = new BitReader(raw, 8)
  const isReference = ((raw[0] ?? 0) & 0x60) !== 0
  r.ue()
  const type = r.ue() % 5
  // The id of the PPS, which the caller has gone by.
  r.ue()
  if (sps.planesApart) r.bits(2)
  const field = (count: number): Field => ({ from: r.at, value: r.bits(count), to: r.at })
  const frameNum = field(sps.frameNumBits)
  const order = sps.orderType === 0 ? field(sps.orderBits) : null
  const bottom = order && pps.bottomOrder ? r.se() : 0
  if (pps.redundant) r.ue()
  if (type === 1) r.bit()
  const isInter = [0, 1, 3].includes(type)
  const active: [number, number] = isInter ? [pps.active[0], type === 1 ? pps.active[1] : 0] : [0, 0]
  if (isInter && r.bit()) {
    active[0] = r.ue() + 1
    if (type === 1) active[1] = r.ue() + 1
  }
  const moves: [Operation[], Operation[]] = [[], []]
  for (const list of type === 1 ? [0, 1] : isInter ? [0] : []) if (r.bit()) moves[list as 0 | 1] = operations(r, 3)
  if ((pps.weighted && (type === 0 || type === 3)) || (pps.bipredictive === 1 && type === 1))
    passWeights(r, sps.chroma, active)
  const from = r.at
  const marking = isReference ? { from, operations: r.bit() ? operations(r, 0) : [], to: r.at } : null
  if (pps.arithmetic && isInter) r.ue()
  r.se()
  if (type === 3) r.bit()
  if (type === 3 || type === 4) r.se()
  if (pps.deblocking && r.ue() !== 1) {
    r.se()
    r.se()
  }
  return { type, isReference, frameNum, order, bottom, active, moves, marking, end: r.at }
}

/** Numbers that follow an operation's code: of lists that end with 3 (§7.3.3.1), and of marking, that ends with 0 (§7.3.3.3). */
const OPERANDS: Record<0 | 3, readonly number[]> = { 3: [1, 1, 1], 0: [0, 1, 1, 2, 1, 0, 1] }

function operations(r: BitReader, last: 0 | 3): Operation[] {
  const all: Operation[] = []
  for (;;) {
    const from = r.at
    const code = r.ue()
    if (code === last) return all
    const operands = OPERANDS[last][code]
    if (operands === undefined || all.length > 66) throw new RangeError('A slice header cannot be read.')
    const difference = operands > 0 ? r.ue() : 0
    if (operands > 1) r.ue()
    all.push({ code, difference, from, to: r.at })
  }
}

/** `pred_weight_table` (§7.3.3.2) */
function passWeights(r: BitReader, chroma: number, active: readonly [number, number]): void {
  r.ue()
  if (chroma !== 0) r.ue()
  for (const count of active)
    for (let i = 0; i < count; i++) {
      if (r.bit()) for (let k = 0; k < 2; k++) r.se()
      if (chroma !== 0 && r.bit()) for (let k = 0; k < 4; k++) r.se()
    }
}
