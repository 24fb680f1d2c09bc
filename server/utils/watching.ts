/**
 * What was watched: statements of the players, in a journal for each person at a place; where a place keeps sums only, in
 * one for each day, of nobody.
 */
import { personKey } from '#core/course/people'
import type { WatchedSoFar } from '#core/packages/watch-view'
import { sessionsOf } from '#core/results/played'
import type { RefusedEvent, Student } from '#core/schema/attempt'
import type { Place } from '#core/schema/publication'
import { InvalidDocument, parseAs } from '#core/schema/validate'
import {
  activityOf,
  extensions,
  ReceivedStatement,
  WatchStatement,
  type PlaceWatching,
  type WatchedVersion,
} from '#core/schema/watching'
import { readVersionOf } from './publications'
import { useStore } from './storage'

const watching = () => useStore().journals('watching', ReceivedStatement, (s) => s.statement.id)

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
  // Nothing that tells one person's from another's is kept then, and the time only to the day.
  const [name, common] = place.options.sumsOnly
    ? [`sums ${receivedAt.slice(0, 10)}`, { receivedAt: `${receivedAt.slice(0, 10)}T00:00:00.000Z`, placeId: place.id }]
    : [personKey(student), { receivedAt, placeId: place.id, student }]
  await watching().append(place.id, name, () =>
    taken.map((statement) => ({ ...common, statement: undated(statement, place) })),
  )
  return refused
}

const undated = (statement: WatchStatement, { options }: Pick<Place, 'options'>): WatchStatement =>
  options.sumsOnly ? { ...statement, timestamp: `${statement.timestamp.slice(0, 10)}T00:00:00.000Z` } : statement

/** What a student has watched so far, on any device; null where that is not known. */
export async function resumeAt(placeId: string, student: Student): Promise<WatchedSoFar | null> {
  const own = await watching().read(placeId, personKey(student))
  const last = own.findLast(({ statement }) => statement.result?.extensions[extensions.time] !== undefined)
  const at = last?.statement.result?.extensions[extensions.time]
  if (!last || at === undefined) return null
  const ends = sessionsOf(own).flatMap((s) => s.played.map(([, to]) => to))
  return { at, when: last.statement.timestamp, reached: Math.max(0, ...ends) }
}

/** Sittings at a place of which something came after `seq`, as they are now, and the versions that they are of. */
export async function watchingAt(place: Pick<Place, 'id' | 'publicationId'>, after = 0): Promise<PlaceWatching> {
  const sessions = sessionsOf(await watching().readGroup(place.id, 0)).filter((s) => s.seq > after)
  const versions: WatchedVersion[] = []
  for (const version of new Set(sessions.map((s) => s.version))) {
    const found = await readVersionOf(place.publicationId, version)
    if (found) versions.push({ version, duration: found.manifest.duration, kept: found.manifest.kept })
  }
  return { sessions, versions }
}

/** Every statement at a place, with its actor, as an xAPI record store takes them. */
export async function statementsAt(placeId: string): Promise<object[]> {
  const all = await watching().readGroup(placeId, 0)
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
