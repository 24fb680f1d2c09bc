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
const timestamp = /^(?:(\d+):)?([0-5]\d):([0-5]\d)\.(\d{3})$/

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

/** What of a caption file could not be read: where (1-based), and why, as a sentence. */
export interface FileProblem {
  line: number
  reason: string
}

/** What reading does about a line that is wrong: notes it and goes on with the next cue, or refuses the file. */
export function complaining(problems: FileProblem[] | undefined): (line: number, reason: string) => void {
  return (line, reason) => {
    if (!problems) throw new CaptionFileError(line, reason)
    problems.push({ line, reason })
  }
}

/** What is wrong with a cue's two times; empty when nothing is. All formats share the rules. */
export function timesProblem(from: number | null, to: number | null, example: string): string {
  if (from === null || to === null) return `the ${from === null ? 'start' : 'end'} time is not written as ${example}.`
  if (to <= from) return 'the cue ends before it starts.'
  return to > 86_400 ? 'the cue lies beyond 24 hours.' : ''
}

/** Whether a line says the times of a cue, or what names the cue before such a line. */
const beginsCue = (lines: readonly string[], i: number) =>
  (lines[i]?.includes('-->') ?? false) ||
  (/^\d+$/.test(lines[i]?.trim() ?? '') && (lines[i + 1]?.includes('-->') ?? false))

/**
 * The lines of a cue's text, from `i` on; they end where the next cue begins although no empty line parts them.
 * @param isEnd whether a line ends the text: an empty one, of which formats have different notions
 */
export function cueText(
  lines: readonly string[],
  i: number,
  complain: (line: number, reason: string) => void,
  isEnd: (line: string) => boolean,
): { text: string[]; next: number } {
  const text: string[] = []
  while (i < lines.length && !isEnd(lines[i] ?? '')) {
    if (beginsCue(lines, i)) {
      const line = lines[i]?.includes('-->') ? i + 1 : i + 2
      complain(line, 'an empty line is missing before this cue, or the text before it contains -->.')
      break
    }
    text.push(lines[i++] ?? '')
  }
  return { text, next: i }
}

/**
 * Reads a WebVTT file.
 * @param newId makes an id for each cue
 * @param problems takes what is wrong with single cues, and the others are read; left out, the first is thrown
 * @throws {CaptionFileError} with the line and the reason
 */
export function readVtt(file: string, newId: () => string, problems?: FileProblem[]): CaptionFile {
  const complain = complaining(problems)
  const lines = fileLines(file)
  const signature = lines[0] ?? ''
  if (!/^WEBVTT(?:[ \t]|$)/.test(signature))
    throw new CaptionFileError(1, 'a WebVTT file has to begin with the word WEBVTT.')
  let i = 1
  const head: string[] = [signature.slice(6).trim()]
  while (i < lines.length && lines[i] !== '') {
    if (lines[i]?.includes('-->')) {
      complain(i + 1, 'there has to be an empty line between the header and the first cue.')
      break
    }
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
    const first = lines[i] ?? ''
    const timingAt = first.includes('-->') ? i : (lines[i + 1]?.includes('-->') ?? false) ? i + 1 : -1
    if (timingAt < 0) {
      const block: string[] = []
      while (i < lines.length && lines[i] !== '') block.push(lines[i++] ?? '')
      if (/^(NOTE|STYLE|REGION)(?:[ \t]|$)/.test(first)) pending.push(block.join('\n'))
      else complain(start + 1, 'this block is neither a cue (it has no line with -->) nor a NOTE, STYLE or REGION.')
      continue
    }
    const match = timing.exec(lines[timingAt] ?? '')
    const from = readTimestamp(match?.[1] ?? '')
    const to = readTimestamp(match?.[2] ?? '')
    const wrong = match
      ? timesProblem(from, to, '00:00:01.000')
      : 'the times have to be written as 00:00:01.000 --> 00:00:02.000.'
    if (wrong) complain(timingAt + 1, wrong)
    const { text, next } = cueText(lines, timingAt + 1, complain, (line) => line === '')
    i = next
    if (wrong) continue
    cues.push({
      id: newId(),
      from: recorded(from ?? 0),
      to: recorded(to ?? 0),
      text: text.join('\n'),
      ...(timingAt > start && { name: first }),
      ...(match?.[3] && { settings: match[3].trim() }),
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
