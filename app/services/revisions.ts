/**
 * Kept states of a lecture: a revision names the documents as they were. What several revisions say alike is stored
 * once, under the digest of what it says, and goes with the last revision that names it.
 */
import { differences, type Difference } from '#core/documents/differences'
import {
  documentName,
  emptied,
  kindOf,
  kinds,
  type DocumentName,
  type Documents,
  type Kind,
} from '#core/documents/kinds'
import { editTimeMap, lengthen } from '#core/edit/edit'
import { canonicalJson } from '#core/text/canonical-json'
import { identityMap } from '#core/time/time-map'
import { recorded } from '#core/time/units'
import { db, type DocumentRow, type RevisionRow } from '~/db/database'
import { storing } from '~/db/files'
import { changeLecture, type LectureParts } from './cards'
import { newRow, storeDocument } from './documents'
import { sha256Text } from './fingerprint'
import { newId, nowInstant } from './ids'

/** The revisions of a lecture, the latest first. */
export const revisionsOf = async (lectureId: string): Promise<RevisionRow[]> =>
  (await db.revisions.where('lectureId').equals(lectureId).toArray()).sort((a, b) => b.madeAt.localeCompare(a.madeAt))

const documentsOf = async (lectureId: string): Promise<DocumentRow[]> =>
  (await db.documents.where('lectureId').equals(lectureId).toArray()).filter((row) => !row.unreadable)

/** Stores a state of a lecture's documents under a name. To be called inside a change of the lecture. @returns its id */
async function storeRevision(lectureId: string, name: string, rows: readonly DocumentRow[]): Promise<string> {
  const documents: RevisionRow['documents'] = {}
  for (const row of rows) {
    const hash = sha256Text(canonicalJson(row.document))
    documents[documentName(row)] = hash
    await db.contents.put({ hash, document: row.document })
  }
  const id = newId()
  await db.revisions.put({ id, lectureId, name, madeAt: nowInstant(), documents, hashes: Object.values(documents) })
  return id
}

/** Keeps all documents of a lecture as they are, under a name. */
export const keepRevision = (lectureId: string, name: string): Promise<string> =>
  storing(() =>
    changeLecture(lectureId, async () => storeRevision(lectureId, name, await documentsOf(lectureId)), [
      db.revisions,
      db.contents,
    ]),
  )

/**
 * Keeps what is published of a lecture; a revision that says the same, if there is one, is it. To be called inside a
 * change of the lecture that holds `revisions` and `contents`.
 * @returns its id
 */
export async function keepPublished({ lecture, rows }: Pick<LectureParts, 'lecture' | 'rows'>): Promise<string> {
  const readable = rows.filter((row) => !row.unreadable)
  const hashes = new Map(readable.map((row) => [documentName(row), sha256Text(canonicalJson(row.document))]))
  const same = (await revisionsOf(lecture.id)).find(
    ({ documents }) =>
      Object.keys(documents).length === hashes.size && [...hashes].every(([name, hash]) => documents[name] === hash),
  )
  return same?.id ?? storeRevision(lecture.id, 'As published', readable)
}

/** A document of a revision, read as it comes from storage. @throws {InvalidDocument} */
const contentOf = async <K extends Kind>(kind: K, hash: string): Promise<Documents[K]> =>
  kinds[kind].read((await db.contents.get(hash))?.document)

/**
 * A lecture with its documents as a revision has them.
 * @throws {Error} with a sentence when the revision is not there any more, or cannot be read
 */
export async function partsAsOf(parts: LectureParts, revisionId: string): Promise<LectureParts> {
  const revision = await db.revisions.get(revisionId)
  if (!revision) throw new Error('This revision is not there any more.')
  const { lecture, rows } = parts
  const rowOf = async <K extends Kind>(name: DocumentName<K>, hash: string): Promise<DocumentRow> => {
    const kind = kindOf(name)
    const now = rows.find((row) => documentName(row) === name && !row.unreadable)?.document as Documents[K] | undefined
    return newRow(lecture.id, name, asLong(kind, await contentOf(kind, hash), now ?? null)) as DocumentRow
  }
  const then = Object.entries(revision.documents) as [DocumentName, string][]
  return { ...parts, rows: await Promise.all(then.map(([name, hash]) => rowOf(name, hash))) }
}

