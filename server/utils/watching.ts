/**
 * What was watched: statements of the players, in a journal for each person at a place; where a place keeps sums only, in
 * one for each day, of nobody.
 */
import { group, sum } from 'd3-array'
import { personKey } from '#core/course/people'
import type { WatchedSoFar } from '#core/packages/watch-view'
import { foldStatements, reachedIn, sessionsOf } from '#core/results/played'
import type { RefusedEvent, Student } from '#core/schema/attempt'
import type { Place } from '#core/schema/publication'
import { InvalidDocument, parseAs } from '#core/schema/validate'
import {
  activityOf,
  extensions,
  ReceivedStatement,
  WatchStatement,
  type PlaceWatching,
  type WatchedSession,
  type WatchedVersion,
} from '#core/schema/watching'
import type { Kept } from '../store/store'
import { readVersionOf } from './publications'
import { useStore } from './storage'

const idOf = (s: ReceivedStatement) => s.statement.id
export const watchingJournals = () =>
  useStore().journals('watching', ReceivedStatement, idOf, (data) => data, foldStatements<Kept<ReceivedStatement>>)

/** What is kept of one person's watching at one place: characters, and sittings. Nobody comes near who watches. */
const [MOST_TEXT, MOST_SITTINGS] = [2_000_000, 300]
/** Statements of a day at a place that keeps sums only. */
const MOST_SUMS = 100_000
const TOO_MUCH = 'More of what you watched is not kept here. Watching goes on, and so does answering.'

/** How much room a statement takes, characters, about. */
const sizeOf = ({ statement }: ReceivedStatement) =>
  800 + (statement.result?.extensions[extensions.segments]?.length ?? 0)
const sessionIn = ({ statement }: ReceivedStatement) => statement.context.extensions[extensions.session]

/** Those of some statements for which there is room beside what is held. */
function fitting(held: readonly ReceivedStatement[], fresh: readonly ReceivedStatement[]): ReceivedStatement[] {
  let size = sum(held, sizeOf)
  const sittings = new Set(held.map(sessionIn))
  return fresh.filter((one) => {
    size += sizeOf(one)
    sittings.add(sessionIn(one))
    return size <= MOST_TEXT && sittings.size <= MOST_SITTINGS
  })
}

/** Keeps a player's statements, each once. @returns those that are never taken, each with the reason */
export async function keepStatements(
  place: Pick<Place, 'id' | 'publicationId' | 'options'>,
  student: Student,
  data: readonly unknown[],
  receivedAt = new Date().toISOString(),
): Promise<RefusedEvent[]> {
  const refused: RefusedEvent[] = []
  const taken: WatchStatement[] = []
  for (const [i, one] of data.entries())
    try {
      const statement = parseAs(WatchStatement, one, 'statement')
      const version = statement.context.extensions[extensions.version]
      const why =
        statement.object.id !== activityOf(place.id)
          ? 'This is about another lecture.'
          : (await readVersionOf(place.publicationId, version))
            ? ''
            : 'This is about a version that there never was.'
      if (why) refused.push({ id: statement.id, why })
      else taken.push(statement)
    } catch (error) {
      if (!(error instanceof InvalidDocument)) throw error
      refused.push({ id: String(i), why: error.message })
    }
  if (taken.length === 0) return refused
  const received = taken.map((statement) => ({ receivedAt, placeId: place.id, student, statement }))
  const tooMuch = (those: readonly ReceivedStatement[]) => {
    for (const one of those) refused.push({ id: idOf(one), why: TOO_MUCH })
  }
  if (place.options.sumsOnly) tooMuch(await addToSums(place.id, received))
  else
    await watchingJournals().append(place.id, personKey(student), (held) => {
      const kept = fitting(held, received)
      tooMuch(received.filter((one) => !kept.includes(one)))
      return kept
    })
  return refused
}

/** The journal of a day of which sums are kept. */
const sumsName = (instant: string) => `sums ${instant.slice(0, 10)}`

