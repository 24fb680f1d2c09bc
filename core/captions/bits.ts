/** Unsigned numbers of up to 25 bit packed one behind the other in bytes, least significant bit first. */

/** How many bits hold every number from 0 to this one. */
export const bitsFor = (most: number): number => (most === 0 ? 0 : Math.floor(Math.log2(most)) + 1)

/** @param view with four bytes to spare behind the last number; @param at bit; @param width bits */
export const readPacked = (view: DataView, at: number, width: number): number =>
  (view.getUint32(at >>> 3, true) >>> (at & 7)) & ((1 << width) - 1)

/** @param view as for reading, and zero where is written */
export function writePacked(view: DataView, at: number, width: number, value: number): void {
  const byte = at >>> 3
  view.setUint32(byte, (view.getUint32(byte, true) | ((value & ((1 << width) - 1)) << (at & 7))) >>> 0, true)
}
