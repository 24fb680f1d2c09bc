/**
 * What students did at a place, with what it is graded by: every version of a set that was answered there, the attempts
 * that the events amount to, and what a person decided about them.
 */
import { personKey } from '../course/people'
import {
  byStudent,
  handedInAt,
  NO_ATTEMPT,
  replay,
  type AskedSet,
  type Attempt,
  type Attempts,
  type QuestionState,
  type VersionSpan,
} from '../questions/attempt'
import {
  Decisions,
  earned,
  gradedAs,
  gradingByStudent,
  type Decision,
  type Earned,
  type Keyed,
} from '../questions/grading'
import { askedSet, keyedQuestions } from '../questions/standing'
import { isAnswerEvent, type AttemptEvent, type StoredEvent, type Student } from '../schema/attempt'
import type { StoredGrading } from '../schema/grading'
import type { GradedSet } from '../schema/publication'

/** What was asked at a place: every version of a set that was answered, and those that are asked now. */
export interface PublishedSets {
  sets: readonly GradedSet[]
  current: readonly string[]
}

/** What came of a place, as it was pulled. */
export interface PlaceHistory extends PublishedSets {
  /** As the server stored them, any order, repeats allowed. */
  events: readonly StoredEvent[]
  grading: readonly StoredGrading[]
  /** Students of the course; those who answered without being on it are added. */
  roster: readonly Student[]
}

/** A version of a set with its questions and their keys, in the order of time. */
export interface Version {
  set: GradedSet
  asked: AskedSet
  questions: ReadonlyMap<string, Keyed>
}

/** A student's attempts at one set. */
export interface AttemptsAt {
  /** The version that was seen last. */
  own: Version
  attempts: Attempts
  /** Whether the student did anything at it. */
  came: boolean
  /** About everything of the student. */
  decisions: Decisions
}

export interface StudentHistory {
  student: Student
  sets: AttemptsAt[]
  /** When the last answer arrived (ISO 8601), or null. */
  lastAnswerAt: string | null
}

/** One question of one attempt. */
export interface JudgedQuestion {
  questionId: string
  /** As the student saw it. */
  seen: Keyed
  /** By which it is graded. */
  by: Keyed
  state: QuestionState | undefined
  decision: Decision
  earned: Earned
}

export interface JudgedAttempt {
  number: number
  handedInAt: string | null
  /** Whether the student is told what was marked. */
  released: boolean
  questions: JudgedQuestion[]
}

/** Every version of a set, as far as it is known: as the server told it last, or by those that are here. */
function spansOf(id: string, sets: readonly GradedSet[]): VersionSpan[] {
  const own = sets.filter((s) => s.id === id)
  const told = own.map((s) => s.versions ?? []).reduce((a, b) => (b.length > a.length ? b : a), [])
  if (told.length > 0) return told
  return own
    .map(({ version, publishedAt, policy }) => ({ version, since: publishedAt, changes: policy.changes }))
    .sort((a, b) => (a.since < b.since ? -1 : 1))
}

export class History {
  readonly versions: ReadonlyMap<string, Version>
  /** Those that are asked now. */
  readonly current: readonly Version[]
  /** The questions that are asked now. */
  readonly now: ReadonlyMap<string, Keyed>
  readonly students: readonly StudentHistory[]

  constructor({ sets, current, events, grading, roster }: PlaceHistory) {
    const spans = new Map([...new Set(sets.map((s) => s.id))].map((id) => [id, spansOf(id, sets)]))
    this.versions = new Map(
      sets.map((set) => [
        set.version,
        { set, asked: askedSet(set, spans.get(set.id)), questions: keyedQuestions(set) },
      ]),
    )
    this.current = current.flatMap((version) => this.versions.get(version) ?? [])
    this.now = new Map(this.current.flatMap((v) => [...v.questions]))
    const groups = byStudent(events)
    const decided = gradingByStudent(grading)
    const everyone = new Map(roster.map((s) => [personKey(s), s]))
    for (const [key, group] of groups) if (!everyone.has(key) && group[0]) everyone.set(key, group[0].student)
    for (const { entry } of grading) {
      const key = personKey(entry.student)
      if (!everyone.has(key)) everyone.set(key, entry.student)
    }
    this.students = [...everyone].map(([key, student]) => {
      const group = groups.get(key) ?? []
      return {
        student,
        sets: this.#attemptsOf(group, decided.get(key) ?? Decisions.none),
        lastAnswerAt: group.findLast((s) => s.event.kind === 'answer')?.receivedAt ?? null,
      }
    })
  }

  /** The version that an event is about; for one that is not known, what asks its question now. */
  #versionAt = (event: AttemptEvent): Version | undefined =>
    this.versions.get(event.version ?? '') ??
    (isAnswerEvent(event) ? this.current.find((v) => v.questions.has(event.questionId)) : undefined)

  #attemptsOf(group: readonly StoredEvent[], decisions: Decisions): AttemptsAt[] {
    const attempts = replay(group, (event) => this.#versionAt(event)?.set.id ?? null)
    // What one was asked: of each set the version seen last.
    const seenLast = new Map(this.current.map((v) => [v.set.id, v]))
    for (const { event } of group) {
      const seen = event.kind === 'select' ? undefined : this.versions.get(event.version ?? '')
      if (seen) seenLast.set(seen.set.id, seen)
    }
    return [...seenLast.values()].map((own) => {
      const made = attempts.get(own.set.id)
      return { own, attempts: made ?? NO_ATTEMPT, came: made !== undefined, decisions }
    })
  }

  /** A question as a version asked it; as it is asked now, where the version is not known. */
  seenIn = (version: string | undefined, questionId: string): Keyed | undefined =>
    this.versions.get(version ?? '')?.questions.get(questionId) ?? this.now.get(questionId)

  /** Every question of an attempt, also one that only an earlier version asked. */
  judge(at: AttemptsAt, attempt: Attempt): JudgedAttempt {
    const judged = this.#judged.get(at) ?? new Map<Attempt, JudgedAttempt>()
    this.#judged.set(at, judged)
    const known = judged.get(attempt) ?? this.#judge(at, attempt)
    judged.set(attempt, known)
    return known
  }
  /** Whoever asks the same again gets the same: points, marks and changes are all computed from it. */
  readonly #judged = new WeakMap<AttemptsAt, Map<Attempt, JudgedAttempt>>()

  #judge({ own, decisions }: AttemptsAt, attempt: Attempt): JudgedAttempt {
    const { number } = attempt
    const ids = new Set([...own.questions.keys(), ...attempt.questions.keys()])
    return {
      number,
      handedInAt: handedInAt(attempt, own.asked),
      released: decisions.isReleased(own.set.id, number),
      questions: [...ids].flatMap((questionId): JudgedQuestion[] => {
        const state = attempt.questions.get(questionId)
        const given = state?.kind === 'answered' ? state : null
        const seen = given ? this.seenIn(given.version, questionId) : own.questions.get(questionId)
        if (!seen) return []
        const decision = decisions.about(own.set.id, number, questionId)
        const regraded = decision.regrade && this.versions.get(decision.regrade.version)?.questions.get(questionId)
        const by = given ? gradedAs(seen, regraded ?? null, given.answer) : seen
        return [{ questionId, seen, by, state, decision, earned: earned(by, given, decision, true) }]
      }),
    }
  }
}
