/** Pulling what students sent back into this browser. Only what is new is fetched; nothing is ever changed. */
import { Type } from '@sinclair/typebox'
import { db, type PlaceRow } from '~/db/database'
import { authorFetch } from '~/utils/author'
import { personKey } from '#core/course/people'
import { Student } from '#core/schema/attempt'
import { PlaceResponses } from '#core/schema/publication'
import type { PublishedSets } from '#core/results/results'
import { parseAs } from '#core/schema/validate'

/** @returns how many new responses there were */
export async function pullResults({ place, removed }: PlaceRow): Promise<number> {
  const { publicationId } = place
  const known = await db.answers.where('placeId').equals(place.id).toArray()
  const last = Math.max(0, ...known.map((r) => r.seq))
  const answer = await authorFetch(`/api/places/${place.id}/responses?after=${last}`)
  const { events, sets, current } = parseAs(PlaceResponses, await answer.json(), 'answer of the server')
  const roster = parseAs(
    Type.Array(Student),
    await (await authorFetch(`/api/courses/${place.courseId}/roster`)).json(),
    'roster',
  )
  const had = new Set(known.map((r) => `${personKey(r.student)} ${r.event.id}`))
  await db.transaction('rw', db.answers, db.rosters, db.sets, db.places, async () => {
    await db.answers.bulkPut(events)
    await db.sets.bulkPut(sets.map((set) => ({ ...set, publicationId })))
    // The server does not know any more what was asked at a place that was removed.
    if (!removed) await db.places.update(place.id, { asked: current })
    await db.rosters.put({ courseId: place.courseId, students: roster })
  })
  return events.filter((e) => !had.has(`${personKey(e.student)} ${e.event.id}`)).length
}

/** What this browser knows of what was asked at a place. */
export async function askedSets({ place, asked }: PlaceRow): Promise<PublishedSets> {
  const sets = await db.sets.where('publicationId').equals(place.publicationId).toArray()
  return { sets, current: asked }
}
