/**
 * SubRip (.srt) in and out. There is no standard; what is read is what programs write: a number, a timing line
 * with a comma before the milliseconds, text with <b>, <i>, <u>. Inside the app the text is WebVTT's.
 */
import type { CaptionTrack, Cue } from '../schema/captions'
import { escapeLetters, plainText } from './text'
import {
  complaining,
  cueText,
  fileLines,
  sortCues,
  timesProblem,
  writeTimestamp,
  type CaptionFile,
  type FileProblem,
} from './vtt'
import { recorded } from '../time/units'

const timestamp = /^(\d{1,3}):([0-5]?\d):([0-5]?\d)[,.](\d{1,3})$/

function readTimestamp(text: string): number | null {
  const m = timestamp.exec(text)
  return m ? Number(m[1]) * 3600 + Number(m[2]) * 60 + Number(m[3]) + Number(m[4]?.padEnd(3, '0')) / 1000 : null
}

/** SubRip text to WebVTT text: <b>, <i>, <u> stay tags, every other bracket and ampersand is text. */
function toCueText(srt: string): string {
  return srt
    .split(/(<\/?[biu]>)/i)
    .map((part, i) => (i % 2 === 1 ? part.toLowerCase() : escapeLetters(part)))
    .join('')
}

/** WebVTT text to SubRip text: only <b>, <i>, <u> survive, character references are resolved. */
function toSrtText(cueText: string): string {
  return cueText
    .split(/(<\/?[biu](?:\.[^>\s]*)?>)/)
    .map((part, i) => (i % 2 === 1 ? part.replace(/\.[^>]*/, '') : plainText(part)))
    .join('')
}

/**
 * Reads a SubRip file.
 * @param problems takes what is wrong with single cues, and the others are read; left out, the first is thrown
 * @throws {CaptionFileError} with the line and the reason
 */
export function readSrt(file: string, newId: () => string, problems?: FileProblem[]): CaptionFile {
  const complain = complaining(problems)
  const lines = fileLines(file)
  const cues: Cue[] = []
  let i = 0
  while (i < lines.length) {
    if (!lines[i]?.trim()) {
      i++
      continue
    }
    if (/^\d+$/.test(lines[i]?.trim() ?? '') && (lines[i + 1]?.includes('-->') ?? false)) i++
    const line = i + 1
    const [left = '', right] = (lines[i] ?? '').split('-->')
    const from = readTimestamp(left.trim())
    const to = readTimestamp(right?.trim().split(/\s+/)[0] ?? '')
    const wrong =
      right === undefined
        ? 'expected the times of a cue, such as 00:00:01,000 --> 00:00:02,000.'
        : timesProblem(from, to, '00:00:01,000')
    if (wrong) complain(line, wrong)
    const { text, next } = cueText(lines, i + 1, complain, (line) => !line.trim())
    i = next
    if (!wrong)
      cues.push({ id: newId(), from: recorded(from ?? 0), to: recorded(to ?? 0), text: toCueText(text.join('\n')) })
  }
  if (cues.length === 0) complain(1, 'there is no cue in this file.')
  return { cues: sortCues(cues) }
}

/** Writes a SubRip file, cues numbered from 1, lines ended by CRLF as players for it expect. */
export function writeSrt(track: Pick<CaptionTrack, 'cues'>): string {
  return track.cues
    .map(
      (cue, i) =>
        `${i + 1}\n${writeTimestamp(cue.from, ',')} --> ${writeTimestamp(cue.to, ',')}\n${toSrtText(cue.text)}\n`,
    )
    .join('\n')
    .replaceAll('\n', '\r\n')
}
