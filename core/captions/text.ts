/**
 * Cue text is kept as WebVTT writes it (W3C WebVTT, §6.4 cue text parsing): tags in angle brackets, the five
 * character references escaped. These helpers go between that and what a person reads or types.
 */

const references: Record<string, string> = {
  amp: '&',
  lt: '<',
  gt: '>',
  nbsp: '\u00a0',
  lrm: '\u200e',
  rlm: '\u200f',
  quot: '"',
}

/** What a reader sees: tags dropped, character references resolved. */
export function plainText(cueText: string): string {
  return cueText
    .replace(/<[^>\n]*>/g, '')
    .replace(
      /&(?:#(\d{1,7})|#x([0-9a-f]{1,6})|([a-z]+));/gi,
      (whole, dec: string | undefined, hex: string | undefined, name: string | undefined) => {
        if (name) return references[name] ?? whole
        const code = dec ? Number(dec) : parseInt(hex ?? '', 16)
        return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : '\ufffd'
      },
    )
}

/** Letters as cue text and markup write them. */
export const escapeLetters = (text: string): string =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;')

/** Cue text for what a person typed: `&`, `<`, `>` are escaped, blank lines (which would end the cue) are closed up. */
export function escapeText(plain: string): string {
  return escapeLetters(
    plain
      .replace(/\r\n?/g, '\n')
      .replace(/\n{2,}/g, '\n')
      .replace(/^\n+|\n+$/g, ''),
  )
}

/** The words a reader sees, in order. */
export function tokens(cueText: string): string[] {
  return plainText(cueText).split(/\s+/).filter(Boolean)
}

/** What a reader sees of cue text, letter by letter, with where in the text each stands. */
export function letters(cueText: string): { letter: string; at: number; end: number }[] {
  const out: { letter: string; at: number; end: number }[] = []
  const parts = /<[^>\n]*>|&(?:#\d{1,7}|#x[0-9a-f]{1,6}|[a-z]+);|[^]/giu
  for (const { 0: part, index } of cueText.matchAll(parts)) {
    const plain = part.startsWith('<') && part.endsWith('>') ? '' : plainText(part)
    for (const letter of plain) out.push({ letter, at: index, end: index + part.length })
  }
  return out
}

/** A word as it is compared: case and punctuation do not make another word. */
export const comparable = (word: string) => word.toLowerCase().replace(/[^\p{L}\p{N}']/gu, '')
