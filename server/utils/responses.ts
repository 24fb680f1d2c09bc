/**
 * What students send back. Answers go into a journal of their own for each person at a place, once and for good; of
 * what is only begun the latest is kept, until the question is answered. What one person's costs does not grow with
 * others'.
 */
import { createHash } from 'node:crypto'
import equal from 'fast-deep-equal'
import { personKey, upgradeEvent } from '#core/course/people'
import { eventProblem, follow, NO_ATTEMPT, replay, takeEvents, type Attempts } from '#core/questions/attempt'
import type { Decisions } from '#core/questions/grading'
import { askedSet, questionsOf, type KeyedSet } from '#core/questions/standing'
import { upgradeAnswer, upgradeSelections } from '#core/questions/upgrade'
import {
  AttemptEvent as AttemptEventSchema,
  isAnswerEvent,
  ReceivedEvent,
  type AnswerEvent,
  type SetEvent,
  Selections,
  type AttemptEvent,
  type RefusedEvent,
  type StoredEvent,
  type Student,
} from '#core/schema/attempt'
import type { Place } from '#core/schema/publication'
import { InvalidDocument, parseAs } from '#core/schema/validate'
import { askedAt, keyedSet, readSetOf, readVersionOf, type StoredPublication, type StoredSet } from './publications'
import { decisionsAbout } from './grading'
import { useStore } from './storage'

const answers = () => useStore().journals('answers', ReceivedEvent, (e) => e.event.id, upgradeEvent)
const selections = () => useStore().documents('selections', Selections, upgradeSelections)
const selectionsId = (placeId: string, student: Student) =>
  `${placeId}.${createHash('sha256').update(personKey(student)).digest('hex').slice(0, 40)}`

/** An event with the version of the set that it is about. */
type DatedEvent = (AnswerEvent | SetEvent) & { version: string }
type Where = Pick<Place, 'id' | 'publicationId'>

/** The sets that a student may have seen, by the version that an event names, of a set or of the publication. */
async function setsSeen(place: Place, current: StoredPublication, version = ''): Promise<StoredSet[]> {
  const set = version && (await readSetOf(place.publicationId, version))
  if (set) return [set]
  const seen = version && (await readVersionOf(place.publicationId, version))
  return askedAt(place, seen || current)
}

/** Parts what can be taken from what never will be; each that is refused is named, with the reason. */
export async function sortEvents(
  place: Place,
  current: StoredPublication,
  data: readonly unknown[],
): Promise<{ taken: DatedEvent[]; refused: RefusedEvent[] }> {
  const taken: DatedEvent[] = []
  const refused: RefusedEvent[] = []
  for (const [i, one] of data.entries()) {
    const id = typeof one === 'object' && one !== null && 'id' in one ? String(one.id).slice(0, 64) : String(i)
    try {
      // A player that was opened before an update sends what it knows.
      const event = parseAs(AttemptEventSchema, upgradeAnswer(one), 'answer')
      const seen = await setsSeen(place, current, event.version)
      const ofSet = ({ set }: StoredSet) => questionsOf(set)
      const why = eventProblem(event, seen.flatMap(ofSet))
      const asked = isAnswerEvent(event)
        ? seen.find((set) => ofSet(set).some((q) => q.id === event.questionId))
        : seen.find(({ version }) => version === event.version)
      if (why || !asked) refused.push({ id, why: why ?? 'This lecture has no such questions.' })
      else taken.push({ ...event, version: asked.version })
    } catch (error) {
      if (!(error instanceof InvalidDocument)) throw error
      refused.push({ id, why: error.message })
    }
  }
  return { taken, refused }
}

/** The versions of sets that events are about, by version. */
async function versionsOf(
  publicationId: string,
  events: readonly Pick<AttemptEvent, 'version'>[],
  known: ReadonlyMap<string, KeyedSet> = new Map(),
): Promise<Map<string, KeyedSet>> {
  const found = new Map(known)
  for (const { version } of events) {
    if (!version || found.has(version)) continue
    const set = await readSetOf(publicationId, version)
    if (set) found.set(version, keyedSet(set))
  }
  return found
}
const askedIn = (versions: ReadonlyMap<string, KeyedSet>) => {
  const asked = new Map([...versions].map(([version, set]) => [version, askedSet(set)]))
  return (event: AttemptEvent) => asked.get(event.version ?? '') ?? null
}

