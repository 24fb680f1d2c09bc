/** Captions as a text to read and print: in paragraphs, under the titles of chapters, with pictures of the slides. */
import { formatTimecode } from '../time/timecode'
import { spansOf, speakerOf } from './markup'
import { plainText } from './text'

/** What is said, with times in s of the result. */
export interface ReadingSource {
  title: string
  /** Tag by BCP 47. */
  language: string
  cues: readonly { from: number; to: number; text: string }[]
  chapters: readonly { at: number; title: string }[]
  /** Pictures of slides: when each appears, and its address. */
  pictures: readonly { at: number; address: string }[]
}

export interface ReadingOptions {
  /** Whether each paragraph says when it is said. */
  times: boolean
  pictures: boolean
}

export interface Paragraph {
  kind: 'said'
  at: number
  /** Empty where nobody is named, or the same goes on. */
  speaker: string
  /** Cue texts, one after another. */
  texts: string[]
}
type Block =
  Paragraph | { kind: 'chapter'; at: number; title: string } | { kind: 'picture'; at: number; address: string }

/** A pause of this many s behind a sentence begins a paragraph; any of `LONG_PAUSE` does. */
const PAUSE = 1.5
const LONG_PAUSE = 4
/** A paragraph of so many letters ends with its sentence. */
const LONG = 600

const endsSentence = (text: string) => /[.!?…]["”’)\]]*\s*$/.test(text)
const flat = (text: string) => plainText(text).replace(/\s+/g, ' ').trim()

/** What is said in paragraphs, with chapters and pictures where they belong. */
export function readingBlocks({ cues, chapters, pictures }: ReadingSource): Block[] {
  const marks = [
    ...chapters.map((c) => ({ ...c, kind: 'chapter' as const })),
    ...pictures.map((p) => ({ ...p, kind: 'picture' as const })),
    // A chapter that begins with a slide is named above it.
  ].sort((a, b) => a.at - b.at || (a.kind === 'chapter' ? -1 : 1))
  const blocks: Block[] = []
  let speaker = ''
  let last: { to: number; text: string } | null = null
  for (const cue of cues) {
    const text = flat(cue.text)
    if (!text) continue
    // What begins within a cue stands before it when most of the cue is under it.
    for (let mark = marks[0]; mark && mark.at <= (cue.from + cue.to) / 2; mark = marks[0]) {
      blocks.push(mark)
      marks.shift()
    }
    const open = blocks.at(-1)
    const said = speakerOf(cue.text) || (spansOf(cue.text)[0]?.speaker ?? '')
    const pause = last ? cue.from - last.to : 0
    const length = open?.kind === 'said' ? open.texts.join(' ').length : 0
    const isOver = !!last && endsSentence(last.text) && (pause >= PAUSE || length >= LONG)
    if (open?.kind === 'said' && !isOver && pause < LONG_PAUSE && (said === '' || said === speaker))
      open.texts.push(cue.text)
    else blocks.push({ kind: 'said', at: cue.from, speaker: said === speaker ? '' : said, texts: [cue.text] })
    if (said) speaker = said
    last = { to: cue.to, text }
  }
  return [...blocks, ...marks.filter((m) => m.kind === 'picture')]
}

/** @returns lines ended by \n, a paragraph a line, parted by empty ones */
export function writeReadingText(source: ReadingSource, { times }: ReadingOptions): string {
  const lines = readingBlocks(source).flatMap((block) => {
    if (block.kind === 'picture') return []
    const at = times ? `[${formatTimecode(block.at)}] ` : ''
    if (block.kind === 'chapter') return [`${at}${block.title}\n${'-'.repeat(Math.min(72, block.title.length))}`]
    const who = block.speaker ? `${block.speaker}: ` : ''
    return [`${at}${who}${block.texts.map(flat).join(' ')}`]
  })
  return `${[`${source.title}\n${'='.repeat(Math.min(72, source.title.length))}`, ...lines].join('\n\n')}\n`
}

const escaped: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' }
const html = (text: string) => text.replace(/[&<>"']/g, (c) => escaped[c] ?? c)

/** Cue text as HTML: its words, what is set apart, and those who begin to speak within it but for the first. */
function cueHtml(text: string): string {
  return spansOf(text.replace(/\s+/g, ' '))
    .map((span, i) => {
      let out = html(span.text)
      if (span.bold) out = `<strong>${out}</strong>`
      if (span.italic) out = `<em>${out}</em>`
      if (span.underlined) out = `<u>${out}</u>`
      return span.speaker && i > 0 ? `<b class="who">${html(span.speaker)}:</b> ${out}` : out
    })
    .join('')
    .trim()
}

/** One page that needs nothing else, with rules for paper. */
export function writeReadingHtml(source: ReadingSource, { times, pictures }: ReadingOptions): string {
  const body = readingBlocks(source).map((block) => {
    const at = times ? `<time>${formatTimecode(block.at)}</time> ` : ''
    if (block.kind === 'chapter') return `<h2>${at}${html(block.title)}</h2>`
    if (block.kind === 'picture')
      return pictures
        ? `<figure><img src="${html(block.address)}" alt="The slide at ${formatTimecode(block.at)}"></figure>`
        : ''
    const who = block.speaker ? `<b class="who">${html(block.speaker)}:</b> ` : ''
    return `<p>${at}${who}${block.texts.map(cueHtml).join(' ')}</p>`
  })
  return `<!doctype html>
<html lang="${html(source.language)}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${html(source.title)}</title>
<style>
body { font: 17px/1.6 "Atkinson Hyperlegible Next", system-ui, sans-serif; max-width: 38em; margin: 2em auto; padding: 0 1em; color: #16211f; background: #fff; }
h1 { font-size: 1.6em; line-height: 1.25; } h2 { font-size: 1.2em; margin: 1.8em 0 0.4em; break-after: avoid; }
p { margin: 0 0 0.8em; orphans: 3; widows: 3; } time { color: #56655f; font-size: 0.8em; font-variant-numeric: tabular-nums; }
figure { margin: 1.2em 0; break-inside: avoid; } img { max-width: 100%; border: 1px solid #c9d1ce; }
@media print { body { font-size: 11pt; margin: 0; max-width: none; } img { max-height: 9cm; } }
</style>
</head>
<body>
<h1>${html(source.title)}</h1>
${body.filter(Boolean).join('\n')}
</body>
</html>
`
}
