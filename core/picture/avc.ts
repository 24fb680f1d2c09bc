/**
 * H.264 as bytes: what is needed so that packets of two encoders can stand in one track. Each run of packets
 * brings its own parameter sets in band, before its first key frame (ISO/IEC 14496-15 §5.3, sample entry 'avc3').
 */

/** Parameter sets of an AVCDecoderConfigurationRecord, and the bytes of each NAL unit's length in its packets. */
export interface AvcConfig {
  lengthSize: number
  /** SPS and PPS NAL units, in order. */
  sets: Uint8Array[]
}

/** Reads an AVCDecoderConfigurationRecord (ISO/IEC 14496-15 §5.3.3.1). @throws {RangeError} when it is not one */
export function readAvcConfig(record: Uint8Array): AvcConfig {
  if (record[0] !== 1 || record.length < 7) throw new RangeError('This is no H.264 decoder configuration.')
  const sets: Uint8Array[] = []
  let at = 5
  for (const mask of [0x1f, 0xff]) {
    const count = (record[at++] ?? 0) & mask
    for (let i = 0; i < count; i++) {
      const length = ((record[at] ?? 0) << 8) | (record[at + 1] ?? 0)
      if (at + 2 + length > record.length) throw new RangeError('This H.264 decoder configuration is cut short.')
      sets.push(record.subarray(at + 2, at + 2 + length))
      at += 2 + length
    }
  }
  return { lengthSize: ((record[4] ?? 0) & 3) + 1, sets }
}

/** The same record, saying that lengths are four bytes. */
export function withLongLengths(record: Uint8Array): Uint8Array {
  const copy = record.slice()
  copy[4] = (copy[4] ?? 0) | 3
  return copy
}

/** A packet with each NAL unit's length in four bytes, led by `sets`. */
export function repack(data: Uint8Array, lengthSize: number, sets: readonly Uint8Array[]): Uint8Array {
  if (lengthSize === 4 && sets.length === 0) return data
  const units = [...sets]
  for (let at = 0; at + lengthSize <= data.length;) {
    let length = 0
    for (let i = 0; i < lengthSize; i++) length = length * 256 + (data[at + i] ?? 0)
    units.push(data.subarray(at + lengthSize, at + lengthSize + length))
    at += lengthSize + length
  }
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
