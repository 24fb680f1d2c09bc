/** Students whom an instructor may want a word with, each with what it is that stands out. */
import { median } from 'd3-array'
import { personKey } from '../course/people'
import type { Student } from '../schema/attempt'
import type { StudentResult } from './results'
import type { StudentWatching } from './watching'

export type Concern =
  /** Neither watched nor answered, where most others did either. */
  | { kind: 'absent' }
  /** Saw less than half of the lecture, and less than half of what most saw. */
  | { kind: 'little'; share: number }
  /** Saw most of it and left most questions open. */
  | { kind: 'unanswered'; open: number }
  /** Answered, with less than half of the points, and far behind the others. */
  | { kind: 'low'; percent: number }

export interface StudentConcerns {
  student: Student
  concerns: Concern[]
}

/** Share of a class that has to have come before it says something that one has not. */
const MOST_CAME = 0.5
/** Points of a hundred that one is behind half of the class. */
const BEHIND = 20

/** Graded answers that it takes to say something of one student. */
const ENOUGH = 3

/** Per cent of the points of whoever answered most of it, or null for others. */
function earnedPercent({ possible, percent, right, partly, wrong, unanswered }: StudentResult): number | null {
  const graded = right + partly + wrong
  return graded >= ENOUGH && graded >= unanswered && possible > 0 ? percent : null
}

/**
 * @param watching null where it is not known who watched
 * @returns those of whom there is something to say, most first
 */
export function studentConcerns(
  students: readonly StudentResult[],
  watching: readonly StudentWatching[] | null,
): StudentConcerns[] {
  const seen = new Map(watching?.map((w) => [personKey(w.student), w]))
  const came = students.filter((s) => s.lastAnswerAt !== null || seen.has(personKey(s.student)))
  const isExpected = students.length > 1 && came.length >= MOST_CAME * students.length
  const usualShare = median(watching ?? [], (w) => w.share) ?? 0
  const usualPercent = median(students.flatMap((s) => earnedPercent(s) ?? [])) ?? 0
  return students
    .map((s): StudentConcerns => {
      const own = seen.get(personKey(s.student))
      const asked = s.right + s.partly + s.wrong + s.unmarked + s.unanswered
      const percent = earnedPercent(s)
      const concerns: Concern[] = []
      if (isExpected && s.lastAnswerAt === null && !own) concerns.push({ kind: 'absent' })
      if (own && own.share < 0.5 && own.share < usualShare / 2) concerns.push({ kind: 'little', share: own.share })
      if (own && own.share >= 0.75 && asked > 0 && s.unanswered > asked / 2)
        concerns.push({ kind: 'unanswered', open: s.unanswered })
      if (percent !== null && percent < 50 && percent < usualPercent - BEHIND) concerns.push({ kind: 'low', percent })
      return { student: s.student, concerns }
    })
    .filter((s) => s.concerns.length > 0)
    .sort((a, b) => b.concerns.length - a.concerns.length)
}

/** As an author reads it. */
export function sayConcern(concern: Concern): string {
  switch (concern.kind) {
    case 'absent':
      return 'has not come, and most have'
    case 'little':
      return `watched ${Math.round(100 * concern.share)} %, far less than most`
    case 'unanswered':
      return `watched it, and left ${concern.open === 1 ? 'one question' : `${concern.open} questions`} open`
    case 'low':
      return `${Math.round(concern.percent)} % of the points, far behind most`
  }
}