/** What a student did at the sets of a place, by their ids, and what of it is judged by. */
export interface Progress {
  attempts: Map<string, Attempts>
  decisions: Decisions
  /** Versions of sets that they answered, or were graded by. */
  versions: Map<string, KeyedSet>
}

/** What a student did at a place, with what is begun and not handed in. */
export async function progressOf(place: Where, student: Student): Promise<Progress> {
  const stored = await answersOf(place.id, student)
  const decisions = await decisionsAbout(place.id, student)
  const versions = await versionsOf(place.publicationId, [
    ...stored.map((s) => s.event),
    ...[...decisions.versions].map((version) => ({ version })),
  ])
  return { attempts: replay(stored, askedIn(versions)), decisions, versions }
}

/**
 * Keeps a student's events, as far as they follow on what was done before; those that change nothing more are passed over.
 * @returns those that cannot be taken any more
 */
export async function keepEvents(
  place: Where,
  student: Student,
  events: readonly DatedEvent[],
  receivedAt = new Date().toISOString(),
): Promise<RefusedEvent[]> {
  const refused: RefusedEvent[] = []
  const lasting = events.filter((e) => e.kind !== 'select')
  let versions = await versionsOf(place.publicationId, events)
  for (let again = lasting.length > 0; again;) {
    again = false
    const held = await answersOf(place.id, student)
    versions = await versionsOf(
      place.publicationId,
      held.map((h) => h.event),
      versions,
    )
    const setOf = askedIn(versions)
    await answers().append(place.id, personKey(student), (before) => {
      // Another request was faster, with a version that is not known yet.
      again = before.some(({ event }) => event.version && !versions.has(event.version)) && before.length > held.length
      if (again) return []
      const decided = takeEvents(before, lasting, setOf, receivedAt)
      refused.push(...decided.refused)
      return decided.taken.map((event) => ({ receivedAt, placeId: place.id, student, event }))
    })
  }
  const chosen = events.filter((e) => isAnswerEvent(e) && e.kind === 'select') as (AnswerEvent & DatedEvent)[]
  if (chosen.length === 0 && lasting.length === 0) return refused
  const id = selectionsId(place.id, student)
  await useStore().exclusive(`selections ${id}`, async () => {
    const before = (await selections().read(id))?.answers ?? {}
    if (chosen.length === 0 && Object.keys(before).length === 0) return
    const progress = await progressOf(place, student)
    const setOf = askedIn(await versionsOf(place.publicationId, events, progress.versions))
    const after = { ...before }
    for (const event of chosen) {
      const set = setOf(event)
      if (!set) continue
      const followed = follow(progress.attempts.get(set.id) ?? NO_ATTEMPT, { event, receivedAt }, set)
      if (followed.kind === 'refused') refused.push({ id: event.id, why: followed.why })
      if (followed.kind === 'applied') after[event.questionId] = { attempt: event.attempt ?? 1, answer: event.answer }
    }
    for (const event of lasting) if (isAnswerEvent(event)) delete after[event.questionId]
    if (!equal(before, after)) await selections().write(id, { answers: after })
  })
  return refused
}

/** A student's answers at a place, in the order of coming. */
export const answersOf = (placeId: string, student: Student): Promise<readonly StoredEvent[]> =>
  answers().read(placeId, personKey(student))

/** What a student has begun to answer at a place without handing it in, by question. */
export async function begunBy(placeId: string, student: Student): Promise<Selections['answers']> {
  return (await selections().read(selectionsId(placeId, student)))?.answers ?? {}
}

/** Everybody's answers at a place after `seq`, in order. */
export const answersAt = (placeId: string, after = 0): Promise<StoredEvent[]> => answers().readGroup(placeId, after)
