/**
 * The author's data, in the author's browser. Documents of every kind are rows of one table, each with its history in
 * another; media are rows of
 * bytes in order, so that a recording can be appended to as it comes and a large file is never held whole.
 */
import Dexie, { type DBCore, type EntityTable, type Table, type Transaction } from 'dexie'
import type { Conflict } from '#core/documents/change'
import type { Step } from '#core/documents/history'
import type { Documents, Kind } from '#core/documents/kinds'
import type { LectureFacts } from '#core/library/readiness'
import type { Cue, Word } from '#core/schema/captions'
import type { OrderState } from '#core/schema/captioning'
import type { GradingEntry } from '#core/schema/grading'
import type { Finish } from '#core/schema/finish'
import type { Course, Lecture, Take } from '#core/schema/lecture'
import type { Term } from '#core/schema/term'
import type { Announcement } from '#core/schema/live'
import type { GradedSet, Place } from '#core/schema/publication'
import type { StoredEvent, Student } from '#core/schema/attempt'
import type { PeakLevel } from '#core/sound/peaks'
import type { WatchedSession, WatchedVersion } from '#core/schema/watching'
import type { WordList } from '#core/schema/words'
import type { KeptPolicy } from '#core/schema/questions'
import type { Setup } from '#core/schema/setup'
import type { SoundAnalysis } from '#core/sound/analysis'
import type { Fingerprints } from '~/services/fingerprint'
import { databaseName, here, openLibrary } from './libraries'

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
export interface ReleaseRow extends Fingerprints {
  lectureId: string
  publicationId: string
  /** The one that counts, as far as this browser knows; empty where an earlier version did not keep it. */
  version: string
  /** Versions of its sets, by their ids. */
  asked: Record<string, string>
  publishedAt: string
  /** The kept state that was sent; absent where an earlier version did not keep it. */
  revisionId?: string
}

/** Where a lecture stands in a course. */
export interface PlaceRow {
  id: string
  lectureId: string
  place: Place
  /** Versions of the sets that were asked there when this browser last looked. */
  asked: string[]
  /** Whether it was taken off its course page. What students sent back there stays. */
  removed: boolean
}

/** A lecture that is announced, to be watched live; gone once it is published. */
export interface BroadcastRow extends Announcement {
  lectureId: string
}

export interface JobRow {
  id: string
  /** Empty for a job about several. */
  lectureId: string
  kind:
    | 'settle'
    | 'analyse'
    | 'captions'
    | 'order'
    | 'publish'
    | 'try'
    | 'import'
    | 'save'
    | 'finish'
    | 'quiet'
    | 'backdrop'
  state: 'running' | 'done' | 'failed' | 'cancelled'
  /** 0…1 */
  progress: number
  says: string
  startedAt: string
  /** Ids of files that it stores, which go with it should it be cut off, unless something has them. */
  files?: string[]
  /** Whether the person waits for it, and is told when it is done. */
  awaited?: boolean
  /** How it is restarted when the page is closed meanwhile; absent for what is found again by itself. */
  restart?:
    | { do: 'captions'; keep: boolean }
    | { do: 'publish'; place: Place | null; revisionId?: string }
    | { do: 'finish'; finishId: string; lectureIds: string[] }
  /** What came of each lecture of a job about several. */
  report?: FinishReport[]
}

/** What came of putting a finish on a lecture. */
export interface FinishReport {
  lectureId: string
  title: string
  /** What was done, and what a person should look at, as sentences. */
  did: string[]
  look: string[]
}

/** All that the term shows of a lecture (`app/services/cards.ts`). */
export interface CardRow {
  lectureId: string
  courseId: string
  folder: string
  /** Whether something recorded waits for a person, as of when the card was written; 1 when so. */
  waiting: 0 | 1
  /** When its release ends and it waits again, ISO 8601 UTC; absent when it does not. */
  until?: string
  lecture: Lecture
  /** What its readiness is computed from, but for the present time. */
  facts: Omit<LectureFacts, 'now'>
  /** Length of what is recorded, s; null while nothing is. */
  duration: number | null
  /** When students may watch it live, ISO 8601 UTC; null when that is not announced. */
  liveAt: string | null
}

/** A document of a lecture: one entry of the registry in `core/documents/kinds.ts`. */
export interface DocumentRow<K extends Kind = Kind> {
  id: string
  lectureId: string
  kind: K
  document: Documents[K]
  /** How many steps of its history hold, counted from the first that there ever was. */
  applied: number
  /** What was changed in two places at once, until a person has chosen. */
  conflicts: Conflict[]
  /** Why what an earlier version left could not be read; it is kept as it was, and counts as not being there. */
  unreadable?: string
}

/**
 * A picture or video that lectures put in or lay over. Its file has its hash as id; it stays while a lecture has it, as
 * what was taken out of an edit can come back.
 */
export interface AssetRow {
  /** SHA-256 of the file, lower-case hex; edits name it by that. */
  hash: string
  kind: 'picture' | 'video'
  /** As the file was called. */
  name: string
  /** Bytes. */
  size: number
  /** px */
  width: number
  height: number
  /** s; 0 for a picture. */
  duration: number
  /** Whether there is sound in it. */
  sound: boolean
  /** Lectures, and finishes, that have it. */
  lectureIds: string[]
}

