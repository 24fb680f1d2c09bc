/** Bits of H.264's syntax: fixed-length and Exp-Golomb codes (ITU-T H.264 §7.2, §9.1), read and written. */

/** Reads from bit `at` on; behind the end there are zeros. */
export class BitReader {
  constructor(
    readonly bytes: Uint8Array,
    public at = 0,
  ) {}

  bit(): number {
    const bit = ((this.bytes[this.at >> 3] ?? 0) >> (7 - (this.at & 7))) & 1
    this.at++
    return bit
  }

  /** `count` bits, at most 32, as an unsigned number. */
  bits(count: number): number {
    let value = 0
    for (let i = 0; i < count; i++) value = value * 2 + this.bit()
    return value
  }

  /** An unsigned Exp-Golomb code. */
  ue(): number {
    let zeros = 0
    while (zeros < 32 && this.bit() === 0) zeros++
    return 2 ** zeros - 1 + this.bits(zeros)
  }

  /** A signed Exp-Golomb code. */
  se(): number {
    const code = this.ue()
    return code % 2 === 1 ? (code + 1) / 2 : -code / 2
  }
}

/** Length of the unsigned Exp-Golomb code of a value, bits. */
export const codeLength = (value: number): number => 2 * Math.floor(Math.log2(value + 1)) + 1

/** Writes bits one after the other. */
export class BitWriter {
  private readonly out: Uint8Array
  at = 0

  /** @param most bits that will be written */
  constructor(most: number) {
    this.out = new Uint8Array(Math.ceil(most / 8))
  }

  bit(bit: number): void {
    if (bit) this.out[this.at >> 3] = (this.out[this.at >> 3] ?? 0) | (0x80 >> (this.at & 7))
    this.at++
  }

  bits(value: number, count: number): void {
    for (let i = count - 1; i >= 0; i--) this.bit(Math.floor(value / 2 ** i) & 1)
  }

  /** An unsigned Exp-Golomb code. */
  ue(value: number): void {
    this.bits(value + 1, codeLength(value))
  }

  /** The bits `from`…`to` (exclusive) of other bytes. */
  copy(bytes: Uint8Array, from: number, to: number): void {
    const reader = new BitReader(bytes, from)
    while (reader.at < to && (this.at & 7) !== 0) this.bit(reader.bit())
    const whole = Math.max(0, (to - reader.at) >> 3)
    const [first, shift, start] = [reader.at >> 3, reader.at & 7, this.at >> 3]
    if (shift === 0) this.out.set(bytes.subarray(first, first + whole), start)
    else
      for (let i = 0; i < whole; i++)
        this.out[start + i] = ((bytes[first + i] ?? 0) << shift) | ((bytes[first + i + 1] ?? 0) >> (8 - shift))
    this.at += 8 * whole
    reader.at += 8 * whole
    while (reader.at < to) this.bit(reader.bit())
  }

  /** What was written; zeros fill the last byte. */
  bytes(): Uint8Array {
    return this.out.subarray(0, Math.ceil(this.at / 8))
  }
}
