/**
 * Timed text in XML: TTML 2 (W3C), as its profile IMSC 1.1 Text uses it. Read is what captions are made of – paragraphs and
 * spans with their times, line breaks, italics, where a region stands – and written is a document of that profile.
 * Times: TTML2 §12.3.1 (clock and offset times; `par` and `seq` containers, §12.2.4).
 */
import { SaxesParser, type SaxesTagNS } from 'saxes'
import type { Cue } from '../schema/captions'
import { recorded } from '../time/units'
import { readLanguage } from './languages'
import { escapeText, plainText } from './text'
import {
  CaptionFileError,
  complaining,
  sortCues,
  timesProblem,
  writeTimestamp,
  type CaptionFile,
  type FileProblem,
} from './vtt'

const TT = 'http://www.w3.org/ns/ttml'
const STYLING = `${TT}#styling`
const PARAMETER = `${TT}#parameter`
const XML = 'http://www.w3.org/XML/1998/namespace'

/** A WebVTT line position for a region that is displayed at the top; TTML has the foot for captions otherwise. */
const AT_TOP = 'line:0'

/** How deep elements may be nested: the parser looks all of them through for each name, and no captions come near it. */
const MOST_NESTED = 100

interface Rates {
  frameRate: number
  tickRate: number
}

/** Seconds of a time expression, or null. */
export function readTime(text: string, { frameRate, tickRate }: Rates): number | null {
  const clock = /^(\d{2,}):([0-5]\d):([0-5]\d|60)(?:\.(\d+)|:(\d{2,})(?:\.(\d+))?)?$/.exec(text)
  if (clock) {
    const [, h, m, s, fraction, frames] = clock
    return (
      Number(h) * 3600 +
      Number(m) * 60 +
      Number(s) +
      (fraction ? Number(`0.${fraction}`) : 0) +
      (frames ? Number(frames) / frameRate : 0)
    )
  }
  const offset = /^(\d+(?:\.\d+)?)(h|m|s|ms|f|t)$/.exec(text)
  if (!offset) return null
  const by = { h: 3600, m: 60, s: 1, ms: 0.001, f: 1 / frameRate, t: 1 / tickRate }[offset[2] as 'h'] ?? 1
  return Number(offset[1]) * by
}

/** An element that holds what is timed. */
interface Frame {
  name: string
  /** s of the document */
  begin: number
  end: number
  /** Where its next child begins, when its children come one after the other. */
  sequence: number | null
  italic: boolean
  isTop: boolean
  preserve: boolean
  line: number
}

/**
 * Reads a TTML document.
 * @param problems takes what is wrong with single paragraphs, and the others are read; left out, the first is thrown
 * @returns what it holds, and the language that it says
 * @throws {CaptionFileError} where it is no TTML, or no well-formed XML
 */
