/** What a person decided about one student's answers, from the log of it, and what an answer earns with that. */
import { personKey } from '../course/people'
import type {
  ExcuseEntry,
  GradingEntry,
  MarkEntry,
  OverrideEntry,
  RegradeEntry,
  StoredGrading,
} from '../schema/grading'
import type { Answer, OpenQuestion, QuestionKey } from '../schema/questions'
import { grade, isGraded } from './grade'
import { kindOfQuestion } from './kinds'

/** What holds about a question of an attempt. */
export interface Decision {
  mark?: MarkEntry
  override?: OverrideEntry & { points: number }
  excuse?: ExcuseEntry
  regrade?: RegradeEntry
}

const keyOf = (...parts: (string | number)[]) => parts.join(' ')

/** Of one student. */
export class Decisions {
  static readonly none = new Decisions([])
  readonly #questions = new Map<string, Decision>()
  readonly #excused = new Map<string, ExcuseEntry>()
  readonly #released = new Set<string>()
  /** Versions of sets by whose keys answers were graded anew. */
  readonly versions: ReadonlySet<string>

  /** @param entries of this student, in the order that they were taken in */
  constructor(entries: readonly GradingEntry[]) {
    this.versions = new Set(entries.flatMap((e) => (e.kind === 'regrade' ? [e.version] : [])))
    for (const entry of entries) this.#take(entry)
  }

  #take(entry: GradingEntry): void {
    if (entry.kind === 'excuse') {
      const key = keyOf(entry.set, entry.questionId)
      if (entry.excused) this.#excused.set(key, entry)
      else this.#excused.delete(key)
      return
    }
    if (entry.kind === 'release') {
      const key = keyOf(entry.set, entry.attempt)
      if (entry.released) this.#released.add(key)
      else this.#released.delete(key)
      return
    }
    const key = keyOf(entry.set, entry.attempt, entry.questionId)
    const { override, ...before } = this.#questions.get(key) ?? {}
    const after = { ...before, ...(override && { override }) }
    if (entry.kind === 'mark') this.#questions.set(key, { ...after, mark: entry })
    else if (entry.kind === 'regrade') this.#questions.set(key, { ...after, regrade: entry })
    else if (entry.points === null) this.#questions.set(key, before)
    else this.#questions.set(key, { ...before, override: { ...entry, points: entry.points } })
  }

  about(set: string, attempt: number, questionId: string): Decision {
    const excuse = this.#excused.get(keyOf(set, questionId))
    return { ...this.#questions.get(keyOf(set, attempt, questionId)), ...(excuse && { excuse }) }
  }
  /** Whether the student is told what was marked in an attempt. */
  isReleased = (set: string, attempt: number): boolean => this.#released.has(keyOf(set, attempt))
}

/** A question with its key, as a version of a set has them. */
export interface Keyed {
  open: OpenQuestion
  key: QuestionKey
}

/** By what an answer is graded: as another version asks it, when it was regraded by that and fits it; else as it was seen. */
export const gradedAs = (seen: Keyed, regraded: Keyed | null, answer: Answer): Keyed =>
  regraded?.open.kind === answer.kind && kindOfQuestion(regraded.open).answerProblem(regraded.open, answer) === null
    ? regraded
    : seen

/** What an answer earns, and by whose word. */
export interface Earned {
  /** 0…1 of the points; null until a person has marked it, and where nothing is graded. */
  share: number | null
  points: number | null
  /** Of a marker, for the student. */
  comment: string
  by: 'key' | 'marker' | 'override'
  /** Whether it does not count at all. */
  excused: boolean
}

/** Whether a person has to mark an answer to this. */
export const isMarkedByPerson = ({ kind }: Pick<OpenQuestion, 'kind'>): boolean => kind === 'longer'

/**
 * @param given null where nothing was answered
 * @param marks whether what was marked counts, which for students it does once it is released
 */
export function earned(
  { open, key }: Keyed,
  given: { answer: Answer; eventId: string } | null,
  { mark, override, excuse }: Decision,
  marks: boolean,
): Earned {
  const excused = excuse !== undefined
  const of = (points: number) => ({ points, share: open.points > 0 ? Math.min(1, points / open.points) : 0 })
  const own = mark && marks && mark.answerId === given?.eventId ? mark : null
  const common = { comment: own?.comment ?? '', excused }
  // Nothing is told of an answer that a person marks before it is released, whoever gave the points.
  if (override && isGraded(open) && (marks || !isMarkedByPerson(open)))
    return { ...common, ...of(override.points), by: 'override' }
  if (own) return { ...common, ...of(own.points), by: 'marker' }
  if (given) return { ...common, ...grade(open, key, given.answer), by: 'key' }
  return { ...common, ...(isGraded(open) ? of(0) : { points: null, share: null }), by: 'key' }
}

/** Groups entries by `personKey`, in the order the server took them. */
export function gradingByStudent(entries: readonly StoredGrading[]): Map<string, Decisions> {
  const groups = new Map<string, GradingEntry[]>()
  const seen = new Set<string>()
  for (const { entry } of [...entries].sort((a, b) => a.seq - b.seq)) {
    if (seen.has(entry.id)) continue
    seen.add(entry.id)
    const key = personKey(entry.student)
    const group = groups.get(key)
    if (group) group.push(entry)
    else groups.set(key, [entry])
  }
  return new Map([...groups].map(([key, group]) => [key, new Decisions(group)]))
}
