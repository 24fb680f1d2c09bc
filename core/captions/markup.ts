/**
 * Cue text with its tags (W3C WebVTT, §4.2.2 cue text and §6.4 its parsing): who speaks, what is set apart, and the same
 * text in fewer words or other lines with the tags still around what they were around.
 */
import { breakLines } from './reflow'
import { escapeLetters, escapeText, letters, plainText, tokens } from './text'

const NAMES = 'c|i|b|u|ruby|rt|v|lang'
/** A tag: 1 the slash of an end tag, 2 its name, 3 its classes, 4 what stands behind; or 5 an instant within the cue. */
const tag = new RegExp(
  String.raw`<(?:(/?)(${NAMES})((?:\.[^\s.<>&]+)*)(?:[ \t]+([^<>\n]*))?|((?:\d{2,}:)?[0-5]\d:[0-5]\d\.\d{3}))>`,
  'g',
)
/** What would read as a tag if its brackets were resolved. */
const escapedTag = new RegExp(String.raw`&lt;(/?(?:${NAMES})(?:[. \t][^<>\n]*?)?|[\d:.]+)&gt;`, 'g')

type Piece =
  | { kind: 'text'; raw: string }
  | { kind: 'open' | 'close'; name: string; annotation: string; raw: string }
  | { kind: 'instant'; raw: string }

/** Cue text in tags and what stands between them. */
function pieces(text: string): Piece[] {
  const out: Piece[] = []
  let done = 0
  for (const match of text.matchAll(tag)) {
    if (match.index > done) out.push({ kind: 'text', raw: text.slice(done, match.index) })
    done = match.index + match[0].length
    const [raw, slash, name, , annotation = '', instant] = match
    if (instant !== undefined) out.push({ kind: 'instant', raw })
    else out.push({ kind: slash ? 'close' : 'open', name: name ?? '', annotation: annotation.trim(), raw })
  }
  if (done < text.length) out.push({ kind: 'text', raw: text.slice(done) })
  return out
}

/**
 * Cue text in which every tag that is opened is closed, in order; end tags without a beginning, and voices and languages
 * that say nothing, are taken as text.
 * @param text writes what is no tag
 */
function balanced(all: readonly Piece[], text: (raw: string) => string): string {
  const open: string[] = []
  let out = ''
  for (const piece of all) {
    if (piece.kind === 'text') out += text(piece.raw)
    else if (piece.kind === 'instant') out += piece.raw
    else if (piece.kind === 'open') {
      const isWhole = piece.annotation !== '' || (piece.name !== 'v' && piece.name !== 'lang')
      out += isWhole ? piece.raw : escapeText(piece.raw)
      if (isWhole) open.push(piece.name)
    } else if (open.includes(piece.name)) {
      // What was opened inside it ends with it.
      for (let name = open.pop(); name !== undefined; name = open.pop()) {
        out += `</${name}>`
        if (name === piece.name) break
      }
    } else out += escapeText(piece.raw)
  }
  return (
    out +
    open
      .reverse()
      .map((name) => `</${name}>`)
      .join('')
  )
}

/** Whether one voice speaks the whole of it: its name, and the text inside. */
function voice(text: string): { speaker: string; body: string } | null {
  const all = pieces(text)
  const first = all.findIndex((p) => p.kind !== 'text' || p.raw.trim() !== '')
  const opening = all[first]
  if (opening?.kind !== 'open' || opening.name !== 'v' || !opening.annotation) return null
  if (all.filter((p) => p.kind === 'open' && p.name === 'v').length > 1) return null
  const end = all.findLastIndex((p) => p.kind === 'close' && p.name === 'v')
  // Words behind the end of a voice are somebody else's.
  if (end >= 0 && all.slice(end + 1).some((p) => plainText(p.raw).trim() !== '')) return null
  const body = all.filter((_, i) => i > first && i !== end).map((p) => p.raw)
  return { speaker: plainText(opening.annotation), body: body.join('') }
}

/** Who speaks a cue, where one person speaks all of it; otherwise empty. */
export const speakerOf = (text: string): string => voice(text)?.speaker ?? ''

/** Cue text spoken by somebody; by nobody in particular when the name is empty. */
export function withSpeaker(text: string, name: string): string {
  const body = voice(text)?.body ?? text
  const said = escapeText(name.replace(/\s+/g, ' ').trim())
  return said ? `<v ${said}>${body}</v>` : body
}

/** Everyone who is named as speaking, those with most to say first. */
export function speakersOf(cues: readonly { text: string }[]): string[] {
  const count = new Map<string, number>()
  for (const { text } of cues)
    for (const piece of pieces(text))
      if (piece.kind === 'open' && piece.name === 'v' && piece.annotation) {
        const name = plainText(piece.annotation)
        count.set(name, (count.get(name) ?? 0) + 1)
      }
  return [...count].sort((a, b) => b[1] - a[1]).map(([name]) => name)
}

/** Cue text as a person types it: tags as they stand, everything else as it is read. Who speaks it stands apart. */
export function toTyped(text: string): string {
  const body = voice(text)?.body ?? text
  return pieces(body)
    .map((p) =>
      p.kind === 'text'
        ? p.raw
            .split(escapedTag)
            .map((part, i) => (i % 2 === 1 ? `&lt;${part}&gt;` : plainText(part)))
            .join('')
        : p.raw,
    )
    .join('')
}

