/**
 * SubRip (.srt) in and out. There is no standard; what is read is what programs write: a number, a timing line
 * with a comma before the milliseconds, text with <b>, <i>, <u>. Inside the app the text is WebVTT's.
 */
import type { CaptionTrack, Cue } from '../schema/captions'
import { plainText } from './text'
import { CaptionFileError, checkTimes, fileLines, sortCues, writeTimestamp, type CaptionFile } from './vtt'
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
    .map((part, i) =>
      i % 2 === 1 ? part.toLowerCase() : part.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;'),
    )
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
 * @throws {CaptionFileError} with the line and the reason
 */
export function readSrt(file: string, newId: () => string): CaptionFile {
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
    if (right === undefined)
      throw new CaptionFileError(line, 'expected the times of a cue, such as 00:00:01,000 --> 00:00:02,000.')
    const from = readTimestamp(left.trim())
    const to = readTimestamp(right.trim().split(/\s+/)[0] ?? '')
    checkTimes(from, to, line, '00:00:01,000')
    i++
    const text: string[] = []
    while (i < lines.length && lines[i]?.trim()) {
      if (lines[i]?.includes('-->')) throw new CaptionFileError(i + 1, 'an empty line is missing before this cue.')
      text.push(lines[i++] ?? '')
    }
    cues.push({ id: newId(), from: recorded(from ?? 0), to: recorded(to ?? 0), text: toCueText(text.join('\n')) })
  }
  if (cues.length === 0) throw new CaptionFileError(1, 'there is no cue in this file.')
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
