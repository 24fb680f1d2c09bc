/**
 * What students sent back, pulled into this browser, and what was decided about it, sent from here. Only what is new
 * crosses; nothing is ever changed.
 */
import { max } from 'd3-array'
import Dexie from 'dexie'
import equal from 'fast-deep-equal'
import { nanoid } from 'nanoid'
import { db, type GradingRow, type PlaceRow, type SentBackRow } from '~/db/database'
import { addSent } from '~/db/sent-back'
import { authorFetch } from '~/utils/author'
import { personKey } from '#core/course/people'
import { DeletedPlaces, KeptGrading } from '#core/schema/answers'
import type { Student, StoredEvent } from '#core/schema/attempt'
import { Roster } from '#core/schema/course-site'
import type { GradingEntry, StoredGrading } from '#core/schema/grading'
import { PlaceResponses } from '#core/schema/publication'
import type { PlaceHistory } from '#core/results/history'
import type { WatchedPlace } from '#core/results/watching'
import { PlaceWatching } from '#core/schema/watching'
import { parseAs } from '#core/schema/validate'

const rowOf = ({ placeId, seq, entry }: StoredGrading): GradingRow => ({ placeId, id: entry.id, entry, seq })

/** @returns how many new responses there were */
export async function pullResults({ place, asked, removed }: PlaceRow): Promise<number> {
  const { publicationId } = place
  const after = (await latestSent(place.id).last())?.seq ?? 0
  const graded = await db.grading.where('placeId').equals(place.id).toArray()
  const last = max(graded, (r) => r.seq ?? 0) ?? 0
  const answer = await authorFetch(`/api/places/${place.id}/responses?after=${after}&graded=${last}`)
  const { events, grading, sets, current } = parseAs(PlaceResponses, await answer.json(), 'answer of the server')
  const sittings = await db.watching.where('placeId').equals(place.id).toArray()
  const seen = max(sittings, (r) => r.seq) ?? 0
  const watching = parseAs(
    PlaceWatching,
    await (await authorFetch(`/api/places/${place.id}/watching?after=${seen}`)).json(),
    'answer of the server',
  )
  const roster = parseAs(Roster, await (await authorFetch(`/api/courses/${place.courseId}/roster`)).json(), 'roster')
  let fresh = 0
  const tables = [db.sentBack, db.grading, db.watching, db.timelines, db.rosters, db.sets, db.places]
  await db.transaction('rw', tables, async () => {
    const own = new Map<string, SentBackRow>()
    for (const who of new Set(events.map((e) => personKey(e.student)))) {
      const row = await db.sentBack.get([place.id, who])
      if (row) own.set(who, row)
    }
    for (const event of events) fresh += addSent(own, event)
    await db.sentBack.bulkPut([...own.values()])
    await db.watching.bulkPut(watching.sessions.map((session) => ({ ...session, placeId: place.id })))
    await db.timelines.bulkPut(watching.versions.map((version) => ({ ...version, publicationId })))
    await db.grading.bulkPut(grading.map(rowOf))
    await db.sets.bulkPut(sets.map((set) => ({ ...set, publicationId })))
    // The server does not know any more what was asked at a place that was removed.
    if (!removed && !equal(asked, current)) await db.places.update(place.id, { asked: current })
    const known = await db.rosters.get(place.courseId)
    // What did not change is not written: whoever looks would read it all anew.
    if (!equal(known?.students, roster)) await db.rosters.put({ courseId: place.courseId, students: roster })
  })
  return fresh
}

const latestSent = (placeId: string) =>
  db.sentBack.where('[placeId+seq]').between([placeId, Dexie.minKey], [placeId, Dexie.maxKey])

/** What was sent back at places, as far as it was pulled. */
export async function sentBackAt(placeIds: readonly string[]): Promise<StoredEvent[]> {
  const rows = await db.sentBack.where('placeId').anyOf(placeIds).toArray()
  return rows.flatMap(({ placeId, student, events }) => events.map((event) => ({ ...event, placeId, student })))
}

/** What this browser knows of a place. */
export async function placeHistory({ place, asked }: PlaceRow): Promise<PlaceHistory> {
  const [sets, events, grading, roster] = await Promise.all([
    db.sets.where('publicationId').equals(place.publicationId).toArray(),
    sentBackAt([place.id]),
    db.grading.where('placeId').equals(place.id).toArray(),
    db.rosters.get(place.courseId),
  ])
  return { sets, current: asked, events, grading: inOrder(grading), roster: roster?.students ?? [] }
}

