/** Pulling what students sent back into this browser. Only what is new is fetched; nothing is ever changed. */
import { Type } from '@sinclair/typebox'
import { db, type ReleaseRow } from '~/db/database'
import { authorFetch } from '~/utils/author'
import { Student } from '#core/schema/attempt'
import { PlaceResponses, type GradedSet } from '#core/schema/publication'
import type { PublishedSets } from '#core/results/results'
import { parseAs } from '#core/schema/validate'

/** @returns how many new responses there were */
export async function pullResults({ place }: ReleaseRow): Promise<number> {
  const publicationId = place.publicationId
  const known = await db.responses.where('publicationId').equals(publicationId).toArray()
  const last = Math.max(0, ...known.map((r) => r.seq))
  const answer = await authorFetch(`/api/places/${place.id}/responses?after=${last}`)
  const { events, sets, current } = parseAs(PlaceResponses, await answer.json(), 'answer of the server')
  const roster = parseAs(
    Type.Array(Student),
    await (await authorFetch(`/api/courses/${place.courseId}/roster`)).json(),
    'roster',
  )
  const had = new Set(known.map((r) => `${r.student.id} ${r.event.id}`))
  await db.transaction('rw', db.responses, db.rosters, db.sets, async () => {
    await db.responses.bulkPut(events.map((event) => ({ ...event, publicationId })))
    await db.sets.bulkPut(sets.map((set) => ({ ...set, publicationId, current: set.version === current })))
    await markCurrent(publicationId, current)
    await db.rosters.put({ courseId: place.courseId, students: roster })
  })
  return events.filter((e) => !had.has(`${e.student.id} ${e.event.id}`)).length
}

async function markCurrent(publicationId: string, version: string | null): Promise<void> {
  await db.sets
    .where('publicationId')
    .equals(publicationId)
    .modify((row) => {
      row.current = row.version === version
    })
}

/** Keeps what was published, by which answers are graded from now on. */
export async function keepPublishedSet(publicationId: string, set: GradedSet): Promise<void> {
  await db.transaction('rw', db.sets, async () => {
    await db.sets.put({ ...set, publicationId, current: true })
    await markCurrent(publicationId, set.version)
  })
}

/** What this browser knows of what was published. */
export async function publishedSets(publicationId: string): Promise<PublishedSets> {
  const rows = await db.sets.where('publicationId').equals(publicationId).toArray()
  return { sets: rows, current: rows.find((r) => r.current)?.version ?? null }
}
