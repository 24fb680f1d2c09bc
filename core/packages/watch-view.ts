/** What the server tells a student's player. A type of its own: nothing in it can carry a key before its time. */
import type { QuestionReport } from '../questions/attempt'
import type { Student } from '../schema/attempt'
import type { LiveStatus } from './live'
import type { PublishedCheckpoint } from '../schema/publication'

export interface WatchView {
  kind: 'recording'
  title: string
  description: string
  language: string
  /** s of result time */
  duration: number
  width: number
  height: number
  student: Student
  /** URLs of the media and the captions. */
  media: string
  captions: string | null
  /** In the order of time. */
  checkpoints: (PublishedCheckpoint & { report: QuestionReport })[]
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
