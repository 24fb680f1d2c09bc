/** Deleting what is kept of one person, as whoever is asked to by law has to. */
import { personKey } from '#core/course/people'
import type { Student } from '#core/schema/attempt'
import type { Journals } from '../store/store'
import { gradingJournals } from './grading'
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
