/**
 * Plain text as captions: with an instant before each piece, as transcripts have them, or without any, which is a script to
 * be laid along what is said.
 */
import type { Cue, Word } from '../schema/captions'
import { recorded, type RecordedRange } from '../time/units'
import { reflow } from './reflow'
import { complaining, fileLines, sortCues, timesProblem, type CaptionFile, type FileProblem } from './vtt'

const clock = String.raw`(?:(\d{1,2}):)?(\d{1,2}):([0-5]\d)(?:[.,](\d{1,3}))?`
/** `0:05 words`, `[00:00:05.200] words`, `0:05 – 0:09: words` */
const timed = new RegExp(
  String.raw`^[[(]?${clock}[\])]?(?:\s*(?:-->|[-–—]|to)\s*[[(]?${clock}[\])]?)?(?:\s*[:–—-]\s*|\s+|$)(.*)$`,
)

/** How long a piece lasts of which only the start is known and nothing follows: characters a second, and least, s. */
const SPEED = 15
const LEAST = 1

const seconds = (parts: readonly (string | undefined)[]) => {
  const [h, m, s, f] = parts
  return Number(h ?? 0) * 3600 + Number(m) * 60 + Number(s) + Number((f ?? '0').padEnd(3, '0')) / 1000
}

/** Whether a text has an instant before its first words. */
export const hasTimes = (file: string): boolean =>
  timed.test(
    fileLines(file)
      .find((line) => line.trim())
      ?.trim() ?? '',
  )

/** The words of a text over a stretch of time, s, each as long as its letters are of all. */
export function spreadWords(text: string, from: number, to: number): Word[] {
  const words = text.split(/\s+/).filter(Boolean)
  const letters = words.reduce((sum, w) => sum + w.length + 1, 0)
  let at = from
  return words.map((word, i) => {
    const end = i === words.length - 1 ? to : at + ((word.length + 1) / letters) * (to - from)
    const spread = { text: word.slice(0, 100), from: recorded(at), to: recorded(end), confidence: 1 }
    at = end
    return spread
  })
}

/**
 * Reads a text with instants before its pieces. Each lasts until the next, or as long as it takes to read.
 * @param problems takes what is wrong with single pieces, and the others are read; left out, the first is thrown
 * @throws {CaptionFileError} with the line and the reason
 */
export function readTimedText(file: string, newId: () => string, problems?: FileProblem[]): CaptionFile {
  const complain = complaining(problems)
  const pieces: { line: number; from: number; to: number | null; text: string }[] = []
  fileLines(file).forEach((raw, i) => {
    const line = raw.trim()
    const match = timed.exec(line)
    if (match) {
      const end = match.slice(5, 9)
      const to = end[1] === undefined ? null : seconds(end)
      pieces.push({ line: i + 1, from: seconds(match.slice(1, 5)), to, text: match[9] ?? '' })
    } else if (line) {
      const last = pieces.at(-1)
      if (last) last.text = `${last.text} ${line}`.trim()
      else complain(i + 1, 'there is no time before these words, such as 0:05.')
    }
  })
  const cues: Cue[] = []
  pieces.forEach(({ line, from, to, text }, i) => {
    const next = pieces[i + 1]?.from ?? Infinity
    const reading = from + Math.max(LEAST, text.length / SPEED)
    const end = to ?? (next > from ? Math.min(next, Math.max(reading, from + LEAST)) : reading)
    const wrong = timesProblem(from, end, '0:00:05')
    if (wrong) complain(line, wrong)
    else if (!text) complain(line, 'nothing is said here.')
    // What is spread by its letters is no longer sure of its words' times: they are not kept.
    else cues.push(...reflow(spreadWords(text, from, end), newId).map(({ words: _, ...cue }) => cue))
  })
  if (cues.length === 0) complain(1, 'there is no piece with a time in this file.')
  return { cues: sortCues(cues) }
}

/** The words of a script without times: paragraphs, with what stands in brackets left as it is. */
export const scriptWords = (file: string): string[] => fileLines(file).join(' ').split(/\s+/).filter(Boolean)

/**
 * Words over several stretches of time, each as long as its letters are of all; a word lies in one stretch.
 * @param ranges where somebody speaks, by their starts; none gives no words
 */
export function spreadOver(words: readonly string[], ranges: readonly RecordedRange[]): Word[] {
  const whole = ranges.reduce((sum, r) => sum + (r.to - r.from), 0)
  const letters = words.reduce((sum, w) => sum + w.length + 1, 0)
  if (whole <= 0) return []
  const out: Word[] = []
  let [spoken, range, before] = [0, 0, 0]
  for (const text of words) {
    const from = (spoken / letters) * whole
    spoken += text.length + 1
    const to = (spoken / letters) * whole
    // A word belongs to the stretch in which its middle lies.
    for (;;) {
      const here = ranges[range]
      if (!here || range === ranges.length - 1 || (from + to) / 2 < before + (here.to - here.from)) break
      before += here.to - here.from
      range++
    }
    const here = ranges[range]
    if (!here) break
    const at = (t: number) => recorded(Math.min(here.to, Math.max(here.from, here.from + t - before)))
    out.push({ text: text.slice(0, 100), from: at(from), to: at(to), confidence: 1 })
  }
  return out
}
