/**
 * What students send back. Answers go into a journal of their own for each person at a place, once and for good; of
 * what is only begun the latest is kept, until the question is answered. What one person's costs does not grow with
 * others'.
 */
import { createHash } from 'node:crypto'
import { personKey, upgradeEvent } from '#core/course/people'
import { eventProblem } from '#core/questions/attempt'
import { upgradeAnswer, upgradeSelections } from '#core/questions/upgrade'
import {
  AttemptEvent as AttemptEventSchema,
  ReceivedEvent,
  Selections,
  type AttemptEvent,
  type RefusedEvent,
  type StoredEvent,
  type Student,
} from '#core/schema/attempt'
import type { Place } from '#core/schema/publication'
import { InvalidDocument, parseAs } from '#core/schema/validate'
import { askedAt, readSetOf, readVersionOf, type StoredPublication, type StoredSet } from './publications'
import { useStore } from './storage'

const answers = () => useStore().journals('answers', ReceivedEvent, (e) => e.event.id, upgradeEvent)
const selections = () => useStore().documents('selections', Selections, upgradeSelections)
const selectionsId = (placeId: string, student: Student) =>
  `${placeId}.${createHash('sha256').update(personKey(student)).digest('hex').slice(0, 40)}`

/** An answer or a choice with the version of the set that it was made on. */
type DatedEvent = AttemptEvent & { version: string }

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
      const questionsOf = ({ set }: StoredSet) => set.checkpoints.flatMap((c) => c.questions)
      const why = eventProblem(event, seen.flatMap(questionsOf))
      const asked = seen.find((set) => questionsOf(set).some((q) => q.id === event.questionId))
      if (why || !asked) refused.push({ id, why: why ?? 'This lecture has no such question.' })
      else taken.push({ ...event, version: asked.version })
    } catch (error) {
      if (!(error instanceof InvalidDocument)) throw error
      refused.push({ id, why: error.message })
    }
  }
  return { taken, refused }
}

/** Keeps a student's events. The first answer to a question stands; all that comes after it changes nothing. */
export async function keepEvents(
  placeId: string,
  student: Student,
  events: readonly DatedEvent[],
  receivedAt = new Date().toISOString(),
): Promise<void> {
  const handedIn = events.filter((e) => e.kind === 'answer')
  if (handedIn.length > 0)
    await answers().append(placeId, personKey(student), (held) => {
      const final = new Set(held.map((h) => h.event.questionId))
      const first = handedIn.filter((e) => !final.has(e.questionId) && final.add(e.questionId))
      return first.map((event) => ({ receivedAt, placeId, student, event }))
    })
  const chosen = events.filter((e) => e.kind === 'select')
  if (chosen.length === 0) return
  const id = selectionsId(placeId, student)
  await useStore().exclusive(`selections ${id}`, async () => {
    const final = new Set((await answersOf(placeId, student)).map((e) => e.event.questionId))
    const before = (await selections().read(id))?.answers ?? {}
    const after = Object.fromEntries(
      [...Object.entries(before), ...chosen.map((e) => [e.questionId, e.answer] as const)].filter(
        ([q]) => !final.has(q),
      ),
    )
    await selections().write(id, { answers: after })
  })
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
