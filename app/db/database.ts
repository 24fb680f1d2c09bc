/**
 * The author's data, in the author's browser. Documents are plain rows keyed by lecture; media are rows of
 * bytes in order, so that a recording can be appended to as it comes and a large file is never held whole.
 */
import Dexie, { type EntityTable, type Table } from 'dexie'
import type { CaptionTrack } from '#core/schema/captions'
import type { EditDocument } from '#core/schema/edit'
import type { Course, Lecture, Take } from '#core/schema/lecture'
import type { Announcement } from '#core/schema/live'
import type { Place } from '#core/schema/publication'
import type { QuestionSet } from '#core/schema/questions'
import type { StoredEvent, Student } from '#core/schema/attempt'
import type { PeakLevel } from '#core/sound/peaks'
import type { Setup } from '#core/schema/setup'
import type { SoundAnalysis } from '#core/sound/analysis'

/** A part of a file. `seq` counts from 0. */
export interface ChunkRow {
  fileId: string
  seq: number
  bytes: Blob
}

export interface FileRow {
  id: string
  type: string
  name: string
  size: number
}

/** What stands on the server for a lecture, and what the desk looked like when it was sent. */
export interface ReleaseRow {
  lectureId: string
  place: Place
  publishedAt: string
  /** Digest of edit, captions, questions and particulars, to tell when the publication is out of date. */
  fingerprint: string
}

/** A lecture that is announced, to be watched live; gone once it is published. */
export interface BroadcastRow extends Announcement {
  lectureId: string
}

export interface JobRow {
  id: string
  lectureId: string
  kind: 'settle' | 'analyse' | 'captions' | 'publish' | 'import'
  state: 'running' | 'done' | 'failed' | 'cancelled'
  /** 0…1 */
  progress: number
  says: string
  startedAt: string
  /** Whether the person waits for it, and is told when it is done. */
  awaited?: boolean
  /** How to start it again when the page is closed meanwhile; absent for what is found again by itself. */
  again?: { do: 'captions'; keep: boolean } | { do: 'publish'; where: Pick<Place, 'courseId' | 'week' | 'from' | 'until'> }
}

export type EditRow = { lectureId: string; edit: EditDocument }
export type CaptionRow = { lectureId: string; track: CaptionTrack }
export type QuestionRow = { lectureId: string; set: QuestionSet }
export type ResponseRow = StoredEvent & { publicationId: string }
export type PeakRow = { takeId: string; levels: PeakLevel[] }

/** What was found out about a take, in its own time, pass by pass: a pass that is not there yet is still to be made. */
export interface AnalysisRow {
  takeId: string
  sound?: Omit<SoundAnalysis, 'peaks'>
  /** Starts of proposed cuts that a person decided to leave, s. */
  left?: number[]
  /** Whether every thumbnail is there. */
  thumbnails?: boolean
  /** When slides appeared, s; their stills are thumbnails of kind `slide`. */
  slides?: number[]
}

/** A small picture of a take at an instant of its own time, s. */
export interface StillRow {
  takeId: string
  kind: 'thumbnail' | 'slide'
  at: number
  image: Blob
}

export class ThawDatabase extends Dexie {
  declare courses: EntityTable<Course, 'id'>
  declare lectures: EntityTable<Lecture, 'id'>
  declare takes: EntityTable<Take, 'id'>
  declare files: EntityTable<FileRow, 'id'>
  declare chunks: Table<ChunkRow, [string, number]>
  declare edits: EntityTable<EditRow, 'lectureId'>
  declare captions: EntityTable<CaptionRow, 'lectureId'>
  declare questions: EntityTable<QuestionRow, 'lectureId'>
  declare releases: EntityTable<ReleaseRow, 'lectureId'>
  declare broadcasts: EntityTable<BroadcastRow, 'lectureId'>
  declare peaks: EntityTable<PeakRow, 'takeId'>
  declare analyses: EntityTable<AnalysisRow, 'takeId'>
  declare stills: Table<StillRow, [string, string, number]>
  declare posters: EntityTable<{ lectureId: string; image: Blob }, 'lectureId'>
  declare responses: Table<ResponseRow, [string, number]>
  declare rosters: EntityTable<{ courseId: string; students: Student[] }, 'courseId'>
  declare jobs: EntityTable<JobRow, 'id'>
  declare setups: EntityTable<Setup, 'id'>
  declare settings: EntityTable<{ key: string; value: string }, 'key'>

  constructor(name = 'thaw') {
    // Strict: a chunk counts as kept when it is on the disk, not when the browser has taken note of it.
    super(name, { chromeTransactionDurability: 'strict' })
    this.version(1).stores({
      courses: 'id',
      lectures: 'id, courseId',
      takes: 'id, lectureId, state',
      files: 'id',
      chunks: '[fileId+seq], fileId',
      edits: 'lectureId',
      captions: 'lectureId',
      questions: 'lectureId',
      releases: 'lectureId',
      peaks: 'takeId',
      posters: 'lectureId',
      responses: '[publicationId+seq], publicationId',
      rosters: 'courseId',
      jobs: 'id, lectureId, state',
      settings: 'key',
    })
    this.version(2).stores({ analyses: 'takeId', stills: '[takeId+kind+at], takeId' })
    this.version(3).stores({ setups: 'id' })
    this.version(4).stores({ broadcasts: 'lectureId' })
  }
}

export const db = new ThawDatabase()