export function readTtml(
  file: string,
  newId: () => string,
  problems?: FileProblem[],
): CaptionFile & { language?: string } {
  const complain = complaining(problems)
  const parser = new SaxesParser({ xmlns: true })
  const rates: Rates = { frameRate: 30, tickRate: 1 }
  const regionsAtTop = new Set<string>()
  const stylesItalic = new Set<string>()
  const frames: Frame[] = []
  const cues: Cue[] = []
  let language = ''
  let isTtml = false
  /** The text of the paragraph that is read, as cue text; null outside of one. */
  let text: string | null = null
  /** Times of spans in it, where they have some of their own: each is a cue then. */
  let region = ''

  const attribute = (tag: SaxesTagNS, local: string, uri = '') =>
    Object.values(tag.attributes).find((a) => a.local === local && a.uri === uri)?.value
  const time = (value: string | undefined) => (value === undefined ? undefined : readTime(value, rates))

  function close(frame: Frame, said: string): void {
    const trimmed = said
      .replace(/[ \t]*\n[ \t]*/g, '\n')
      .replace(/[ \t]{2,}/g, ' ')
      .trim()
      .replace(/\n{2,}/g, '\n')
    if (!plainText(trimmed).trim()) return
    const wrong = timesProblem(frame.begin, Number.isFinite(frame.end) ? frame.end : null, '00:00:01.000')
    if (wrong) {
      complain(frame.line, wrong)
      return
    }
    const settings = frame.isTop ? { settings: AT_TOP } : {}
    cues.push({ id: newId(), from: recorded(frame.begin), to: recorded(frame.end), text: trimmed, ...settings })
  }

  parser.on('error', (error) => {
    const [, line = '1', , reason = error.message] = /^(?:[^:]*:)?(\d+):(\d+): (.*)$/s.exec(error.message) ?? []
    throw new CaptionFileError(Number(line), `this is not well-formed XML: ${reason}`)
  })
  parser.on('opentag', (tag) => {
    if (frames.length === 0 && !isTtml) {
      if (tag.local !== 'tt' || !tag.uri.startsWith(TT))
        throw new CaptionFileError(parser.line, 'this XML is no TTML: its first element is not tt.')
      isTtml = true
      language = attribute(tag, 'lang', XML) ?? ''
      const multiplier = (attribute(tag, 'frameRateMultiplier', PARAMETER) ?? '1 1').split(/\s+/).map(Number)
      const rate = Number(attribute(tag, 'frameRate', PARAMETER) ?? 30) * ((multiplier[0] ?? 1) / (multiplier[1] ?? 1))
      rates.frameRate = rate > 0 ? rate : 30
      rates.tickRate = Number(attribute(tag, 'tickRate', PARAMETER) ?? 1) || 1
    }
    if (frames.length >= MOST_NESTED)
      throw new CaptionFileError(parser.line, `elements are nested more than ${MOST_NESTED} deep here.`)
    const parent = frames.at(-1)
    const isItalic =
      attribute(tag, 'fontStyle', STYLING) === 'italic' || attribute(tag, 'fontStyle', STYLING) === 'oblique'
    const id = attribute(tag, 'id', XML) ?? ''
    if (tag.local === 'style' && isItalic && id) stylesItalic.add(id)
    if (tag.local === 'region') region = id
    if (
      (tag.local === 'region' || tag.local === 'style') &&
      region &&
      attribute(tag, 'displayAlign', STYLING) === 'before'
    )
      regionsAtTop.add(region)
    if (tag.local === 'br' && text !== null) text += '\n'
    const begin = time(attribute(tag, 'begin'))
    const end = time(attribute(tag, 'end'))
    const dur = time(attribute(tag, 'dur'))
    if (begin === null || end === null || dur === null)
      complain(parser.line, 'a time here is not written as TTML writes times.')
    const from = (parent?.sequence ?? parent?.begin ?? 0) + (begin ?? 0)
    const base = parent?.sequence ?? parent?.begin ?? 0
    const until = Math.min(
      end === undefined || end === null ? Infinity : base + end,
      dur === undefined || dur === null ? Infinity : from + dur,
      parent?.end ?? Infinity,
    )
    const styles = (attribute(tag, 'style') ?? '').split(/\s+/)
    const named = attribute(tag, 'region')
    const italic = isItalic || styles.some((s) => stylesItalic.has(s))
    const frame: Frame = {
      name: tag.local,
      begin: from,
      end: until,
      sequence: attribute(tag, 'timeContainer') === 'seq' ? from : null,
      italic: italic && !(parent?.italic ?? false),
      isTop: named === undefined ? (parent?.isTop ?? false) : regionsAtTop.has(named),
      preserve: (attribute(tag, 'space', XML) ?? (parent?.preserve ? 'preserve' : '')) === 'preserve',
      line: parser.line,
    }
    frames.push(frame)
    if (tag.local === 'p') text = ''
    if (text !== null && tag.local === 'span') {
      // A span with times of its own is shown then, and not with the rest.
      if (begin !== undefined || end !== undefined || dur !== undefined) {
        const before = frames.findLast((f) => f.name === 'p')
        if (before && plainText(text).trim()) close({ ...before, end: from }, text)
        text = ''
      }
      if (frame.italic) text += '<i>'
    }
  })
  parser.on('text', (said) => {
    if (text === null) return
    const frame = frames.at(-1)
    text += escapeText(frame?.preserve ? said : said.replace(/\s+/g, ' '))
  })
  parser.on('closetag', (tag) => {
    const frame = frames.pop()
    const parent = frames.at(-1)
    if (!frame) return
    if (parent && parent.sequence !== null && Number.isFinite(frame.end)) parent.sequence = frame.end
    if (tag.local === 'region') region = ''
    if (tag.local === 'span' && text !== null) {
      if (frame.italic) text += '</i>'
      if (
        attribute(tag, 'begin') !== undefined ||
        attribute(tag, 'end') !== undefined ||
        attribute(tag, 'dur') !== undefined
      ) {
        close(frame, text)
        text = ''
      }
    }
    if (tag.local === 'p' && text !== null) {
      close(frame, frame.italic ? `<i>${text}</i>` : text)
      text = null
    }
  })
  parser.write(file.replace(/^\ufeff/, '')).close()
  if (cues.length === 0) complain(1, 'there is no paragraph with times in this file.')
  const tag = readLanguage(language)
  return { cues: sortCues(cues), ...(tag && { language: tag }) }
}

