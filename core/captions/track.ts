/**
 * Changing a caption track: every function returns a new track and keeps cues sorted. A change of any cue takes
 * a track that was checked or on back to draft only when asked: correcting a typing mistake must not switch captions
 * off.
 */
import { diffArrays } from 'diff'
import type { CaptionState, CaptionTrack, Cue, Word } from '../schema/captions'
import { InvalidDocument, parseAs } from '../schema/validate'
import { CaptionTrack as CaptionTrackSchema } from '../schema/captions'
import { projectRange, toResult, type TimeMap } from '../time/time-map'
import { recorded, type RecordedTime, type ResultRange } from '../time/units'
import { breakText, fromTyped, joinTexts, pickWords, speakerOf, toTyped, withSpeaker } from './markup'
import { captionLimits } from './reflow'
import { comparable, tokens } from './text'
import { sortCues, type CaptionFile } from './vtt'

/** A change that makes no sense. The message is a sentence for a person. */
export class InvalidCaptionChange extends Error {
  override name = 'InvalidCaptionChange'
}

/** Below this posterior a recognised word is shown as doubtful. */
export const DOUBTFUL = 0.3

export function newTrack(file: CaptionFile, source: CaptionTrack['source'], language = 'en'): CaptionTrack {
  return { format: 'thaw-captions', version: 1, language, state: 'draft', source, ...file }
}

/** Adds drafted cues to a track. Nobody has checked them, so that the whole is a draft again. */
export function addDraft(track: CaptionTrack, cues: readonly Cue[]): CaptionTrack {
  return { ...track, state: 'draft', cues: sortCues([...track.cues, ...cues]) }
}

/** Reads a caption track from outside. @throws {InvalidDocument} */
export function readTrack(data: unknown): CaptionTrack {
  const track = parseAs(CaptionTrackSchema, data, 'caption track')
  const bad = track.cues.find((c) => c.to <= c.from)
  if (bad) throw new InvalidDocument('caption track', [`cue ${bad.id} ends before it starts`])
  return { ...track, cues: sortCues(track.cues) }
}

export function setState(track: CaptionTrack, state: CaptionState): CaptionTrack {
  return { ...track, state }
}

function change(track: CaptionTrack, id: string, edit: (cue: Cue) => Cue[]): CaptionTrack {
  if (!track.cues.some((c) => c.id === id)) throw new InvalidCaptionChange('That cue is not there any more.')
  return { ...track, cues: sortCues(track.cues.flatMap((c) => (c.id === id ? edit(c) : [c]))) }
}

/**
 * Carries word times over to a corrected text: unchanged words keep time and confidence, new ones share the time
 * between their neighbours and are certain, as a person wrote them.
 */
export function realignWords(cue: Cue, text: string): Word[] {
  const old = cue.words ?? []
  const typed = tokens(text)
  const heard = old.map((w) => comparable(w.text))
  const said = typed.map(comparable)
  const kept = new Map<number, Word>()
  let [i, j] = [0, 0]
  for (const { count, removed, added } of diffArrays(heard, said)) {
    for (let n = 0; !removed && !added && n < count; n++) {
      const word = old[i + n]
      const text = typed[j + n] ?? ''
      if (word) kept.set(j + n, word.text === text ? word : { ...word, text, confidence: 1 })
    }
    if (!added) i += count
    if (!removed) j += count
  }
  const words: Word[] = []
  for (let j = 0; j < typed.length; j++) {
    const known = kept.get(j)
    if (known) {
      words.push(known)
      continue
    }
    let end = j
    while (end < typed.length && !kept.has(end)) end++
    const left = words.at(-1)?.to ?? cue.from
    const right = Math.max(left, kept.get(end)?.from ?? cue.to)
    const share = (right - left) / (end - j)
    for (let k = j; k < end; k++)
      words.push({
        text: typed[k] ?? '',
        from: recorded(left + (k - j) * share),
        to: recorded(left + (k - j + 1) * share),
        confidence: 1,
      })
    j = end - 1
  }
  return words
}

