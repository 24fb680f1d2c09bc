/** What authors decide about answers: a journal of its own for each person at a place, added to and never changed. */
import { personKey } from '#core/course/people'
import { Decisions } from '#core/questions/grading'
import { questionsOf } from '#core/questions/standing'
import { ReceivedGrading, type GradingEntry, type StoredGrading } from '#core/schema/grading'
import type { Place } from '#core/schema/publication'
import type { Student } from '#core/schema/attempt'
import { refuse } from './border'
import { readSetOf, setsOf } from './publications'
import { useStore } from './storage'

export const gradingJournals = () => useStore().journals('grading', ReceivedGrading, ({ entry }) => entry.id)

/** What was decided about one student's answers at a place. */
export const decisionsAbout = async (placeId: string, student: Student): Promise<Decisions> =>
  new Decisions((await gradingJournals().read(placeId, personKey(student))).map(({ entry }) => entry))

/** Everything that was decided at a place after `seq`, in order. */
export const gradingAt = (placeId: string, after = 0): Promise<StoredGrading[]> =>
  gradingJournals().readGroup(placeId, after)

/**
 * Keeps what was decided, in the order that it comes in; what is there already is passed over.
 * @returns the entries as they are stored
 * @throws 404 for one about something that was never asked there; nothing of the whole is kept then
 */
export async function keepGrading(
  place: Pick<Place, 'id' | 'publicationId'>,
  entries: readonly GradingEntry[],
  receivedAt = new Date().toISOString(),
): Promise<StoredGrading[]> {
  const known = await setsOf(place.publicationId)
  const questions = new Map<string, Set<string>>()
  for (const { id, version } of known) {
    const stored = await readSetOf(place.publicationId, version)
    const ids = questions.get(id) ?? new Set()
    questions.set(id, ids)
    for (const q of stored ? questionsOf(stored.set) : []) ids.add(q.id)
  }
  for (const entry of entries) {
    const asked = questions.get(entry.set)
    if (!asked || (entry.kind !== 'release' && !asked.has(entry.questionId)))
      refuse(404, 'What was decided is about a question that was never asked here.')
    if (entry.kind === 'regrade' && !known.some((k) => k.version === entry.version && k.id === entry.set))
      refuse(404, 'What was decided is about a version of the questions that is not known here.')
  }
  const groups = new Map<string, GradingEntry[]>()
  for (const entry of entries) {
    const key = personKey(entry.student)
    groups.set(key, [...(groups.get(key) ?? []), entry])
  }
  const wanted = new Set(entries.map((e) => e.id))
  const kept: StoredGrading[] = []
  for (const [key, group] of groups) {
    const all = await gradingJournals().append(place.id, key, () =>
      group.map((entry) => ({ receivedAt, placeId: place.id, entry })),
    )
    for (const one of all) if (wanted.has(one.entry.id)) kept.push(one)
  }
  return kept
}
