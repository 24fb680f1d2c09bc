/** Reads what comes in pieces, up to a limit. */

/** @returns the bytes end to end, or null as soon as they are more than `most` */
export async function collectBytes(
  pieces: AsyncIterable<Uint8Array>,
  most: number,
): Promise<Uint8Array<ArrayBuffer> | null> {
  const parts: Uint8Array[] = []
  let size = 0
  for await (const part of pieces) {
    size += part.byteLength
    if (size > most) return null
    parts.push(part)
  }
  const bytes = new Uint8Array(size)
  let at = 0
  for (const part of parts) {
    bytes.set(part, at)
    at += part.byteLength
  }
  return bytes
}