/** What was watched at a place, as far as it was pulled. */
export async function watchedPlace({ place }: PlaceRow): Promise<WatchedPlace> {
  return {
    sessions: await db.watching.where('placeId').equals(place.id).toArray(),
    versions: await db.timelines.where('publicationId').equals(place.publicationId).toArray(),
  }
}

/** As the server numbered them; what it does not have yet comes after that, in the order of deciding. */
function inOrder(rows: readonly GradingRow[]): StoredGrading[] {
  const unsent = rows.filter((r) => r.seq === null).sort((a, b) => (a.entry.at < b.entry.at ? -1 : 1))
  const last = max(rows, (r) => r.seq ?? 0) ?? 0
  const numbered = rows.flatMap(({ seq, ...row }) => (seq === null ? [] : [{ ...row, seq }]))
  numbered.sort((a, b) => a.seq - b.seq)
  return [...numbered, ...unsent.map((row, i) => ({ ...row, seq: last + i + 1 }))].map(({ placeId, entry, seq }) => ({
    ...{ placeId, entry, seq },
    receivedAt: entry.at,
  }))
}

/** A decision as whoever makes it knows it. */
export type NewDecision = GradingEntry extends infer E ? (E extends GradingEntry ? Omit<E, 'id' | 'at'> : never) : never

/**
 * Keeps decisions about answers here, in their order, and sends them.
 * @returns why they are not sent yet, as a sentence; empty when they are
 * @throws when they cannot be kept
 */
export async function decide(
  { id: placeId }: Pick<PlaceRow, 'id'>,
  decisions: readonly NewDecision[],
): Promise<string> {
  await db.transaction('rw', db.grading, async () => {
    const mine = await db.grading.where('placeId').equals(placeId).toArray()
    // Two that are made within a millisecond, or by a clock that was set back, keep their order all the same.
    let at = Math.max(Date.now(), max(mine.filter((r) => r.seq === null).map((r) => Date.parse(r.entry.at) + 1)) ?? 0)
    const rows = decisions.map((decision): GradingRow => {
      const entry = { ...decision, id: nanoid(), at: new Date(at++).toISOString() } as GradingEntry
      return { placeId, id: entry.id, entry, seq: null }
    })
    await db.grading.bulkAdd(rows)
  })
  return sendDecisions(placeId)
}

const MOST_AT_ONCE = 200
const sending = new Map<string, Promise<string>>()

/**
 * Sends what was decided and is not sent yet, in order; the same sent twice, as two tabs may, is kept once.
 * @returns why it is not sent, as a sentence; empty when all is
 */
export async function sendDecisions(placeId: string): Promise<string> {
  // What was decided while it was sent goes after it.
  await sending.get(placeId)
  const sent = send(placeId).catch((error: unknown) => (error instanceof Error ? error.message : String(error)))
  sending.set(placeId, sent)
  return sent
}

async function send(placeId: string): Promise<string> {
  for (;;) {
    const rows = await db.grading.where('placeId').equals(placeId).toArray()
    const unsent = rows.filter((r) => r.seq === null).sort((a, b) => (a.entry.at < b.entry.at ? -1 : 1))
    if (unsent.length === 0) return ''
    const entries = unsent.slice(0, MOST_AT_ONCE).map((r) => r.entry)
    const answer = await authorFetch(`/api/places/${placeId}/grading`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ entries }),
    })
    const kept = parseAs(KeptGrading, await answer.json(), 'answer of the server').entries
    const ids = new Set(kept.map(({ entry }) => entry.id))
    if (!entries.every((e) => ids.has(e.id))) throw new Error('The server did not keep all that was decided.')
    await db.grading.bulkPut(kept.map(rowOf))
  }
}

/**
 * Deletes what is kept of one student in all lectures, on the server and then here. Other browsers keep what they fetched.
 * @returns at how many places the server had something
 * @throws where the server could not; here nothing is deleted then
 */
export async function forgetStudent(student: Student): Promise<number> {
  const headers = { 'content-type': 'application/json' }
  const answer = await authorFetch('/api/author/forget', { method: 'POST', headers, body: JSON.stringify({ student }) })
  const { places } = parseAs(DeletedPlaces, await answer.json(), 'answer of the server')
  const who = personKey(student)
  await db.transaction('rw', db.sentBack, db.grading, db.watching, async () => {
    await db.sentBack.filter((row) => row.who === who).delete()
    await db.grading.filter((row) => personKey(row.entry.student) === who).delete()
    await db.watching.filter((row) => row.student !== null && personKey(row.student) === who).delete()
  })
  return places
}
