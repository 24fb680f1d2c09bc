/**
 * Which encoding a text file is in, told from its bytes: programs that write captions mostly do not say so. The labels are
 * those of the Encoding Standard, as TextDecoder takes them.
 */

/** How many bytes are looked at for the pattern of two bytes a letter. */
const LOOKED_AT = 4096
/** Of Latin letters in UTF-16 every second byte is 0; a few may not be. */
const MOSTLY = 0.7

export type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252'

/** Whether bytes are well-formed UTF-8 (The Unicode Standard, table 3-7). */
export function isUtf8(bytes: Uint8Array): boolean {
  for (let i = 0; i < bytes.length;) {
    const lead = bytes[i++] ?? 0
    if (lead < 0x80) continue
    const more =
      lead >= 0xc2 && lead <= 0xdf ? 1 : lead >= 0xe0 && lead <= 0xef ? 2 : lead >= 0xf0 && lead <= 0xf4 ? 3 : 0
    if (more === 0 || i + more > bytes.length) return false
    const second = bytes[i] ?? 0
    const least = lead === 0xe0 ? 0xa0 : lead === 0xf0 ? 0x90 : 0x80
    const most = lead === 0xed ? 0x9f : lead === 0xf4 ? 0x8f : 0xbf
    if (second < least || second > most) return false
    for (let k = 1; k < more; k++) if (((bytes[i + k] ?? 0) & 0xc0) !== 0x80) return false
    i += more
  }
  return true
}

/** The encoding of a text, by its byte order mark or by what its bytes can be. */
export function encodingOf(bytes: Uint8Array): Encoding {
  const [a, b] = bytes
  if (a === 0xff && b === 0xfe) return 'utf-16le'
  if (a === 0xfe && b === 0xff) return 'utf-16be'
  const pairs = Math.floor(Math.min(bytes.length, LOOKED_AT) / 2)
  let [even, odd] = [0, 0]
  for (let i = 0; i < pairs; i++) {
    if (bytes[2 * i] === 0) even++
    if (bytes[2 * i + 1] === 0) odd++
  }
  if (pairs > 0 && odd > MOSTLY * pairs) return 'utf-16le'
  if (pairs > 0 && even > MOSTLY * pairs) return 'utf-16be'
  return isUtf8(bytes) ? 'utf-8' : 'windows-1252'
}