/** Those of some statements that are not held yet: as many as there is room for, and the others. @param most held in all */
export function withRoom(
  held: readonly ReceivedStatement[],
  those: readonly ReceivedStatement[],
  most: number,
): { taken: ReceivedStatement[]; left: ReceivedStatement[] } {
  const known = new Set(held.map(idOf))
  const fresh = those.filter((one) => !known.has(idOf(one)))
  const room = Math.max(0, most - held.length)
  return { taken: fresh.slice(0, room), left: fresh.slice(room) }
}

/**
 * Keeps nothing that tells one person's from another's, and the time only to the day.
 * @returns those for which the day has no room
 */
async function addToSums(placeId: string, received: readonly ReceivedStatement[]): Promise<ReceivedStatement[]> {
  const dayOf = (instant: string) => `${instant.slice(0, 10)}T00:00:00.000Z`
  const left: ReceivedStatement[] = []
  for (const [day, those] of group(received, (r) => dayOf(r.receivedAt)))
    await watchingJournals().append(placeId, sumsName(day), (held) => {
      const fresh = withRoom(held, those, MOST_SUMS)
      for (const one of fresh.left) left.push(one)
      return fresh.taken.map(({ statement }) => ({
        ...{ receivedAt: day, placeId },
        statement: { ...statement, timestamp: dayOf(statement.timestamp) },
      }))
    })
  return left
}

/**
 * Where a place keeps sums only and kept each one's own before, that becomes sums as well. Done at every reading, so that
 * nothing stays of one that was killed on the way, or of what came while the place changed.
 */
export async function forgetWhoWatched({ id, options }: Pick<Place, 'id' | 'options'>): Promise<void> {
  if (!options.sumsOnly) return
  await useStore().exclusive(`sums ${id}`, async () => {
    const named = (await watchingJournals().readGroup(id, 0)).filter((s) => s.student)
    for (const [name, own] of group(named, (s) => personKey(s.student as Student))) {
      const left = await addToSums(id, own)
      if (left.length > 0) console.error(`${left.length} reports of watching at ${id} were more than is kept of a day.`)
      await watchingJournals().remove(
        id,
        name,
        (held) => held.length === own.length && held.at(-1)?.seq === own.at(-1)?.seq,
      )
    }
  })
}

/** What a student has watched so far, on any device; null where that is not known. */
export async function resumeAt(placeId: string, student: Student): Promise<WatchedSoFar | null> {
  const own = await watchingJournals().read(placeId, personKey(student))
  const last = own.findLast(({ statement }) => statement.result?.extensions[extensions.time] !== undefined)
  const at = last?.statement.result?.extensions[extensions.time]
  if (!last || at === undefined) return null
  return { at, when: last.statement.timestamp, reached: reachedIn(own) }
}

/** Sittings at a place of which something came after `seq`, as they are now, and the versions that they are of. */
export async function watchingAt(
  place: Pick<Place, 'id' | 'publicationId' | 'options'>,
  after = 0,
): Promise<PlaceWatching> {
  await forgetWhoWatched(place)
  const fresh = await watchingJournals().readGroup(place.id, after)
  const names = new Set(fresh.map((s) => (s.student ? personKey(s.student) : sumsName(s.receivedAt))))
  const sessions: WatchedSession[] = []
  for (const name of names)
    for (const session of sessionsOf(await watchingJournals().read(place.id, name)))
      if (session.seq > after) sessions.push(session)
  const versions: WatchedVersion[] = []
  for (const version of new Set(sessions.map((s) => s.version))) {
    const found = await readVersionOf(place.publicationId, version)
    if (found) versions.push({ version, duration: found.manifest.duration, kept: found.manifest.kept })
  }
  return { sessions, versions }
}

/** Every statement at a place, with its actor, as an xAPI record store takes them. */
export async function statementsAt(place: Pick<Place, 'id' | 'options'>): Promise<object[]> {
  await forgetWhoWatched(place)
  const all = await watchingJournals().readGroup(place.id, 0)
  return all.map(({ student, statement, receivedAt }) => ({
    ...{ ...statement, version: '1.0.3', stored: receivedAt },
    actor: student
      ? {
          ...{ objectType: 'Agent', account: { homePage: student.issuer, name: student.subject } },
          ...(student.name && { name: student.name }),
        }
      : { objectType: 'Agent', account: { homePage: 'https://thaw.example', name: 'everybody' } },
  }))
}