/** A step of a document's history, `seq` counting from 0. */
export interface StepRow extends Step {
  documentId: string
  seq: number
}

/** A kept state of a lecture's documents; what they say stands in `contents`. */
export interface RevisionRow {
  id: string
  lectureId: string
  name: string
  madeAt: string
  /** By what they are called, the digest of what the documents say. */
  documents: Record<string, string>
  /** The same digests, to count what refers to a content. */
  hashes: string[]
}

/** What a document says, by the SHA-256 of its canonical JSON. */
export interface ContentRow {
  hash: string
  document: Documents[Kind]
}

/** A version of a set as its answers are graded. */
export type SetRow = GradedSet & { publicationId: string }
/**
 * All that one student sent back at a place, in the order of the server. A row of its own for each event would take a
 * large class twice as long to read.
 */
export interface SentBackRow {
  placeId: string
  /** `personKey` of the student. */
  who: string
  student: Student
  /** Of the last event. */
  seq: number
  events: Pick<StoredEvent, 'seq' | 'receivedAt' | 'event'>[]
}
/** What was decided about an answer at a place. */
export interface GradingRow {
  placeId: string
  /** Of the entry. */
  id: string
  entry: GradingEntry
  /** As the server numbered it; null until it has it. */
  seq: number | null
}
/** What was watched in one sitting, as the server has it. */
export type WatchingRow = WatchedSession & { placeId: string }
/** Which of the recording a published version shows, and when. */
export type TimelineRow = WatchedVersion & { publicationId: string }
/** Peaks of a take’s sound; while the fine ones are being made, coarse ones of all of it. */
export type PeakRow = { takeId: string; levels: PeakLevel[]; coarse?: PeakLevel }

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
/**
 * What was heard in a take's speech so far, so that listening goes on where it stopped; in the time of its sound, s.
 */
export interface HeardRow {
  takeId: string
  /** The file of the sound: of another one it is no longer that. */
  fileId: string
  words: Word[]
  until: number
  /** Whether all of it has been heard. */
  whole?: boolean
  /** How far its words have been put into the captions. */
  joined: number
  /** The take has come, and its captions are to be drafted without a person asking for it. */
  arrived?: boolean
  /** Cues that stood when a new draft was begun, and give way to it; with the first take of a lecture. */
  givesWay?: readonly Cue[]
}

/** Captions that were ordered from a service; it stays when its lecture is deleted, as it has cost something. */
export interface OrderRow {
  id: string
  courseId: string
  lectureId: string
  /** Of the lecture when it was ordered. */
  title: string
  language: string
  placedAt: string
  dueAt: string
  notes: string
  /** preparing: has not reached the service yet; otherwise as the service says. */
  state: 'preparing' | OrderState
  /** What keeps it, or what the service says; may be empty. */
  says: string
  /** In the smallest unit of the currency. */
  price: number
  currency: string
  /** How many deliveries have been dealt with. */
  taken: number
  /** When captions of it were joined to the lecture; null before. */
  joinedAt: string | null
  /** What came and was not joined, with the reasons; null when nothing waits. */
  held: { number: number; text: string; problems: string[] } | null
  /** The captions that stood when it was ordered, as a digest: when others stand there, a person decides. */
  before: string
  /** A digest of what was joined last: the same again is no news. */
  joined: string
}

export interface StillRow {
  takeId: string
  kind: 'thumbnail' | 'slide'
  at: number
  image: Blob
}

/** The sound of a take without its steady noise, to be heard at the desk: made when it is wanted, as publishing does it. */
export interface QuietRow {
  takeId: string
  /** The file of the sound that it was made from: of another one it is no longer that. */
  fileId: string
  sound: Blob
  /** Its integrated loudness, LUFS; −∞ of silence. */
  loudness: number
}

/** A camera's film of a take with another background, from which everything is shown, cut and published. */
export interface BackdropRow {
  takeId: string
  /** The film that it was made from and what is behind, as `backdropKey` writes it: of others it is no longer that. */
  key: string
  /** The film in pieces. */
  parts: Blob[]
}

/** A table without rows that every transaction that writes holds. */
const TURN = 'turn'

/**
 * One transaction that writes after the other, in all tabs and workers: each holds one table in common. Chromium cannot
 * recover from a kill in the middle of two – it keeps what to undo of each under a lock of the whole database, finds
 * that both cannot have it, and takes the database for corrupt and deletes it (seen with version 156, in one of ten
 * kills while two were under way; `test/trials/browser.trial.ts`). Its storage writes them one by one anyway.
 */
const inTurn = (core: DBCore): DBCore => ({
  ...core,
  transaction: (tables, mode, options) =>
    core.transaction(mode === 'readwrite' ? [...tables, TURN] : tables, mode, options),
})

type Upgrades = typeof import('./upgrade')
/** Brings what an earlier version kept up to date, by code that is fetched only where there is any. */
const by = (run: (upgrades: Upgrades, all: Transaction) => Promise<void>) => async (all: Transaction) =>
  run(await Dexie.waitFor(import('./upgrade')), all)