/** The documents that a revision has or the lecture has now, in the order of their kinds. */
function namesIn(revision: RevisionRow, present: ReadonlyMap<DocumentName, unknown>): DocumentName[] {
  const names = new Set([...(Object.keys(revision.documents) as DocumentName[]), ...present.keys()])
  const order = Object.keys(kinds)
  return [...names].sort((a, b) => order.indexOf(kindOf(a)) - order.indexOf(kindOf(b)) || a.localeCompare(b))
}

/** An edit of before a further take was recorded, over the longer recording; anything else as it is. */
const asLong = <K extends Kind>(kind: K, then: Documents[K], now: Documents[K] | null): Documents[K] =>
  kind === 'edit' && now
    ? (lengthen(then as Documents['edit'], recorded((now as Documents['edit']).duration)) as Documents[K])
    : then

/**
 * Makes every document of a lecture what a revision says of it, each in one step of its history, so that it can be
 * undone. A recording that became longer since then stays so.
 * @throws {Error} with a sentence when the revision is not there any more, or cannot be read; nothing is changed then
 */
export const bringBack = (revisionId: string): Promise<void> =>
  storing(async () => {
    const lectureId = (await db.revisions.get(revisionId))?.lectureId ?? ''
    await changeLecture(lectureId, async () => {
      const revision = await db.revisions.get(revisionId)
      if (!revision) throw new Error('This revision is not there any more.')
      const doing = { says: `Went back to “${revision.name}”`, doneAt: nowInstant() }
      const present = new Map((await documentsOf(lectureId)).map((row) => [documentName(row), row.document]))
      const restore = async <K extends Kind>(name: DocumentName<K>): Promise<void> => {
        const kind = kindOf(name)
        const hash = revision.documents[name]
        const now = (present.get(name) as Documents[K] | undefined) ?? null
        const then = hash ? await contentOf(kind, hash) : now && emptied(kind, now)
        if (then) await storeDocument(lectureId, name, now, asLong(kind, then, now), doing)
      }
      for (const name of namesIn(revision, present)) await restore(name)
    }, [db.revisions, db.contents])
  })

/**
 * What was changed in a lecture since a revision, document by document; null when the revision is not there any more.
 * @throws {InvalidDocument} when it cannot be read
 */
export async function changesSince(revisionId: string): Promise<Difference[] | null> {
  const revision = await db.revisions.get(revisionId)
  if (!revision) return null
  const present = new Map((await documentsOf(revision.lectureId)).map((row) => [documentName(row), row.document]))
  const edit = present.get('edit')
  const map = edit ? editTimeMap(edit as Documents['edit']) : identityMap
  const since = async <K extends Kind>(name: DocumentName<K>): Promise<Difference[]> => {
    const kind = kindOf(name)
    const hash = revision.documents[name]
    const then = hash ? await contentOf(kind, hash) : null
    return differences(kind, then, (present.get(name) as Documents[K] | undefined) ?? null, map)
  }
  return (await Promise.all(namesIn(revision, present).map(since))).flat()
}

/** Removes a revision, and what no other one names. */
export const deleteRevision = (revisionId: string): Promise<void> =>
  db.transaction('rw', db.revisions, db.contents, async () => {
    const revision = await db.revisions.get(revisionId)
    if (!revision) return
    await db.revisions.delete(revisionId)
    for (const hash of revision.hashes)
      if ((await db.revisions.where('hashes').equals(hash).count()) === 0) await db.contents.delete(hash)
  })

/** Removes all revisions of a lecture. */
export async function deleteRevisions(lectureId: string): Promise<void> {
  for (const { id } of await revisionsOf(lectureId)) await deleteRevision(id)
}
