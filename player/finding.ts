/** What there is to find in a lecture by words: what was said, its chapters, its link cards and its questions. */
import { speakerOf } from '#core/captions/markup'
import { plainText } from '#core/captions/text'
import type { WatchView } from '#core/packages/watch-view'
import type { Cue } from '#core/schema/captions'
import { lineOf } from '#core/text/rich-text'

/** A place in the lecture, and what stands there. */
export interface Stop {
  kind: 'cue' | 'chapter' | 'link' | 'question'
  id: string
  /** s */
  at: number
  text: string
  /** Who says it; empty when that is not told. */
  speaker: string
}

/** All stops of a lecture in the order of time. @param mayRead whether a checkpoint's questions may be read already */
export function stopsOf(
  { chapters, links, checkpoints }: Pick<WatchView, 'chapters' | 'links' | 'checkpoints'>,
  cues: readonly Cue[],
  mayRead: (checkpoint: WatchView['checkpoints'][number]) => boolean,
): Stop[] {
  const stop = (kind: Stop['kind'], id: string, at: number, text: string, speaker = ''): Stop => ({
    ...{ kind, id, at, text, speaker },
  })
  const asked = checkpoints.filter(mayRead)
  return [
    // A chapter stands before what is said in it.
    ...chapters.map((c) => stop('chapter', c.id, c.at, c.title)),
    ...cues.map((c) => stop('cue', c.id, c.from, plainText(c.text).replaceAll('\n', ' '), speakerOf(c.text))),
    ...links.map((l) => stop('link', l.id, l.from, l.words)),
    ...asked.flatMap((c) => c.questions.map(({ open }) => stop('question', open.id, c.at, lineOf(open.prompt)))),
  ].sort((a, b) => a.at - b.at)
}

/** Without case and accents. */
const folded = (text: string): string => text.normalize('NFD').replaceAll(/\p{M}/gu, '').toLowerCase()
const wordsOf = (text: string): string[] =>
  folded(text)
    .split(/[^\p{L}\p{N}']+/u)
    .filter(Boolean)

/**
 * Stops in which every word of `query` begins some word, whatever the case and the accents. An empty query finds what
 * was said and its chapters.
 */
export function findStops(stops: readonly Stop[], query: string): Stop[] {
  const wanted = wordsOf(query)
  if (wanted.length === 0) return stops.filter((s) => s.kind === 'cue' || s.kind === 'chapter')
  return stops.filter((stop) => {
    const words = wordsOf(`${stop.speaker} ${stop.text}`)
    return wanted.every((w) => words.some((word) => word.startsWith(w)))
  })
}
