/** Pulling what students sent back into this browser. Only what is new is fetched; nothing is ever changed. */
import { Type } from '@sinclair/typebox'
import { db, type ReleaseRow } from '~/db/database'
import { authorFetch } from '~/utils/author'
import { StoredEvents, Student } from '#core/schema/attempt'
import { parseAs } from '#core/schema/validate'

/** @returns how many new responses there were */
export async function pullResults({ place }: ReleaseRow): Promise<number> {
  const id = place.publicationId
  const last = await db.responses.where('publicationId').equals(id).last()
  const fresh = parseAs(StoredEvents, await (await authorFetch(`/api/publications/${id}/responses?after=${last?.seq ?? 0}`)).json(), 'answer of the server')
  const roster = parseAs(Type.Array(Student), await (await authorFetch(`/api/courses/${place.courseId}/roster`)).json(), 'roster')
  await db.transaction('rw', db.responses, db.rosters, async () => {
    await db.responses.bulkPut(fresh.map((event) => ({ ...event, publicationId: id })))
    await db.rosters.put({ courseId: place.courseId, students: roster })
  })
  return fresh.length
}
