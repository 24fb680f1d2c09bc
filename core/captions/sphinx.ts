/**
 * What pocketsphinx writes of a piece of speech: one line of the likeliest words (`-hypseg`),
 * `name S 0 T … A … L … (frame acoustic language word)… frame`, where frames (100 a second) are where each begins and the last
 * one where all ends; `word(2)` is another pronunciation, `<sil>` and bracketed words are no speech.
 */
import type { Word } from '../schema/captions'
import { recorded } from '../time/units'
import { judgeWord, readLattice } from './lattice'

const FRAMES = 100
/** Longest sound between two pauses that is taken for a filled pause, s. */
const FILLED = 0.7

interface Segment {
  text: string
  from: number
  to: number
}

const isPause = (s: Segment | undefined) => !s || /^<.*>$/.test(s.text)
const isNoWord = (s: Segment) => /^[<[+]/.test(s.text)
const plain = (text: string) => text.replace(/\(\d+\)$/, '')

/**
 * @param line of one piece, @param lattice of the same one, empty when there is none
 * @returns words in time order, in the piece's own time
 * @throws {Error} with a sentence for a line that is none
 */
export function readSphinx(line: string, lattice: string): Word[] {
  const fields = line.trim().split(/\s+/)
  const rest = fields.slice(9)
  if (fields[1] !== 'S' || rest.length % 4 !== 1) throw new Error('The recogniser gave a line that cannot be read.')
  const segments: Segment[] = []
  for (let i = 0; i + 4 < rest.length; i += 4)
    segments.push({
      text: plain(rest[i + 3] ?? ''),
      from: Number(rest[i]) / FRAMES,
      to: Number(rest[i + 4]) / FRAMES,
    })
  if (segments.some((s) => !(s.to >= s.from))) throw new Error('The recogniser gave a line that cannot be read.')
  const all = lattice ? readLattice(lattice) : []
  return withFilledPauses(segments)
    .filter((s) => !isNoWord(s) && s.to > s.from)
    .map(({ text, from, to }) => {
      const times = { text, from: recorded(from), to: recorded(to) }
      return { ...times, ...(all.length > 0 ? judgeWord(times, all) : { confidence: 0.5 }) }
    })
}

/**
 * Speech that is no word (`[SPEECH]`), alone between two pauses, is what “um” and “uh” are to this recogniser, whose
 * language model hardly knows them; it often ends one with a word that sounds like its close.
 */
function withFilledPauses(segments: readonly Segment[]): Segment[] {
  const out: Segment[] = []
  for (let i = 0; i < segments.length; i++) {
    const first = segments[i] as Segment
    let last = i
    while (!isPause(segments[last + 1])) last++
    const end = segments[last] as Segment
    if (first.text === '[SPEECH]' && isPause(segments[i - 1]) && last - i <= 1 && end.to - first.from <= FILLED) {
      out.push({ text: 'uh', from: first.from, to: end.to })
      i = last
    } else out.push(first)
  }
  return out
}
