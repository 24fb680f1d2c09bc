/**
 * When cues are shown: moved by hand, with their neighbours giving way, so that two are never on the picture at once
 * where they were not before. All in seconds of recorded time.
 */
import type { CaptionTrack, Cue } from '../schema/captions'
import { recorded, type RecordedRange } from '../time/units'
import { InvalidCaptionChange } from './track'
import { sortCues } from './vtt'

/** What giving way leaves of a neighbour at least, s. */
const LEAST = 0.2
/** Times nearer than this, s, are the same. */
const SAME = 1e-6

/** A cue where it is shown otherwise; what was heard in it stays when it was. */
const shownAt = (cue: Cue, from: number, to: number): Cue => ({ ...cue, from: recorded(from), to: recorded(to) })

/**
 * Has neighbours give way to cues that were placed elsewhere: what then lies under one of them ends before it, or begins
 * behind it, and what is placed stops where a neighbour would have nothing left. Cues that already lay over one another
 * stay so, as two people may speak at once.
 * @param before the track as it was
 * @param after with some cues placed elsewhere
 * @param ids of those
 */
export function giveWay(before: readonly Cue[], after: readonly Cue[], ids: ReadonlySet<string>): Cue[] {
  const was = new Map(before.map((c) => [c.id, c]))
  const lay = (a: Cue, b: Cue) => {
    const [x, y] = [was.get(a.id), was.get(b.id)]
    return !!x && !!y && x.from < y.to - SAME && y.from < x.to - SAME
  }
  const now = new Map(after.map((c) => [c.id, c]))
  for (const id of ids) {
    const placed = now.get(id)
    if (!placed) continue
    let { from, to } = placed
    for (const other of now.values()) {
      if (other === placed || ids.has(other.id) || other.from >= to - SAME || other.to <= from + SAME) continue
      if (lay(placed, other)) continue
      // It goes to the side on which more of it stands.
      const isBefore = (other.from + other.to) / 2 < (from + to) / 2
      const least = Math.min(LEAST, other.to - other.from)
      if (isBefore) {
        from = recorded(Math.max(from, other.from + least))
        now.set(other.id, shownAt(other, other.from, from))
      } else {
        to = recorded(Math.min(to, other.to - least))
        now.set(other.id, shownAt(other, to, other.to))
      }
    }
    // Between two that leave no room, it is shown as shortly as a neighbour would be.
    now.set(id, shownAt(placed, from, Math.max(to, from + Math.min(LEAST, placed.to - placed.from))))
  }
  return sortCues([...now.values()])
}

/**
 * Changes when a cue is shown; neighbours give way.
 * @throws {InvalidCaptionChange} when it would end before it starts, or is not there any more
 */
export function setTimes(track: CaptionTrack, id: string, { from, to }: RecordedRange): CaptionTrack {
  if (to <= from) throw new InvalidCaptionChange('A cue has to end after it starts.')
  if (!track.cues.some((c) => c.id === id)) throw new InvalidCaptionChange('That cue is not there any more.')
  const cues = track.cues.map((c) => (c.id === id ? shownAt(c, from, to) : c))
  return { ...track, cues: giveWay(track.cues, cues, new Set([id])) }
}

/** Where something stands now, and where it belongs, s of the recording. */
export interface Anchor {
  now: number
  belongs: number
}

/**
 * Moves cues so that what stands at one instant stands where it belongs; with two, the times between are stretched. The
 * times of their words move with them; cues at the ends of a run give way.
 * @param duration of the recording, s
 * @param run ids of those that are moved; all when left out
 * @throws {InvalidCaptionChange} when the two contradict each other, or a cue is moved out of the recording
 */
export function retime(
  track: CaptionTrack,
  first: Anchor,
  second: Anchor | null,
  duration: number,
  run: ReadonlySet<string> = new Set(track.cues.map((c) => c.id)),
): CaptionTrack {
  const span = second ? second.now - first.now : 1
  const rate = second ? (second.belongs - first.belongs) / span : 1
  if (!(Math.abs(span) > 1e-3) || !(rate > 0))
    throw new InvalidCaptionChange('The two instants have to be apart, and in the same order before and after.')
  const move = (t: number) => recorded(Math.max(0, first.belongs + (t - first.now) * rate))
  const moved = track.cues.map((cue) =>
    run.has(cue.id)
      ? {
          ...shownAt(cue, move(cue.from), move(cue.to)),
          ...(cue.words && { words: cue.words.map((w) => ({ ...w, from: move(w.from), to: move(w.to) })) }),
        }
      : cue,
  )
  const lost = moved.filter((c) => run.has(c.id) && (c.to <= 0.001 || c.from >= duration)).length
  if (lost > 0)
    throw new InvalidCaptionChange(
      `${lost === 1 ? 'One cue would lie' : `${lost} cues would lie`} outside the recording; nothing was moved.`,
    )
  return { ...track, cues: giveWay(track.cues, moved, run) }
}