/** Cue text of what a person typed: tags that WebVTT knows are tags, and closed; everything else is text. */
export const fromTyped = (typed: string): string =>
  balanced(pieces(closeUp(typed)), (raw) =>
    raw
      .split(escapedTag)
      .map((part, i) => (i % 2 === 1 ? `&lt;${part}&gt;` : escapeLetters(part)))
      .join(''),
  )

const closeUp = (typed: string) =>
  typed
    .replace(/\r\n?/g, '\n')
    .replace(/\n[^\S\n]*(?=\n)/g, '')
    .replace(/^\n+|\n+$/g, '')

/**
 * Cue text of some of its words, with the tags that stand around those.
 * @param isKept by the how manieth word, from 0
 * @param parting what stands behind a kept word
 */
export function pickWords(
  text: string,
  isKept: (index: number) => boolean,
  parting: (index: number) => ' ' | '\n' = () => ' ',
): string {
  const whole = balanced(pieces(text), (raw) => raw)
  let out = ''
  let done = 0
  let word = -1
  let inWord = false
  let lastKept = -1
  /** Where the white space behind the last kept word stands in `out`; −1 where there is none yet. */
  let gap = -1
  let instants: string[] = []
  const tags = (raw: string) => {
    for (const piece of pieces(raw))
      if (piece.kind === 'instant') instants.push(piece.raw)
      else out += piece.raw
  }
  for (const { letter, at, end } of letters(whole)) {
    tags(whole.slice(done, at))
    done = end
    if (/\s/.test(letter)) {
      inWord = false
      if (gap < 0 && lastKept >= 0) gap = out.length
      continue
    }
    if (!inWord) {
      inWord = true
      word++
      if (isKept(word)) {
        if (lastKept >= 0) {
          const at = gap < 0 ? out.length : gap
          out = out.slice(0, at) + parting(lastKept) + out.slice(at)
        }
        gap = -1
        lastKept = word
        out += instants.join('')
      }
      instants = []
    }
    if (isKept(word)) out += whole.slice(at, end)
  }
  tags(whole.slice(done))
  return tidy(out)
}

/** Cue text without tags around nothing, and without one that ends only to begin again. */
function tidy(text: string): string {
  const emptyTag = new RegExp(String.raw`<(${NAMES})(?:[.\s][^<>]*)?></\1>`, 'g')
  for (;;) {
    const next = text.replace(emptyTag, '').replace(/<\/([ibu])>(\s?)<\1>/g, '$2')
    if (next === text) return text
    text = next
  }
}

/** Cue text in one line or two, as evenly as its words allow; tags stay. */
export function breakText(text: string, lineLength: number): string {
  const words = tokens(text)
  const [first = ''] = breakLines(words, lineLength).split('\n')
  const last = first === '' ? words.length : first.split(' ').length
  return pickWords(
    text,
    () => true,
    (index) => (index === last - 1 && last < words.length ? '\n' : ' '),
  )
}

/** Two cue texts as one; a voice that speaks both is named once. */
export function joinTexts(first: string, second: string): string {
  const [a, b] = [voice(first), voice(second)]
  if (a && b && a.speaker === b.speaker) return withSpeaker(tidy(`${a.body} ${b.body}`.trim()), a.speaker)
  const whole = (text: string) => balanced(pieces(text), (raw) => raw)
  return tidy(`${whole(first)} ${whole(second)}`.trim())
}

/** Cue text in what is shown the same way. */
export interface Span {
  text: string
  italic: boolean
  bold: boolean
  underlined: boolean
  /** Who begins to speak here; empty where nobody is named, or the same goes on. */
  speaker: string
}

/** Cue text as it is shown. */
export function spansOf(cueText: string): Span[] {
  const open: string[] = []
  const spans: Span[] = []
  let speaker = ''
  for (const piece of pieces(cueText)) {
    if (piece.kind === 'open') {
      open.push(piece.name)
      if (piece.name === 'v') speaker = plainText(piece.annotation)
    } else if (piece.kind === 'close') {
      const at = open.lastIndexOf(piece.name)
      if (at >= 0) open.splice(at, 1)
    } else if (piece.kind === 'text') {
      const text = plainText(piece.raw)
      const has = (name: string) => open.includes(name)
      if (text) spans.push({ text, italic: has('i'), bold: has('b'), underlined: has('u'), speaker })
      if (text) speaker = ''
    }
  }
  return spans
}

/** The words of cue text, and which of them stand in italics. */
export function styledWords(cueText: string): { text: string; italic: boolean }[] {
  const words: { text: string; italic: boolean }[] = []
  let isOpen = false
  for (const { text, italic } of spansOf(cueText))
    for (const part of text.split(/(\s+)/)) {
      const isSpace = !part.trim()
      const last = words.at(-1)
      if (!isSpace && isOpen && last)
        words[words.length - 1] = { text: last.text + part, italic: last.italic || italic }
      else if (!isSpace) words.push({ text: part, italic })
      if (part !== '') isOpen = !isSpace
    }
  return words
}