export class ThawDatabase extends Dexie {
  declare terms: EntityTable<Term, 'id'>
  declare courses: EntityTable<Course, 'id'>
  declare lectures: EntityTable<Lecture, 'id'>
  declare takes: EntityTable<Take, 'id'>
  declare files: EntityTable<FileRow, 'id'>
  declare chunks: Table<ChunkRow, [string, number]>
  declare documents: EntityTable<DocumentRow, 'id'>
  declare steps: Table<StepRow, [string, number]>
  declare revisions: EntityTable<RevisionRow, 'id'>
  declare contents: EntityTable<ContentRow, 'hash'>
  declare cards: EntityTable<CardRow, 'lectureId'>
  declare assets: EntityTable<AssetRow, 'hash'>
  declare releases: EntityTable<ReleaseRow, 'lectureId'>
  declare places: EntityTable<PlaceRow, 'id'>
  declare broadcasts: EntityTable<BroadcastRow, 'lectureId'>
  declare peaks: EntityTable<PeakRow, 'takeId'>
  declare analyses: EntityTable<AnalysisRow, 'takeId'>
  declare heard: EntityTable<HeardRow, 'takeId'>
  declare words: EntityTable<WordList, 'courseId'>
  declare orders: EntityTable<OrderRow, 'id'>
  declare stills: Table<StillRow, [string, string, number]>
  declare posters: EntityTable<{ lectureId: string; image: Blob }, 'lectureId'>
  declare sentBack: Table<SentBackRow, [string, string]>
  declare sets: Table<SetRow, [string, string]>
  declare grading: Table<GradingRow, [string, string]>
  declare watching: Table<WatchingRow, [string, string]>
  declare timelines: Table<TimelineRow, [string, string]>
  declare rosters: EntityTable<{ courseId: string; students: Student[] }, 'courseId'>
  declare jobs: EntityTable<JobRow, 'id'>
  declare setups: EntityTable<Setup, 'id'>
  declare quiets: EntityTable<QuietRow, 'takeId'>
  declare backdrops: EntityTable<BackdropRow, 'takeId'>
  declare finishes: EntityTable<Finish, 'id'>
  declare policies: EntityTable<KeptPolicy, 'id'>
  declare settings: EntityTable<{ key: string; value: string }, 'key'>

  constructor(name: string) {
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
    this.version(5).stores({ sets: '[publicationId+version], publicationId' })
    this.version(6)
      .stores({ documents: 'id, lectureId', steps: '[documentId+seq], documentId' })
      .upgrade(by(({ upgradeDocuments }, all) => upgradeDocuments(all, new Date().toISOString())))
    this.version(7).stores({
      edits: null,
      captions: null,
      questions: null,
      cards: 'lectureId, courseId, [courseId+folder], waiting, until',
    })
    this.version(8).stores({ [TURN]: '' })
    this.version(9).stores({ revisions: 'id, lectureId, *hashes', contents: 'hash' })
    this.version(10)
      .stores({ places: 'id, lectureId', answers: '[placeId+seq], placeId' })
      .upgrade(
        by(async ({ upgradeReleases, upgradeAnswers }, all) => {
          await upgradeReleases(all)
          await upgradeAnswers(all)
        }),
      )
    this.version(11).stores({ responses: null })
    this.version(12)
      .stores({ assets: 'hash, *lectureIds' })
      .upgrade(
        by(async ({ nameFeeds, nameIssuers }, all) => {
          await nameFeeds(all)
          await nameIssuers(all)
        }),
      )
    this.version(13).upgrade(by(({ keepBegun }, all) => keepBegun(all)))
    this.version(14).stores({ finishes: 'id', quiets: 'takeId', backdrops: 'takeId' })
    this.version(15).upgrade(by(({ partFingerprints }, all) => partFingerprints(all)))
    this.version(16).stores({ heard: 'takeId', words: 'courseId' })
    this.version(17).stores({ orders: 'id, courseId, lectureId, state' })
    this.version(18).upgrade(by(({ upgradeQuestions }, all) => upgradeQuestions(all)))
    this.version(19)
      .stores({ policies: 'id' })
      .upgrade(by(({ upgradeQuestions }, all) => upgradeQuestions(all)))
    this.version(20).stores({
      grading: '[placeId+id], placeId',
      watching: '[placeId+session], placeId',
      timelines: '[publicationId+version], publicationId',
    })
    this.version(21)
      .stores({ sentBack: '[placeId+who], placeId, [placeId+seq]' })
      .upgrade(by(({ gatherAnswers }, all) => gatherAnswers(all)))
    this.version(22).stores({ answers: null })
    this.version(23)
      .stores({ terms: 'id', courses: 'id, termId' })
      .upgrade(by(({ gatherTerms }, all) => gatherTerms(all)))
    this.use({ stack: 'dbcore', name: 'in turn', create: inTurn })
  }
}

/** The library that is open; before one is, nobody reads it. */
export const db = new ThawDatabase(databaseName(openLibrary(here()) ?? 'own', here()))
