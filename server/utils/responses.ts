/**
 * What students send back. Answers go into a journal of their own for each person at a place, once and for good; of
 * what is only begun the latest is kept, until the question is answered. What one person's costs does not grow with
 * others'.
 */
import { createHash } from 'node:crypto'
import equal from 'fast-deep-equal'
import { personKey, upgradeEvent } from '#core/course/people'
import {
  eventProblem,
  follow,
  NO_ATTEMPT,
  replay,
  takeEvents,
  type AskedSet,
  type Attempts,
  type VersionSpan,
} from '#core/questions/attempt'
import type { Decisions } from '#core/questions/grading'
import { askedSet, keyedQuestions, questionsOf, type KeyedSet } from '#core/questions/standing'
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
import {
  askedAt,
  keyedSet,
  readSetOf,
  readVersionOf,
  setSpans,
  type StoredPublication,
  type StoredSet,
} from './publications'
import { decisionsAbout } from './grading'
import { useStore } from './storage'

export const answerJournals = () => useStore().journals('answers', ReceivedEvent, (e) => e.event.id, upgradeEvent)
export const drawnSelections = () => useStore().documents('selections', Selections, upgradeSelections)
/** How the name of what was drawn for a student ends. */
export const selectionsEnd = (student: Pick<Student, 'issuer' | 'subject'>) =>
  `.${createHash('sha256').update(personKey(student)).digest('hex').slice(0, 40)}`
const selectionsId = (placeId: string, student: Student) => `${placeId}${selectionsEnd(student)}`

/** An event with the version of the set that it is about. */
type DatedEvent = (AnswerEvent | SetEvent) & { version: string }
type Where = Pick<Place, 'id' | 'publicationId'>

/** Of one person at one place: more than anybody gives who answers what is asked. */
const MOST_ANSWERS = 5000
const TOO_MANY = `More than ${MOST_ANSWERS} answers of one person are not kept here. What was given before stays as it is.`

/**
 * The sets of a place as a student has seen them, by the version that an event names, of a set or of the publication.
 * What is not asked there now is not among them.
 */
