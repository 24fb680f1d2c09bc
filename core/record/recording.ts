/**
 * The recording of a lecture: its takes end to end, as one stretch of recorded time.
 *
 *     recorded  ├──── first take ────┼── further take ──┼ …
 *
 * Nothing else knows that there are takes: an edit, captions and questions live in the time of the whole.
 */
import { max } from 'd3-array'
import type { Cue } from '../schema/captions'
import type { Feed, Take, TakeState } from '../schema/lecture'
import type { SoundAnalysis } from '../sound/analysis'
import type { ProposedCut } from '../sound/silence'
import { snapToFrame } from '../time/frames'
import { recorded, type RecordedRange, type RecordedTime } from '../time/units'

/**
 * A take in its lecture; times in s of the lecture's recorded time. It ends where the next one begins, although what
 * was recorded may end up to half a frame before or after.
 */
export interface PlacedTake extends RecordedRange {
  id: string
  startedAt: string
  /** As the deck named them while recording; null when no deck did. */
  slides: readonly { at: RecordedTime; title: string }[] | null
}

/** A feed whose `offset` is in the lecture's recorded time. */
export interface PlacedFeed extends Feed {
  takeId: string
}

export interface Recording {
  /** In the order in which they are seen; at least one. */
  takes: readonly PlacedTake[]
  feeds: readonly PlacedFeed[]
  /** s */
  duration: RecordedTime
  /** What the person marked while recording. */
  markers: readonly RecordedTime[]
}

/** The whole ones of a lecture's takes as one recording; null while there is none. */
export function joinTakes(takes: readonly Take[]): Recording | null {
  const whole = takes.filter((t) => t.state === 'whole').sort((a, b) => (a.at ?? 0) - (b.at ?? 0))
  if (whole.length === 0) return null
  const placed = whole.map(({ id, startedAt, at = 0, duration, slides }, i): PlacedTake => ({
    id,
    startedAt,
    from: recorded(at),
    to: recorded(whole[i + 1]?.at ?? at + duration),
    slides: slides?.map((s) => ({ ...s, at: recorded(s.at + at) })) ?? null,
  }))
  return {
    takes: placed,
    feeds: whole.flatMap((t) => t.feeds.map((f) => ({ ...f, takeId: t.id, offset: f.offset + (t.at ?? 0) }))),
    duration: recorded(max(placed, (t) => t.to) ?? -Infinity),
    markers: whole.flatMap((t) => t.markers?.map((m) => recorded(m + (t.at ?? 0))) ?? []),
  }
}

/**
 * Where a further take begins: on the frame nearest to the end of what is there, s. An edit that took the end out then
 * ends where the further take begins, and no sliver of a frame is left between.
 */
export const placeAfter = (duration: number, frameRate: number): RecordedTime =>
  recorded(snapToFrame(duration, frameRate))

/** The take that is seen at an instant; the first before its start, the last after its end. */
export function takeAt(recording: Recording, time: number): PlacedTake {
  return recording.takes.findLast((t) => t.from <= time) ?? (recording.takes[0] as PlacedTake)
}

/** Feeds of one take with their ids: the first of a kind has its name, a further one its number too. */
export function withIds<F extends Pick<Feed, 'kind'>>(feeds: readonly F[]): (F & Pick<Feed, 'id'>)[] {
  return feeds.map((feed, i) => {
    const nth = feeds.slice(0, i + 1).filter((f) => f.kind === feed.kind).length
    return { ...feed, id: nth === 1 ? feed.kind : `${feed.kind}-${nth}` }
  })
}

/** A feed by its id, for a person: “Camera”, “Camera 2”. */
export const sayFeed = (id: string): string => `${id.charAt(0).toUpperCase()}${id.slice(1).replace('-', ' ')}`

/** Whether a feed is what students see and hear of its kind when no layout names another. */
const isFirst = ({ id, kind }: Pick<Feed, 'id' | 'kind'>) => id === kind

/**
 * The feeds that students can see and hear: of each take the first of each kind, and what layouts show besides.
 * @param inSlots ids of pictures that an edit's layouts name
 */
