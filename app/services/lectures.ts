/** Lectures as the term board sees them: the row, and the facts its readiness is computed from. */
import { db, type ReleaseRow } from '~/db/database'
import { readTrack } from '#core/captions/track'
import { editTimeMap, isTidied, readEdit } from '#core/edit/edit'
import { readiness, type LectureFacts, type Readiness } from '#core/library/readiness'
import { joinTakes, recordingState, shownFeeds, uncaptioned, type Recording } from '#core/record/recording'
import { checkpointProblems, readQuestionSet } from '#core/questions/grade'
import type { CaptionTrack } from '#core/schema/captions'
import type { EditDocument } from '#core/schema/edit'
import type { Lecture, Take } from '#core/schema/lecture'
import type { QuestionSet } from '#core/schema/questions'
import { projectInstants, projectRange } from '#core/time/time-map'
import { newId, nowInstant } from './ids'
import { removeTake, takesOf } from './takes'

export interface LectureParts {
  lecture: Lecture
  /** As they were recorded, whatever their state; without what was discarded. */
  takes: Take[]
  /** The whole ones among them, joined; null while there is none. */
  recording: Recording | null
  edit: EditDocument | null
  captions: CaptionTrack | null
  questions: QuestionSet | null
  release: ReleaseRow | null
}

/** Everything that belongs to one lecture, or null when there is no such lecture. */
export async function loadParts(lectureId: string): Promise<LectureParts | null> {
  const lecture = await db.lectures.get(lectureId)
  if (!lecture) return null
  const [takes, edit, captions, questions, release] = await Promise.all([
    takesOf(lectureId),
    db.edits.get(lectureId), db.captions.get(lectureId), db.questions.get(lectureId), db.releases.get(lectureId),
  ])
  return { lecture, takes, recording: joinTakes(takes), edit: edit?.edit ?? null, captions: captions?.track ?? null, questions: questions?.set ?? null, release: release ?? null }
}

/**
 * The same, each document checked as it comes from storage: what an older or a broken version left must not be edited on.
 * @throws {InvalidDocument} naming the document and the place
 */
export async function loadCheckedParts(lectureId: string): Promise<LectureParts | null> {
  const parts = await loadParts(lectureId)
  return parts && {
    ...parts,
    edit: parts.edit && readEdit(parts.edit),
    captions: parts.captions && readTrack(parts.captions),
    questions: parts.questions && readQuestionSet(parts.questions),
  }
}

/** SHA-256 over what a publication is made from; the same desk gives the same fingerprint. */
export async function fingerprint(parts: LectureParts): Promise<string> {
  const { lecture, edit, captions, questions, recording } = parts
  const what = [lecture.title, lecture.description, recording && shownFeeds(recording).map((f) => f.fileId).join(' '), edit && edit.commands.slice(0, edit.applied), captions?.state === 'on' ? captions.cues.map((c) => [c.from, c.to, c.text, c.settings]) : null, questions]
  const digest = await crypto.subtle.digest('SHA-256', new TextEncoder().encode(JSON.stringify(what)))
  return Array.from(new Uint8Array(digest), (b) => b.toString(16).padStart(2, '0')).join('')
}

export async function lectureFacts(parts: LectureParts, now: string): Promise<LectureFacts> {
  const { takes, recording, edit, captions, questions, release } = parts
  const all = questions?.checkpoints ?? []
  const complete = all.filter((c) => checkpointProblems(c).length === 0)
  const map = edit && editTimeMap(edit)
  const lost = map ? projectInstants(map, complete, (c) => c.at).lost.length : 0
  // A take that is taken out whole needs no captions.
  const bare = recording && map ? uncaptioned(recording, captions?.cues ?? []).filter((take) => projectRange(map, take).visible) : []
  return {
    recording: recordingState(takes),
    tidied: edit !== null && isTidied(edit),
    captions: captions?.state ?? null,
    uncaptioned: bare.length,
    asked: { complete: complete.length, unfinished: all.length - complete.length, lost },
    place: release?.place ?? null,
    published: !release ? 'no' : release.fingerprint === (await fingerprint(parts)) ? 'current' : 'outdated',
    now,
  }
}

export interface BoardCard {
  lecture: Lecture
  /** Length of what is recorded, s; null while nothing is. */
  duration: number | null
  readiness: Readiness
  poster: Blob | null
  /** When students may watch it live, ISO 8601 UTC; null when that is not announced. */
  liveAt: string | null
}

/** All lectures with their readiness, for the term board. */
export async function loadBoard(): Promise<BoardCard[]> {
  const lectures = await db.lectures.toArray()
  const now = nowInstant()
  return Promise.all(
    lectures.map(async (lecture) => {
      const parts = await loadParts(lecture.id)
      const facts = await lectureFacts(parts ?? { lecture, takes: [], recording: null, edit: null, captions: null, questions: null, release: null }, now)
      return { lecture, duration: parts?.takes.length ? (parts.recording?.duration ?? 0) : null, readiness: readiness(facts), poster: (await db.posters.get(lecture.id))?.image ?? null, liveAt: (await db.broadcasts.get(lecture.id))?.startsAt ?? null }
    }),
  )
}

export async function createLecture(courseId: string, week: number, title: string, folder = ''): Promise<string> {
  const id = newId()
  await db.lectures.put({ id, courseId, week, title, description: '', folder, createdAt: nowInstant() })
  return id
}

/**
 * Stores an edit as it is after a change. A further take may have made the stored one longer since it was read; then that one is
 * changed, so that nothing of the take is lost.
 */
export async function storeEdit(lectureId: string, next: EditDocument, change: (edit: EditDocument) => EditDocument): Promise<void> {
  await db.transaction('rw', db.edits, async () => {
    const stored = (await db.edits.get(lectureId))?.edit
    await db.edits.put({ lectureId, edit: stored && stored.duration > next.duration ? change(stored) : next })
  })
}

/** What a person says about a lecture. */
export type Particulars = Pick<Lecture, 'title' | 'description' | 'keywords' | 'courseId' | 'week' | 'folder'>

/** Changes a lecture's particulars and gives it back as it is then. */
export async function describeLecture(lecture: Lecture, changes: Partial<Particulars>): Promise<Lecture> {
  await db.lectures.update(lecture.id, changes)
  return { ...lecture, ...changes }
}

/** Deletes a lecture and everything in this browser that belongs to it. What was published stays published. */
export async function deleteLecture(lectureId: string): Promise<void> {
  const takes = await db.takes.where('lectureId').equals(lectureId).toArray()
  const shared = [db.lectures, db.edits, db.captions, db.questions, db.releases, db.broadcasts, db.posters]
  await db.transaction('rw', [...shared, db.takes, db.files, db.chunks, db.peaks, db.analyses, db.stills, db.jobs], async () => {
    for (const take of takes) await removeTake(take)
    await Promise.all([db.lectures.delete(lectureId), db.edits.delete(lectureId), db.captions.delete(lectureId), db.questions.delete(lectureId), db.releases.delete(lectureId), db.broadcasts.delete(lectureId), db.posters.delete(lectureId)])
    await db.jobs.where('lectureId').equals(lectureId).delete()
  })
}
