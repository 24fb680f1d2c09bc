/**
 * WebVTT in and out (W3C WebVTT: The Web Video Text Tracks Format, §4 syntax). The reader is strict where a
 * lenient one would lose something, and says line and reason; what the standard allows and the app does not
 * use (settings, identifiers, NOTE, STYLE and REGION blocks, the header text) is kept as it stood.
 */
import type { CaptionTrack, Cue } from '../schema/captions'
import { recorded } from '../time/units'

/** A caption file that cannot be read. `line` is 1-based; the message is a sentence for a person. */
export class CaptionFileError extends Error {
  override name = 'CaptionFileError'
  constructor(
    readonly line: number,
    readonly reason: string,
  ) {
    super(`Line ${line}: ${reason}`)
  }
}

const timing = /^(\S+)[ \t]+-->[ \t]+(\S+)(?:[ \t]+(.*))?$/
const timestamp = /^(?:(\d{2,}):)?([0-5]\d):([0-5]\d)\.(\d{3})$/

/** Seconds of a WebVTT timestamp (`mm:ss.ttt` or `hh:mm:ss.ttt`), or null. */
function readTimestamp(text: string): number | null {
  const m = timestamp.exec(text)
  return m ? Number(m[1] ?? 0) * 3600 + Number(m[2]) * 60 + Number(m[3]) + Number(m[4]) / 1000 : null
}

/** `hh:mm:ss<mark>ttt`, the form both WebVTT and SubRip accept. Seconds are rounded to whole ms. */
export function writeTimestamp(seconds: number, mark: '.' | ','): string {
  const ms = Math.round(seconds * 1000)
  const two = (n: number) => String(n).padStart(2, '0')
  return `${two(Math.floor(ms / 3_600_000))}:${two(Math.floor(ms / 60_000) % 60)}:${two(Math.floor(ms / 1000) % 60)}${mark}${String(ms % 1000).padStart(3, '0')}`
}

/** Splits a file into lines; CR, LF and CRLF all end one (§4.1). A byte order mark is dropped, NUL becomes U+FFFD. */
export function fileLines(file: string): string[] {
  return file
    .replace(/^\ufeff/, '')
    .replaceAll('\0', '\ufffd')
    .split(/\r\n|\r|\n/)
}

/** What a caption file holds, before it becomes a track. */
export type CaptionFile = Pick<CaptionTrack, 'cues' | 'header' | 'after'>

/** Checks a cue's two times; both formats share the rules. */
export function checkTimes(from: number | null, to: number | null, line: number, example: string): void {
  if (from === null || to === null)
    throw new CaptionFileError(line, `the ${from === null ? 'start' : 'end'} time is not written as ${example}.`)
  if (to <= from) throw new CaptionFileError(line, 'the cue ends before it starts.')
  if (to > 86_400) throw new CaptionFileError(line, 'the cue lies beyond 24 hours.')
}

/**
 * Reads a WebVTT file.
 * @param newId makes an id for each cue
 * @throws {CaptionFileError} with the line and the reason
 */
export function readVtt(file: string, newId: () => string): CaptionFile {
  const lines = fileLines(file)
  const signature = lines[0] ?? ''
  if (!/^WEBVTT(?:[ \t]|$)/.test(signature))
    throw new CaptionFileError(1, 'a WebVTT file has to begin with the word WEBVTT.')
  let i = 1
  const head: string[] = [signature.slice(6).trim()]
  while (i < lines.length && lines[i] !== '') {
    if (lines[i]?.includes('-->'))
      throw new CaptionFileError(i + 1, 'there has to be an empty line between the header and the first cue.')
    head.push(lines[i++] ?? '')
  }
  const cues: Cue[] = []
  let pending: string[] = []
  while (i < lines.length) {
    if (lines[i] === '') {
      i++
      continue
    }
    const start = i
    const block: string[] = []
    while (i < lines.length && lines[i] !== '') block.push(lines[i++] ?? '')
    const first = block[0] ?? ''
    const timingAt = first.includes('-->') ? 0 : (block[1]?.includes('-->') ?? false) ? 1 : -1
    if (timingAt < 0) {
      if (!/^(NOTE|STYLE|REGION)(?:[ \t]|$)/.test(first))
        throw new CaptionFileError(
          start + 1,
          'this block is neither a cue (it has no line with -->) nor a NOTE, STYLE or REGION.',
        )
      pending.push(block.join('\n'))
      continue
    }
    const line = start + timingAt + 1
    const match = timing.exec(block[timingAt] ?? '')
    if (!match) throw new CaptionFileError(line, 'the times have to be written as 00:00:01.000 --> 00:00:02.000.')
    const from = readTimestamp(match[1] ?? '')
    const to = readTimestamp(match[2] ?? '')
    checkTimes(from, to, line, '00:00:01.000')
    const text = block.slice(timingAt + 1)
    const stray = text.findIndex((t) => t.includes('-->'))
    if (stray >= 0)
      throw new CaptionFileError(
        line + 1 + stray,
        'an empty line is missing before the next cue, or the text contains -->.',
      )
    cues.push({
      id: newId(),
      from: recorded(from ?? 0),
      to: recorded(to ?? 0),
      text: text.join('\n'),
      ...(timingAt === 1 && { name: first }),
      ...(match[3] && { settings: match[3].trim() }),
      ...(pending.length > 0 && { before: pending }),
    })
    pending = []
  }
  const header = head.join('\n').trimEnd()
  return { cues: sortCues(cues), ...(header && { header }), ...(pending.length > 0 && { after: pending }) }
}

/** A cue in whichever time the file is in. */
type WrittenCue = Omit<Cue, 'id' | 'from' | 'to' | 'words'> & { from: number; to: number }

/** Writes a WebVTT file. What `readVtt` kept is written back where it stood. */
export function writeVtt(track: Omit<CaptionFile, 'cues'> & { cues: readonly WrittenCue[] }): string {
  const blocks = [`WEBVTT${track.header ? (track.header.startsWith('\n') ? '' : ' ') + track.header : ''}`]
  for (const cue of track.cues) {
    blocks.push(...(cue.before ?? []))
    const times = `${writeTimestamp(cue.from, '.')} --> ${writeTimestamp(cue.to, '.')}${cue.settings ? ` ${cue.settings}` : ''}`
    blocks.push([...(cue.name === undefined ? [] : [cue.name]), times, ...(cue.text ? [cue.text] : [])].join('\n'))
  }
  blocks.push(...(track.after ?? []))
  return blocks.join('\n\n') + '\n'
}

/** Cues in the order of their start; the order of equal starts is kept. */
export const sortCues = (cues: readonly Cue[]): Cue[] => [...cues].sort(byTimes)

export const byTimes = (a: Cue, b: Cue): number => a.from - b.from || a.to - b.to