export const shownFeeds = ({ feeds }: Pick<Recording, 'feeds'>, inSlots: ReadonlySet<string> = new Set()) =>
  feeds.filter((f) => isFirst(f) || (f.kind !== 'sound' && inSlots.has(f.id)))

/** The sound that is heard in a take. */
export const soundOf = ({ feeds }: Pick<Recording, 'feeds'>, takeId: string): PlacedFeed | undefined =>
  feeds.find((f) => f.takeId === takeId && f.kind === 'sound' && isFirst(f))

/** A take's feeds with this one as the first of its kind; null when it is not among them. */
export function selectFeed(feeds: readonly Feed[], { fileId, kind }: Pick<Feed, 'fileId' | 'kind'>): Feed[] | null {
  const first = feeds.find((f) => f.kind === kind)
  const chosen = feeds.find((f) => f.kind === kind && f.fileId === fileId)
  if (!first || !chosen) return null
  const [now, before] = [
    { ...chosen, id: first.id },
    { ...first, id: chosen.id },
  ]
  return feeds.map((f) => (f === first ? now : f === chosen ? before : f))
}

/** The feed whose pictures stand for a take: its screen, or its camera where there is none. */
export const pictureOf = <F extends Pick<Feed, 'kind'>>(feeds: readonly F[]): F | undefined =>
  feeds.find((f) => f.kind === 'screen') ?? feeds.find((f) => f.kind === 'camera')

/** Takes with sound in which no cue begins: a further take has none until it is drafted too. */
export function uncaptioned(recording: Recording, cues: readonly Pick<Cue, 'from'>[]): PlacedTake[] {
  return recording.takes.filter(
    (take) => soundOf(recording, take.id) !== undefined && !cues.some((c) => c.from >= take.from && c.from < take.to),
  )
}

/** What a lecture's takes add up to: the one that still needs something is what counts. */
export function recordingState(takes: readonly Pick<Take, 'state'>[]): Exclude<TakeState, 'discarded'> | 'none' {
  const order = ['recording', 'settling', 'whole', 'broken'] as const
  return order.find((state) => takes.some((t) => t.state === state)) ?? 'none'
}

/** When a slide appears. `numbered` when it does not say its own title. */
export interface RecordedSlide {
  at: RecordedTime
  title: string
  numbered?: boolean
}

/**
 * The slides of a lecture: where a deck itself said what it showed, that is better known than what can be seen.
 * @param seen when slides were seen to appear, in the lecture's time
 */
export function joinSlides(recording: Recording, seen: readonly number[]): RecordedSlide[] {
  const found = seen.map((at, i) => ({ at: recorded(at), title: `Slide ${i + 1}`, numbered: true }))
  return recording.takes.flatMap((take) => take.slides ?? found.filter((s) => s.at >= take.from && s.at < take.to))
}

/** A cut that is proposed, and which proposal of which take it is. */
export interface PlacedProposal extends ProposedCut {
  takeId: string
  /** Its start in the take's own time, s. */
  own: number
}

/**
 * What was found in the sound of each take that was looked through, in the lecture's time.
 * @param found by take, in the take's own time; `left` are starts of proposals that a person decided to leave
 */
export function joinSound(
  recording: Recording,
  found: ReadonlyMap<string, { sound?: Omit<SoundAnalysis, 'peaks'>; left?: readonly number[] }>,
): { proposals: PlacedProposal[]; clipping: RecordedRange[]; silences: RecordedRange[] } {
  const shift = <R extends RecordedRange>(range: R, by: number): R => ({
    ...range,
    from: recorded(range.from + by),
    to: recorded(range.to + by),
  })
  return {
    proposals: recording.takes.flatMap((take) => {
      const { sound, left = [] } = found.get(take.id) ?? {}
      return (
        sound?.proposals
          .filter((p) => !left.includes(p.from))
          .map((p) => ({ ...shift(p, take.from), takeId: take.id, own: p.from })) ?? []
      )
    }),
    clipping: recording.takes.flatMap(
      (take) => found.get(take.id)?.sound?.clipping.map((c) => shift(c, take.from)) ?? [],
    ),
    silences: recording.takes.flatMap(
      (take) => found.get(take.id)?.sound?.silences.map((s) => shift(s, take.from)) ?? [],
    ),
  }
}