/** Changes what a cue says to what a person typed, tags of WebVTT included; who speaks it stays. */
export function setText(track: CaptionTrack, id: string, typed: string): CaptionTrack {
  return change(track, id, (cue) => {
    if (typed === toTyped(cue.text)) return [cue]
    const text = withSpeaker(fromTyped(typed), speakerOf(cue.text))
    return [{ ...cue, text, ...(cue.words && { words: realignWords(cue, text) }) }]
  })
}

/** Names who speaks a cue, or nobody. */
export function setSpeaker(track: CaptionTrack, id: string, name: string): CaptionTrack {
  return change(track, id, (cue) => [{ ...cue, text: withSpeaker(cue.text, name) }])
}

/** Marks a cue as gone through by a person, and its words as right. */
export function confirmCue(track: CaptionTrack, id: string): CaptionTrack {
  return change(track, id, (cue) => [
    {
      ...cue,
      checked: true,
      ...(cue.words && { words: cue.words.map(({ alternatives: _, ...w }) => ({ ...w, confidence: 1 })) }),
    },
  ])
}

/** How much of a track a person has gone through, 0…1 of its cues. */
export const checkedShare = ({ cues }: Pick<CaptionTrack, 'cues'>): number =>
  cues.length === 0 ? 0 : cues.filter((c) => c.checked).length / cues.length

/** The next cue that nobody has gone through, behind the one with an id; from the start again behind the last. */
export function nextUnchecked(cues: readonly Cue[], id: string | null): Cue | undefined {
  const at = cues.findIndex((c) => c.id === id)
  return cues.slice(at + 1).find((c) => !c.checked) ?? cues.find((c) => !c.checked)
}

/** Adds an empty cue. */
export function addCue(track: CaptionTrack, id: string, from: RecordedTime, to: RecordedTime): CaptionTrack {
  if (to <= from) throw new InvalidCaptionChange('There is no room for a cue here.')
  return { ...track, cues: sortCues([...track.cues, { id, from, to, text: '' }]) }
}

/**
 * Deletes a cue. NOTE and STYLE blocks that stood before it move to the next one, so that nothing is lost on the way.
 */
export function deleteCue(track: CaptionTrack, id: string): CaptionTrack {
  const at = track.cues.findIndex((c) => c.id === id)
  const cue = track.cues[at]
  if (!cue) throw new InvalidCaptionChange('That cue is not there any more.')
  const cues = track.cues.filter((c) => c !== cue)
  if (!cue.before) return { ...track, cues }
  const next = cues[at]
  if (!next) return { ...track, cues, after: [...cue.before, ...(track.after ?? [])] }
  cues[at] = { ...next, before: [...cue.before, ...(next.before ?? [])] }
  return { ...track, cues }
}

/**
 * Splits a cue before its `wordIndex`-th word (1 … words − 1). The instant is that word's own where the
 * recogniser gave one, otherwise in proportion to the letters. Tags around both parts stand around each.
 */
export function splitCue(track: CaptionTrack, id: string, wordIndex: number, newId: string): CaptionTrack {
  return change(track, id, (cue) => {
    const typed = tokens(cue.text)
    if (wordIndex < 1 || wordIndex >= typed.length)
      throw new InvalidCaptionChange('Put the cursor between two words to split there.')
    const left = typed.slice(0, wordIndex)
    const words = cue.words?.length === typed.length ? cue.words : undefined
    const share = left.join(' ').length / typed.join(' ').length
    const wordStart = words?.[wordIndex]?.from
    const at =
      wordStart !== undefined && wordStart > cue.from && wordStart < cue.to
        ? wordStart
        : recorded(cue.from + share * (cue.to - cue.from))
    const { name: _name, before: _before, ...rest } = cue
    const say = (isKept: (index: number) => boolean) => breakText(pickWords(cue.text, isKept), captionLimits.lineLength)
    return [
      { ...cue, to: at, text: say((i) => i < wordIndex), ...(words && { words: words.slice(0, wordIndex) }) },
      {
        ...rest,
        id: newId,
        from: at,
        text: say((i) => i >= wordIndex),
        ...(words && { words: words.slice(wordIndex) }),
      },
    ]
  })
}

