/** What the server tells a student's player. A type of its own: nothing in it can carry a key before its time. */
import type { SetStanding, StandingQuestion } from '../questions/standing'
import type { Student } from '../schema/attempt'
import type { TrackRole } from '../schema/captions'
import type { StillGrid } from '../picture/still-sheet'
import type { LiveStatus } from './live'
import type { PublishedArrangement, PublishedChapter, PublishedLink, PublishedMark } from '../schema/publication'

/** A moment at which the player stops and asks; each question with what this student is told of it. */
export interface WatchedCheckpoint {
  id: string
  /** s of result time */
  at: number
  /** Version of the set that it is of. */
  set: string
  questions: StandingQuestion[]
}

export interface WatchView {
  kind: 'recording'
  /** Of the publication. An open player finishes on the one it began with. */
  version: string
  title: string
  description: string
  language: string
  /** s of result time */
  duration: number
  /** Of the frame in which the pictures are arranged, px; 0 without a picture. */
  width: number
  height: number
  student: Student
  /** The first has the sound. URLs hold for this student, for as long as the session. */
  feeds: { id: string; url: string; width: number; height: number }[]
  layout: PublishedArrangement[]
  /** The first is shown to whoever has chosen none. */
  captions: { language: string; role: TrackRole; url: string }[]
  chapters: PublishedChapter[]
  links: PublishedLink[]
  /** Along the line; null when there are none. */
  stills: ({ url: string } & StillGrid) | null
  /** Over the large picture all the time; null when there is none. `box` in shares of that picture. */
  watermark: (Omit<PublishedMark, 'file'> & { url: string }) | null
  /** Sets that are asked here, as they stand for this student. */
  sets: SetStanding[]
  /** Of all of them, in the order of time. */
  checkpoints: WatchedCheckpoint[]
  /** Whether the films may be saved. */
  download: boolean
  /** Whether of watching only sums are kept. */
  sumsOnly: boolean
  resume: WatchedSoFar | null
  /** URL under which the pictures of questions stand, by their hashes. */
  pictures: string
  /** Marks of the sets and questions as they are told here. Sent back, they ask for no more than what differs. */
  told: string
}

/** What differs from a view that was told before. */
export interface WatchChange {
  /** Sets that stand otherwise, by their versions. */
  sets: SetStanding[]
  /** Each with those of its questions alone of which something else is told. */
  checkpoints: WatchedCheckpoint[]
  told: string
}

/** A view with what has changed since it was told. */
export function withChange(view: WatchView, { sets, checkpoints, told }: WatchChange): WatchView {
  const standing = new Map(sets.map((s) => [s.version, s]))
  const keyOf = (c: WatchedCheckpoint, q: StandingQuestion) => `${c.set} ${c.id} ${q.open.id}`
  const questions = new Map(checkpoints.flatMap((c) => c.questions.map((q) => [keyOf(c, q), q] as const)))
  return {
    ...view,
    told,
    sets: view.sets.map((s) => standing.get(s.version) ?? s),
    checkpoints: view.checkpoints.map((c) => ({
      ...c,
      questions: c.questions.map((q) => questions.get(keyOf(c, q)) ?? q),
    })),
  }
}

/** What is known of one's own watching on any device; null where it is not. */
export interface WatchedSoFar {
  /** Where it stopped last, s of result time, and when, ISO 8601 UTC. */
  at: number
  when: string
  /** The farthest instant that was watched, s. */
  reached: number
}

/** A lecture that is watched while it is held. */
export interface LiveView {
  kind: 'live'
  title: string
  /** When it is to begin, ISO 8601 UTC. */
  startsAt: string
  state: LiveStatus
  /** URL of the playlist; null while nothing can be watched. */
  playlist: string | null
  student: Student
}
