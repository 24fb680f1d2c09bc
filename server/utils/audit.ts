/** The activity log: a journal for each month, added to before what is logged is answered. */
import { randomUUID } from 'node:crypto'
import { group } from 'd3-array'
import equal from 'fast-deep-equal'
import type { H3Event } from 'h3'
import { RateLimiterMemory } from 'rate-limiter-flexible'
import { personKey } from '#core/course/people'
import { AuditEntry, type AuditAction, type StoredAuditEntry } from '#core/schema/audit'
import type { GradingEntry } from '#core/schema/grading'
import type { PublishedSet } from '#core/schema/publication'
import { sayCount } from '#core/text/words'
import { clientAddress } from './border'
import { isFull } from './full'
import { places } from './places'
import { readPublication } from './publications'
import { useStore } from './storage'

const log = () => useStore().journals('audit', AuditEntry, (entry) => entry.id)
/** The journals of all months are one group, so that they are read in one order. */
const GROUP = 'activity'
export const activityJournals = () => ({ journals: log(), group: GROUP })

export interface Logged {
  action: AuditAction
  publicationId?: string
  placeId?: string
  says?: string
}

/**
 * Adds what is done by a request, once that cannot be refused any more. On the disk when it resolves; where that is full, in
 * what the server prints, as whoever makes room has to sign in and delete.
 */
export async function logActivity(event: H3Event, { says = '', ...what }: Logged): Promise<void> {
  await add(clientAddress(event).slice(0, 64), { says, ...what })
}

/** Adds what the server does by itself. */
export const logOwn = (what: Logged): Promise<void> => add('this server', what)

async function add(from: string, { says = '', ...what }: Logged): Promise<void> {
  const at = new Date().toISOString()
  const shown = says.replaceAll(/\p{Cc}+/gu, ' ').slice(0, 1000)
  const entry: AuditEntry = { id: randomUUID(), at, from, ...what, says: shown }
  try {
    await log().append(GROUP, at.slice(0, 7), () => [entry])
  } catch (error) {
    if (!isFull(error)) throw error
    console.error(`The disk is full, so that this does not stand in the activity log: ${JSON.stringify(entry)}`)
  }
}

/** All that was logged after `seq`, in order. */
export const activityAfter = (seq: number): Promise<StoredAuditEntry[]> => log().readGroup(GROUP, seq)

/** How long results that are fetched again and again, as by a page that is open, count as read once, ms. */
const ONCE = 3_600_000
const reads = new Map<string, number>()

/** Logs that results of a place are read: once an hour for each address. */
export async function logRead(event: H3Event, placeId: string, what: string, now = Date.now()): Promise<void> {
  const key = [clientAddress(event), placeId, what].join(' ')
  for (const [known, at] of reads) if (now - at >= ONCE) reads.delete(known)
  if (reads.has(key)) return
  await logActivity(event, { action: 'read-results', placeId, says: `${what} of ${await titleAt(placeId)}` })
  reads.set(key, now)
}

/** Wrong keys that are logged: a log of all of them would be as long as whoever guesses wishes. */
const wrongKeys = new RateLimiterMemory({ points: 10, duration: 3600 })
export async function logWrongKey(event: H3Event): Promise<void> {
  const isFew = await wrongKeys.consume('all').then(
    () => true,
    () => false,
  )
  if (isFew)
    await logActivity(event, { action: 'wrong-key', says: 'Of more than ten in an hour, the first ten are listed.' })
}

export const titleOf = async (publicationId: string): Promise<string> =>
  `“${(await readPublication(publicationId))?.manifest.title ?? publicationId}”`

/** What stands at a place, for reading. */
export async function titleAt(placeId: string): Promise<string> {
  const place = await places().read(placeId)
  return place ? titleOf(place.publicationId) : `what stood at ${placeId}`
}

/** The rules of a publication's questions, as they count now. */
export const rulesOf = async (publicationId: string): Promise<PublishedSet[]> =>
  (await readPublication(publicationId))?.sets.map(({ set }) => set) ?? []

/** Logs which sets are asked by other rules than before. */
export async function logRules(event: H3Event, publicationId: string, before: readonly PublishedSet[]): Promise<void> {
  const changed = changedRules(before, await rulesOf(publicationId))
  if (changed.length === 0) return
  const says = `${changed.map((title) => `“${title}”`).join(', ')} in ${await titleOf(publicationId)}`
  await logActivity(event, { action: 'changed-rules', publicationId, says })
}

/** Which sets have other rules than before, by their names. */
export const changedRules = (
  before: readonly Pick<PublishedSet, 'id' | 'policy'>[],
  now: readonly Pick<PublishedSet, 'id' | 'title' | 'policy'>[],
): string[] =>
  now.flatMap((set) => {
    const known = before.find((b) => b.id === set.id)
    return known && !equal(known.policy, set.policy) ? [set.title || set.id] : []
  })

function wordFor(entry: GradingEntry): string {
  if (entry.kind === 'release') return entry.released ? 'released marks to' : 'took back marks of'
  if (entry.kind === 'excuse') return entry.excused ? 'excused' : 'no longer excused'
  return { mark: 'marked', override: 'changed points of', regrade: 'regraded' }[entry.kind]
}

/** What some decisions come to, for reading: “marked 2 students, excused 1 student”. */
export function sayGrading(entries: readonly GradingEntry[]): string {
  const said = [...group(entries, wordFor)].map(([word, own]) => {
    const students = new Set(own.map(({ student }) => personKey(student)))
    return `${word} ${sayCount(students.size, 'student', 'students')}`
  })
  return said.join(', ')
}
