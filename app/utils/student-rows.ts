import { personKey } from '#core/course/people'
import type { StudentResult } from '#core/results/results'

/** A student as the table of a lecture shows them. */
export interface StudentRow extends StudentResult {
  /** Share of the lecture that was watched, 0…1; null where that is not known. */
  watched: number | null
  /** ISO 8601, or null for whoever never came. */
  lastSeenAt: string | null
}

/** What is known of how one watched. */
export interface Seen {
  watched: number
  lastAt: string
}

export const studentRows = (students: readonly StudentResult[], seen: ReadonlyMap<string, Seen> | null): StudentRow[] =>
  students.map((row) => {
    const own = seen?.get(personKey(row.student))
    const last = [row.lastAnswerAt, own?.lastAt]
      .flatMap((at) => at ?? [])
      .sort()
      .at(-1)
    return { ...row, watched: seen ? (own?.watched ?? 0) : null, lastSeenAt: last ?? null }
  })