const xml = (text: string) =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')

/** Cue text as TTML content: italics are spans, line ends are breaks, whatever else WebVTT marks is its words. */
const toContent = (cueText: string): string =>
  cueText
    .split(/(<\/?i(?:\.[^>\s]*)?>)/)
    .map((part, i) => {
      if (i % 2 === 1) return part.startsWith('</') ? '</span>' : '<span tts:fontStyle="italic">'
      return xml(plainText(part)).replace(/\n/g, '<br/>')
    })
    .join('')

/** Whether a WebVTT cue stands in the upper half of the picture. */
const isAtTop = (settings = '') => /\bline:(?:[0-6](?!\d|%)|[0-4]?\d(?:\.\d+)?%)/.test(settings)

/**
 * Writes a document of the IMSC 1.1 Text profile: one region at the foot and one at the top, times of the media to the
 * millisecond.
 * @param language a tag of BCP 47
 */
export function writeTtml(track: {
  language: string
  cues: readonly (Pick<Cue, 'text' | 'settings'> & { from: number; to: number })[]
}): string {
  const paragraphs = track.cues.map(
    ({ from, to, text, settings }) =>
      `      <p begin="${writeTimestamp(from, '.')}" end="${writeTimestamp(to, '.')}" region="${isAtTop(settings) ? 'top' : 'foot'}">${toContent(text)}</p>`,
  )
  const region = (id: string, align: string) =>
    `      <region xml:id="${id}" tts:origin="10% 5%" tts:extent="80% 90%" tts:displayAlign="${align}" tts:textAlign="center" tts:showBackground="whenActive"/>`
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<tt xmlns="${TT}" xmlns:tts="${STYLING}" xmlns:ttp="${PARAMETER}" ttp:contentProfiles="http://www.w3.org/ns/ttml/profile/imsc1.1/text" ttp:timeBase="media" xml:lang="${xml(track.language)}">`,
    '  <head>',
    '    <styling><style xml:id="words" tts:fontFamily="proportionalSansSerif" tts:fontSize="80%" tts:color="#ffffff" tts:backgroundColor="#000000c0"/></styling>',
    '    <layout>',
    region('foot', 'after'),
    region('top', 'before'),
    '    </layout>',
    '  </head>',
    '  <body style="words">',
    '    <div>',
    ...paragraphs,
    '    </div>',
    '  </body>',
    '</tt>',
    '',
  ].join('\n')
}
