/** Deleting what is kept of one person, as whoever is asked to by law has to. */
import { personKey } from '#core/course/people'
import type { Student } from '#core/schema/attempt'
import type { Journals } from '../store/store'
import { activityJournals, logOwn } from './audit'
import { gradingJournals } from './grading'
import { sayCount } from '#core/text/words'
import { answerJournals, drawnSelections, selectionsEnd } from './responses'
import { watchingJournals } from './watching'

/**
 * Deletes answers, what was decided about them, what was watched and which questions were drawn for one person, at every
 * place there is or was. Sums of a place that keeps sums only are of nobody and stay. Called again after a failure, it is
 * finished.
 * @returns at how many places there was something
 */
export async function forgetStudent(student: Pick<Student, 'issuer' | 'subject'>): Promise<number> {
  const name = personKey(student)
  const found = new Set<string>()
  async function remove<T>(journals: Journals<T>): Promise<void> {
    for (const placeId of await journals.groups())
      await journals.remove(placeId, name, (held) => {
        if (held.length > 0) found.add(placeId)
        return true
      })
  }
  // Decisions last: until the answers are gone, they are graded by them.
  await remove(answerJournals())
  await remove(watchingJournals())
  await remove(gradingJournals())
  const end = selectionsEnd(student)
  for (const id of await drawnSelections().ids()) if (id.endsWith(end)) await drawnSelections().remove(id)
  return found.size
}

/** Days after which what is kept of a student at a place goes, and what is logged; null where it is kept until it is deleted. */
export const retentionDays = (): number | null => Number(process.env.THAW_RETENTION_DAYS) || null

const DAY = 86_400_000

/**
 * Deletes what is kept of people at places where nothing came, and nothing was decided, for so long, and what was logged before
 * that. Whoever goes on there keeps all of it. Called again after a failure, it is finished.
 * @returns of how many people, at how many places
 */
export async function forgetByAge(days: number, now = Date.now()): Promise<{ people: number; places: number }> {
  const limit = new Date(now - days * DAY).toISOString()
  const isOld = (held: readonly { receivedAt: string }[]) => held.every(({ receivedAt }) => receivedAt < limit)
  const answers = answerJournals()
  const watching = watchingJournals()
  const grading = gradingJournals()
  const people = new Set<string>()
  const places = new Set<string>()
  const groups = new Set([...(await answers.groups()), ...(await watching.groups()), ...(await grading.groups())])
  for (const placeId of groups) {
    const own = new Map<string, { student: Pick<Student, 'issuer' | 'subject'>; last: string }>()
    const see = (student: Pick<Student, 'issuer' | 'subject'> | undefined, receivedAt: string) => {
      if (!student) return
      const name = personKey(student)
      const known = own.get(name)
      if (!known || known.last < receivedAt) own.set(name, { student, last: receivedAt })
    }
    for (const { student, receivedAt } of await answers.readGroup(placeId, 0)) see(student, receivedAt)
    for (const { student, receivedAt } of await watching.readGroup(placeId, 0)) see(student, receivedAt)
    for (const { entry, receivedAt } of await grading.readGroup(placeId, 0)) see(entry.student, receivedAt)
    for (const [name, { student, last }] of own) {
      if (last >= limit) continue
      // In an order in which a kill leaves nothing that is not found again. What comes just now is kept, with its grades.
      await drawnSelections().remove(`${placeId}${selectionsEnd(student)}`)
      await answers.remove(placeId, name, isOld)
      await watching.remove(placeId, name, isOld)
      if ((await answers.read(placeId, name)).length === 0) await grading.remove(placeId, name, isOld)
      people.add(name)
      places.add(placeId)
    }
  }
  await forgetActivity(limit)
  const done = { people: people.size, places: places.size }
  if (people.size > 0)
    await logOwn({
      action: 'deleted-by-age',
      says: `What was kept of ${sayCount(done.people, 'student', 'students')} at ${sayCount(done.places, 'place', 'places')}, where nothing came for ${days} days`,
    })
  return done
}

/** Months of the log all of which is older. */
async function forgetActivity(limit: string): Promise<void> {
  const { journals, group } = activityJournals()
  const months = new Set((await journals.readGroup(group, 0)).map(({ at }) => at.slice(0, 7)))
  for (const month of months) await journals.remove(group, month, (held) => held.every(({ at }) => at < limit))
}
