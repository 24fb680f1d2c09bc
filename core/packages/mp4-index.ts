/**
 * The index of an MP4 file at its front (ISO/IEC 14496-12). It is written last, into room that was kept for the most it
 * could need; a student on a weak line would wait for what is left over. Here that is found and the index made to fit
 * without it.
 *
 *     ftyp │ moov │ free … │ mdat            ftyp │ moov │ mdat
 */

/** What stands at the front of a file. Bytes. */
export interface FrontBoxes {
  moov: { at: number; size: number }
  /** Room left over between index and media. */
  free: number
  /** Where the media begin, with their box's header. */
  media: number
}

/** Reads `length` bytes at `at`; fewer at the end of the file. */
export type ReadAt = (at: number, length: number) => Promise<Uint8Array>

const typeAt = (bytes: Uint8Array, at: number): string => String.fromCharCode(...bytes.subarray(at + 4, at + 8))
const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

/** Boxes up to the media; null when the index does not stand before them. */
export async function frontBoxes(read: ReadAt): Promise<FrontBoxes | null> {
  let moov: FrontBoxes['moov'] | null = null
  let free = 0
  for (let at = 0; ;) {
    const head = await read(at, 16)
    if (head.length < 16) return null
    const type = typeAt(head, 0)
    const short = viewOf(head).getUint32(0)
    const size = short === 1 ? Number(viewOf(head).getBigUint64(8)) : short
    if (type === 'mdat') return moov && { moov, free, media: at }
    if (type === 'moov') moov = { at, size }
    else if (type === 'free' && moov) free += size
    // A size of 0 reaches to the end of the file; one below 8 is none.
    if (size < 8) return null
    at += size
  }
}

/** Boxes that hold the way to the tables of chunk offsets. */
const parents = new Set(['moov', 'trak', 'mdia', 'minf', 'stbl'])

/** Makes every chunk of an index (a `moov` box, changed in place) stand `by` bytes earlier in the file (§8.7.5). */
export function moveChunks(moov: Uint8Array, by: number): void {
  const view = viewOf(moov)
  const visit = (from: number, to: number): void => {
    for (let at = from; at + 8 <= to;) {
      const size = view.getUint32(at)
      const type = typeAt(moov, at)
      if (size < 8 || at + size > to) throw new RangeError(`The index is damaged at its box ${type}.`)
      if (parents.has(type)) visit(at + 8, at + size)
      const count = type === 'stco' || type === 'co64' ? view.getUint32(at + 12) : 0
      for (let i = 0; i < count; i++)
        if (type === 'stco') view.setUint32(at + 16 + 4 * i, view.getUint32(at + 16 + 4 * i) - by)
        else view.setBigUint64(at + 16 + 8 * i, view.getBigUint64(at + 16 + 8 * i) - BigInt(by))
      at += size
    }
  }
  visit(0, moov.length)
}