/** Joins a cue with the one after it. */
export function joinWithNext(track: CaptionTrack, id: string): CaptionTrack {
  const at = track.cues.findIndex((c) => c.id === id)
  const cue = track.cues[at]
  const next = track.cues[at + 1]
  if (!cue || !next) throw new InvalidCaptionChange('There is no cue after this one to join it with.')
  const joined: Cue = {
    ...cue,
    to: recorded(Math.max(cue.to, next.to)),
    text: breakText(joinTexts(cue.text, next.text), captionLimits.lineLength),
    ...(cue.words && next.words && { words: [...cue.words, ...next.words] }),
    ...(next.before && { before: [...(cue.before ?? []), ...next.before] }),
  }
  if (!(cue.words && next.words)) delete joined.words
  if (!(cue.checked && next.checked)) delete joined.checked
  return { ...track, cues: [...track.cues.slice(0, at), joined, ...track.cues.slice(at + 2)] }
}

/** A cue as it is shown in the result. */
export type ResultCue = Omit<Cue, 'from' | 'to' | 'words' | 'checked'> & ResultRange

/** A cue that fell, whole or in part, into a removed range. `lost` in seconds. */
export interface LostCaption {
  cue: Cue
  lost: number
  whole: boolean
}

/**
 * Cues in result time. Of a cue cut through, the words that are left stay where word times are known; otherwise its
 * whole text stays with what is left of its time. A cue into which something is put is shown before and after it, each
 * part with its own words where they are known. What was lost is reported.
 */
export function projectCues(map: TimeMap, cues: readonly Cue[]): { cues: ResultCue[]; lost: LostCaption[] } {
  const out: ResultCue[] = []
  const lost: LostCaption[] = []
  // The last words may be heard, or shown for a moment longer, beyond the end of the picture: that cuts nothing out.
  const inside = (t: RecordedTime) => recorded(Math.min(t, map.duration))
  for (const cue of cues) {
    const { pieces, lost: seconds } = projectRange(
      map,
      cue.from < map.duration ? { from: cue.from, to: inside(cue.to) } : cue,
    )
    if (seconds > 1e-6) lost.push({ cue, lost: seconds, whole: pieces.length === 0 })
    const { words, before, checked: _, ...rest } = cue
    const known = words?.length === tokens(cue.text).length ? words : undefined
    for (const [i, piece] of pieces.entries()) {
      const isWhole = pieces.length === 1 && seconds <= 1e-6
      const text = known && !isWhole ? wordsIn(map, cue.text, known, piece) : cue.text
      if (text === '' && cue.text !== '') continue
      const id = i === 0 ? cue.id : `${cue.id}-${i + 1}`
      out.push({
        ...rest,
        ...(i === 0 && before && { before }),
        id,
        text,
        from: piece.from,
        to: piece.to,
      })
    }
  }
  return { cues: out, lost }
}

/** The text of the words whose middle is seen in a piece of the result. */
function wordsIn(map: TimeMap, text: string, words: readonly Word[], piece: ResultRange): string {
  const isSeen = (w: Word | undefined) => {
    if (!w) return false
    const at = toResult(map, recorded(Math.min((w.from + w.to) / 2, map.duration - 1e-6)))
    return at.kind === 'kept' && at.at >= piece.from && at.at < piece.to
  }
  return breakText(
    pickWords(text, (i) => isSeen(words[i])),
    captionLimits.lineLength,
  )
}
