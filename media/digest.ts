/** The SHA-256 of a file of any size, read a piece at a time. */
import { sha256 } from '@noble/hashes/sha2.js'
import { toHex } from '#core/text/hex'

const PIECE = 8 << 20

/** @returns lower-case hexadecimal digits */
export async function digest(blob: Blob): Promise<string> {
  const hash = sha256.create()
  for (let at = 0; at < blob.size; at += PIECE)
    hash.update(new Uint8Array(await blob.slice(at, at + PIECE).arrayBuffer()))
  return toHex(hash.digest())
}