async function setsSeen(place: Place, current: StoredPublication, version = ''): Promise<StoredSet[]> {
  const set = version && (await readSetOf(place.publicationId, version))
  const publication = version && !set && (await readVersionOf(place.publicationId, version))
  const asked = new Set(askedAt(place, current).map(({ set }) => set.id))
  return (set ? [set] : (publication || current).sets).filter(({ set }) => asked.has(set.id))
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
    const named = typeof one === 'object' && one !== null && 'id' in one ? one.id : null
    const id = typeof named === 'string' ? named.slice(0, 64) : String(i)
    try {
      // A player that was opened before an update sends what it knows.
      const event = parseAs(AttemptEventSchema, upgradeAnswer(one), 'answer')
      const seen = await setsSeen(place, current, event.version)
      const ofSet = ({ set }: StoredSet) => questionsOf(set)
      const why = eventProblem(event, seen.flatMap(ofSet))
      const asked = isAnswerEvent(event)
        ? seen.find((set) => ofSet(set).some((q) => q.id === event.questionId))
        : seen.find(({ version }) => version === event.version)
      if (why || !asked) refused.push({ id, why: why ?? 'These questions are not asked here any more.' })
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
): Promise<Map<string, KeyedSet>> {
  const found = new Map<string, KeyedSet>()
  for (const { version } of events) {
    if (!version || found.has(version)) continue
    const set = await readSetOf(publicationId, version)
    if (set) found.set(version, keyedSet(set))
  }
  return found
}

/**
 * The set that an event is about, as it counts now, by every version that it ever had.
 * @param events whose versions may have to be compared with it
 */
async function setsNow(
  publicationId: string,
  events: readonly DatedEvent[],
): Promise<(event: AttemptEvent) => AskedSet | null> {
  const named = new Map([...(await versionsOf(publicationId, events))].map(([v, set]) => [v, keyedQuestions(set)]))
  const byVersion = new Map<string, AskedSet>()
  for (const versions of (await setSpans(publicationId)).values()) {
    const counting = await readSetOf(publicationId, versions.at(-1)?.version ?? '')
    if (!counting) continue
    const questions = keyedQuestions(keyedSet(counting))
    const asked = askedSet(keyedSet(counting), versions, (version, questionId) => {
      const one = named.get(version)?.get(questionId)
      return one !== undefined && equal(one, questions.get(questionId))
    })
    for (const { version } of versions) byVersion.set(version, asked)
  }
  return (event) => byVersion.get(event.version ?? '') ?? null
}

/** What a student did at the sets of a place, by their ids, and what of it is judged by. */
export interface Progress {
  attempts: Map<string, Attempts>
  decisions: Decisions
  /** Versions of sets that they answered, or were graded by. */
  versions: Map<string, KeyedSet>
  /** Every version of each set, by its id. */
  spans: Map<string, VersionSpan[]>
}

/** What a student did at a place, with what is begun and not handed in. */
export async function progressOf(place: Where, student: Student): Promise<Progress> {
  const stored = await answersOf(place.id, student)
  const decisions = await decisionsAbout(place.id, student)
  const versions = await versionsOf(place.publicationId, [
    ...stored.map((s) => s.event),
    ...[...decisions.versions].map((version) => ({ version })),
  ])
  const spans = await setSpans(place.publicationId)
  const idOf = new Map([...spans].flatMap(([id, own]) => own.map(({ version }) => [version, id] as const)))
  const attempts = replay(stored, (event) => idOf.get(event.version ?? '') ?? null)
  return { attempts, decisions, versions, spans }
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
  const setOf = await setsNow(place.publicationId, events)
  if (lasting.length > 0)
    await answerJournals().append(place.id, personKey(student), (before) => {
      const decided = takeEvents(before, lasting, setOf, receivedAt)
      const room = Math.max(0, MOST_ANSWERS - before.length)
      const tooMany = decided.taken.slice(room).map(({ id }) => ({ id, why: TOO_MANY }))
      for (const one of [...decided.refused, ...tooMany]) refused.push(one)
      return decided.taken.slice(0, room).map((event) => ({ receivedAt, placeId: place.id, student, event }))
    })
  const chosen = events.filter((e) => isAnswerEvent(e) && e.kind === 'select') as (AnswerEvent & DatedEvent)[]
  if (chosen.length === 0 && lasting.length === 0) return refused
  const id = selectionsId(place.id, student)
  await useStore().exclusive(`selections ${id}`, async () => {
    const before = (await drawnSelections().read(id))?.answers ?? {}
    if (chosen.length === 0 && Object.keys(before).length === 0) return
    const progress = await progressOf(place, student)
    const after = { ...before }
    for (const event of chosen) {
      const set = setOf(event)
      if (!set) continue
      const followed = follow(progress.attempts.get(set.id) ?? NO_ATTEMPT, { event, receivedAt }, set)
      if (followed.kind === 'refused') refused.push({ id: event.id, why: followed.why })
      if (followed.kind === 'applied') after[event.questionId] = { attempt: event.attempt ?? 1, answer: event.answer }
    }
    for (const event of lasting) if (isAnswerEvent(event)) delete after[event.questionId]
    if (!equal(before, after)) await drawnSelections().write(id, { answers: after })
  })
  return refused
}

/** A student's answers at a place, in the order of coming. */
export const answersOf = (placeId: string, student: Student): Promise<readonly StoredEvent[]> =>
  answerJournals().read(placeId, personKey(student))

/** What a student has begun to answer at a place without handing it in, by question. */
export async function begunBy(placeId: string, student: Student): Promise<Selections['answers']> {
  return (await drawnSelections().read(selectionsId(placeId, student)))?.answers ?? {}
}

/** Everybody's answers at a place after `seq`, in order. */
export const answersAt = (placeId: string, after = 0): Promise<StoredEvent[]> =>
  answerJournals().readGroup(placeId, after)
