/**
 * Reads media from a blob in large blocks. Reading a blob costs milliseconds a call in Chromium, however little is
 * read, so that blocks of some megabytes, a few kept and the next one fetched ahead, are many times faster.
 */
import { ALL_FORMATS, CustomSource, Input } from 'mediabunny'

/** Bytes read at once, and blocks kept for each file: picture and sound are read at different places. */
const BLOCK = 2 << 20
const KEPT = 3
/** Bytes read at once of a file that is looked at here and there. */
const SCATTERED = 64 << 10

function blobSource(blob: Blob, size: number): CustomSource {
  /** By number; the one used last stands last. */
  const blocks = new Map<number, Promise<Uint8Array> | Uint8Array>()
  const last = Math.max(0, Math.ceil(blob.size / size) - 1)
  const load = (index: number): Promise<Uint8Array> | Uint8Array => {
    const known = blocks.get(index)
    const block =
      known ??
      blob
        .slice(index * size, (index + 1) * size)
        .arrayBuffer()
        .then((buffer) => {
          const bytes = new Uint8Array(buffer)
          if (blocks.has(index)) blocks.set(index, bytes)
          return bytes
        })
    blocks.delete(index)
    blocks.set(index, block)
    for (const oldest of blocks.keys()) {
      if (blocks.size <= KEPT) break
      blocks.delete(oldest)
    }
    return block
  }
  /** The following block is wanted soon when reading has come to the second half of this one. */
  const lookAhead = (end: number) => {
    const index = Math.floor(end / size)
    if (size < BLOCK || end % size <= size / 2 || index >= last || blocks.has(index + 1)) return
    const next = load(index + 1)
    // Whoever reads it is told what went wrong.
    if (next instanceof Promise) next.catch(() => blocks.delete(index + 1))
  }
  const gather = async (start: number, end: number): Promise<Uint8Array> => {
    // An index is longer than a small block.
    if (end - start > 2 * size) return new Uint8Array(await blob.slice(start, end).arrayBuffer())
    const out = new Uint8Array(end - start)
    for (let at = start; at < end;) {
      const index = Math.floor(at / size)
      const part = (await load(index)).subarray(at - index * size, end - index * size)
      out.set(part, at - start)
      at += part.length
    }
    return out
  }
  return new CustomSource({
    getSize: () => blob.size,
    read(start, end) {
      lookAhead(end)
      const index = Math.floor(start / size)
      const block = end <= (index + 1) * size ? load(index) : null
      return block instanceof Uint8Array ? block.slice(start - index * size, end - index * size) : gather(start, end)
    },
    prefetchProfile: 'fileSystem',
    maxCacheSize: 1 << 20,
    dispose: () => blocks.clear(),
  })
}

/** Opens a blob as media, to be read from some place on. Dispose of it when done. */
export const openInput = (blob: Blob): Input => new Input({ source: blobSource(blob, BLOCK), formats: ALL_FORMATS })

/** Opens a blob as media, to be looked at here and there. Dispose of it when done. */
export const openScattered = (blob: Blob): Input =>
  new Input({ source: blobSource(blob, SCATTERED), formats: ALL_FORMATS })
