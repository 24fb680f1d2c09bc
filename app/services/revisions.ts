/**
 * Kept states of a lecture: a revision names the documents as they were. What several revisions say alike is stored
 * once, under the digest of what it says, and goes with the last revision that names it.
 */
import { differences, type Difference } from '#core/documents/differences'
import { kinds, type Documents, type Kind } from '#core/documents/kinds'
import { lengthen } from '#core/edit/edit'
import { canonicalJson } from '#core/text/canonical-json'
import { recorded } from '#core/time/units'
import { db, type DocumentRow, type RevisionRow } from '~/db/database'
import { storing } from '~/db/files'
import { changeLecture } from './cards'
import { storeDocument } from './documents'
import { sha256Text } from './fingerprint'
import { newId, nowInstant } from './ids'

/** The revisions of a lecture, the latest first. */
export const revisionsOf = async (lectureId: string): Promise<RevisionRow[]> =>
  (await db.revisions.where('lectureId').equals(lectureId).toArray()).sort((a, b) => b.madeAt.localeCompare(a.madeAt))

const documentsOf = async (lectureId: string): Promise<DocumentRow[]> =>
  (await db.documents.where('lectureId').equals(lectureId).toArray()).filter((row) => !row.unreadable)

/** Keeps all documents of a lecture as they are, under a name. */
export const keepRevision = (lectureId: string, name: string): Promise<void> =>
  storing(() =>
    changeLecture(lectureId, async () => {
      const named: RevisionRow['documents'] = {}
      for (const { kind, document } of await documentsOf(lectureId)) {
        const hash = sha256Text(canonicalJson(document))
        named[kind] = hash
        await db.contents.put({ hash, document })
      }
      const hashes = Object.values(named)
      await db.revisions.put({ id: newId(), lectureId, name, madeAt: nowInstant(), documents: named, hashes })
    }, [db.revisions, db.contents]),
  )

/** A document of which nothing but its fields is left. */
const emptied = <K extends Kind>(kind: K, document: Documents[K]): Documents[K] => ({
  ...document,
  ...Object.fromEntries(Object.keys(kinds[kind].lists).map((list) => [list, []])),
})

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
      const says = `Went back to “${revision.name}”`
      const present = new Map((await documentsOf(lectureId)).map((row) => [row.kind, row.document]))
      const restore = async <K extends Kind>(kind: K): Promise<void> => {
        const hash = revision.documents[kind]
        const now = (present.get(kind) as Documents[K] | undefined) ?? null
        const then = hash ? kinds[kind].read((await db.contents.get(hash))?.document) : now && emptied(kind, now)
        if (then) await storeDocument(lectureId, kind, now, asLong(kind, then, now), { says })
      }
      for (const kind of Object.keys(kinds) as Kind[]) await restore(kind)
    }, [db.revisions, db.contents])
  })

/**
 * What was changed in a lecture since a revision, document by document.
 * @throws {Error} when the revision is not there any more, or cannot be read
 */
export async function differencesSince(revisionId: string): Promise<Difference[]> {
  const revision = await db.revisions.get(revisionId)
  if (!revision) throw new Error('This revision is not there any more.')
  const present = new Map((await documentsOf(revision.lectureId)).map((row) => [row.kind, row.document]))
  const since = async <K extends Kind>(kind: K): Promise<Difference[]> => {
    const hash = revision.documents[kind]
    const then = hash ? kinds[kind].read((await db.contents.get(hash))?.document) : null
    return differences(kind, then, (present.get(kind) as Documents[K] | undefined) ?? null)
  }
  return (await Promise.all((Object.keys(kinds) as Kind[]).map(since))).flat()
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
