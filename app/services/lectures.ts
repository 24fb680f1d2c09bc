/** Making, describing, opening and deleting lectures. */
import type { Table } from 'dexie'
import { db, type DocumentRow } from '~/db/database'
import { storing } from '~/db/files'
import { documentName, kinds, type DocumentName } from '#core/documents/kinds'
import { newEdit } from '#core/edit/edit'
import { InvalidDocument } from '#core/schema/validate'
import type { Lecture } from '#core/schema/lecture'
import { copyAssets, releaseAssets } from './assets'
import { changeLecture, loadParts, type LectureParts } from './cards'
import { deleteDocument, deleteDocuments, documentRow, newRow } from './documents'
import { newId, nowInstant } from './ids'
import { deleteRevisions } from './revisions'
import { copyTake, editFrameRate, removeTake } from './takes'

/** A document as it is read from storage, of whatever version it is; marked with the reason where it cannot be. */
function checked({ unreadable: _, ...row }: DocumentRow): DocumentRow {
  try {
    return { ...row, document: kinds[row.kind].read(row.document) }
  } catch (error) {
    if (error instanceof InvalidDocument) return { ...row, unreadable: error.message }
    throw error
  }
}

/**
 * Everything that belongs to one lecture, each document checked as it comes from storage: what an older or a broken
 * version left must not be edited on. It is kept as it is, counts as not being there, and its row says why.
 */
export async function loadCheckedParts(lectureId: string): Promise<LectureParts | null> {
  const parts = await loadParts(lectureId)
  if (!parts) return null
  const rows = parts.rows.map(checked)
  const changed = rows.filter((row, i) => row.unreadable !== parts.rows[i]?.unreadable)
  if (changed.length > 0)
    await changeLecture(lectureId, async () => {
      for (const { id, unreadable } of changed) await db.documents.update(id, { unreadable })
    })
  return { ...parts, rows }
}

/** Takes a document out that cannot be read, with its history, and begins it anew. */
export const beginAnew = (lectureId: string, name: DocumentName): Promise<void> =>
  storing(() =>
    changeLecture(lectureId, async () => {
      if (!(await documentRow(lectureId, name))?.unreadable) return
      await deleteDocument(lectureId, name)
      const parts = await loadParts(lectureId)
      if (name !== 'edit' || !parts?.recording) return
      const frameRate = editFrameRate(parts.takes.flatMap((take) => take.feeds))
      await db.documents.put(newRow(lectureId, name, newEdit(parts.recording.duration, frameRate)))
    }),
  )

/** What is spoken in a lecture. */
export const languageOf = async ({ language, courseId }: Lecture): Promise<string> =>
  language ?? (await db.courses.get(courseId))?.language ?? 'en'

/** What a recording and what was found out about it are kept in. */
const recorded = (): Table[] => [
  db.assets,
  db.posters,
  db.files,
  db.chunks,
  db.peaks,
  db.analyses,
  db.heard,
  db.stills,
  db.quiets,
  db.backdrops,
]

export async function createLecture(courseId: string, week: number, title: string, folder = ''): Promise<string> {
  const id = newId()
  await changeLecture(id, () =>
    db.lectures.put({ id, courseId, week, title, description: '', folder, createdAt: nowInstant() }),
  )
  return id
}

/** What a person says about a lecture. */
export type Particulars = Pick<
  Lecture,
  'title' | 'description' | 'keywords' | 'courseId' | 'week' | 'folder' | 'language' | 'lecturer' | 'rights'
>

/** Changes a lecture's particulars and gives it back as it is then. */
export async function describeLecture(lecture: Lecture, changes: Partial<Particulars>): Promise<Lecture> {
  await changeLecture(lecture.id, () => db.lectures.update(lecture.id, changes))
  return { ...lecture, ...changes }
}

/**
 * Deletes a lecture and everything in this browser that belongs to it, what students sent back included. What was
 * published stays published.
 */
export async function deleteLecture(lectureId: string): Promise<void> {
  await changeLecture(lectureId, async () => {
    const release = await db.releases.get(lectureId)
    if (release)
      for (const table of [db.sets, db.timelines]) await table.where({ publicationId: release.publicationId }).delete()
    const places = db.places.where('lectureId').equals(lectureId)
    const placeIds = await places.primaryKeys()
    for (const table of [db.sentBack, db.grading, db.watching]) await table.where('placeId').anyOf(placeIds).delete()
    await places.delete()
    for (const take of await db.takes.where('lectureId').equals(lectureId).toArray()) await removeTake(take)
    await releaseAssets(lectureId)
    await deleteDocuments(lectureId)
    await deleteRevisions(lectureId)
    for (const table of [db.lectures, db.releases, db.broadcasts, db.posters]) await table.delete(lectureId)
    await db.jobs.where('lectureId').equals(lectureId).delete()
  }, [...recorded(), db.jobs, db.sentBack, db.grading, db.watching, db.timelines, db.sets, db.revisions, db.contents])
}

/**
 * Makes a copy of a lecture to go on with by itself: with its documents, without their histories, and on the same
 * recording, whose files are kept until neither has them any more. Nothing is published of it.
 * @returns its id
 * @throws {Error} with a sentence when there is no such lecture
 */
export async function copyLecture(lectureId: string, title: string): Promise<string> {
  const id = newId()
  await storing(() =>
    changeLecture(
      id,
      async () => {
        const parts = await loadParts(lectureId)
        if (!parts) throw new Error('This lecture is not there any more.')
        await db.lectures.put({ ...parts.lecture, id, title, createdAt: nowInstant() })
        for (const row of parts.rows)
          if (!row.unreadable) await db.documents.put(newRow(id, documentName(row), row.document))
        for (const take of parts.takes.filter((t) => t.state === 'whole')) await copyTake(take, id)
        await copyAssets(lectureId, id)
        const poster = await db.posters.get(lectureId)
        if (poster) await db.posters.put({ ...poster, lectureId: id })
      },
      recorded(),
    ),
  )
  return id
}
