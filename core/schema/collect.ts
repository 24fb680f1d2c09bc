/** Reads what comes in pieces, up to a limit. */

/**
 * What is read of a body that is too large, and dropped, bytes. Whoever sends hears of no refusal while they are still
 * writing into a connection that was closed: they see it broken (RFC 9112, 9.6).
 */
const DROPPED = 8 << 20

/** @returns the bytes end to end, or null when they are more than `most`, which are read on for `dropped` bytes */
export async function collectBytes(
  pieces: AsyncIterable<Uint8Array>,
  most: number,
  dropped = DROPPED,
): Promise<Uint8Array<ArrayBuffer> | null> {
  let parts: Uint8Array[] = []
  let size = 0
  for await (const part of pieces) {
    size += part.byteLength
    if (size > most + dropped) break
    if (size > most) parts = []
    else parts.push(part)
  }
  if (size > most) return null
  const bytes = new Uint8Array(size)
  let at = 0
  for (const part of parts) {
    bytes.set(part, at)
    at += part.byteLength
  }
  return bytes
}
