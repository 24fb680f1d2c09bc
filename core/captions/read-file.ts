/** A caption file of any kind, told apart by what stands in it rather than by its name. */
import type { Cue } from '../schema/captions'
import type { RecordedRange } from '../time/units'
import { hasTimes, readTimedText, scriptWords, spreadOver } from './plain-text'
import { reflow } from './reflow'
import { readSrt } from './srt'
import { readTtml } from './ttml'
import { CaptionFileError, fileLines, readVtt, type CaptionFile, type FileProblem } from './vtt'

export interface ReadCaptions extends CaptionFile {
  /** What it is, for a person. */
  format: 'WebVTT' | 'SubRip' | 'TTML' | 'text with times' | 'text without times'
  /** What could not be read; the rest is in `cues`. */
  problems: FileProblem[]
  /** The language that the file says, where it says one. */
  language?: string
}

/**
 * Reads a caption file. What is wrong with single cues is told, and the others are there.
 * @param speech where somebody speaks in the recording: a text without times is laid along that
 * @throws {CaptionFileError} with the line and the reason when nothing of it can be read
 */
export function readCaptionFile(
  file: string,
  newId: () => string,
  speech: readonly RecordedRange[] = [],
): ReadCaptions {
  const problems: FileProblem[] = []
  const text = file.replace(/^\ufeff/, '')
  if (!isText(text))
    throw new CaptionFileError(
      1,
      'this is not text in UTF-8, UTF-16 or Windows-1252. If it is a caption file, save it as UTF-8.',
    )
  if (/^\s*(<!--.*?-->\s*)*<(!doctype\s+html|html)\b/is.test(text))
    throw new CaptionFileError(1, 'this is a web page. Save the captions that it leads to, and read that file.')
  if (/^WEBVTT(\s|$)/.test(text)) return { format: 'WebVTT', ...readVtt(text, newId, problems), problems }
  if (/^\s*</.test(text)) return { format: 'TTML', ...readTtml(text, newId, problems), problems }
  if (fileLines(text).some((line) => line.includes('-->') && /\d/.test(line)) && !hasTimes(text))
    return { format: 'SubRip', ...readSrt(text, newId, problems), problems }
  if (hasTimes(text)) {
    const isSrt = fileLines(text).some((line, i, all) => line.includes('-->') && /^\d+$/.test(all[i - 1]?.trim() ?? ''))
    return isSrt
      ? { format: 'SubRip', ...readSrt(text, newId, problems), problems }
      : { format: 'text with times', ...readTimedText(text, newId, problems), problems }
  }
  return { format: 'text without times', cues: layOut(text, newId, speech), problems }
}

/** Characters that are looked at, and the share of them that no text has so many of. */
const [LOOKED_AT, STRANGE] = [8192, 0.005]

/** Whether it is a text at all: hardly any of its characters is a control, or stands for bytes that are no letter. */
function isText(text: string): boolean {
  const start = text.slice(0, LOOKED_AT)
  const strange = start.match(/[\u0000-\u0008\u000b\u000e-\u001f\u007f-\u009f\ufffd]/g)?.length ?? 0
  return strange <= STRANGE * start.length
}

/** A text without times along what is said; nobody has checked that it is said then. */
function layOut(text: string, newId: () => string, speech: readonly RecordedRange[]): Cue[] {
  const words = scriptWords(text)
  return reflow(spreadOver(words, speech), newId).map(({ words: _, ...cue }) => cue)
}
