/**
 * Results as numbers: per student right, wrong, unanswered, points and per cent; per question how many chose what.
 * Everything is graded as it was asked: by the key of the version that the student saw. Students of the roster who
 * never came stand in the table too, as unanswered.
 */
import { personKey, sayStudent } from '../course/people'
import type { StoredEvent, Student } from '../schema/attempt'
import type { GradedSet } from '../schema/publication'
import type { OpenQuestion, QuestionKey } from '../schema/questions'
import { attemptState, byStudent } from '../questions/attempt'
import { grade } from '../questions/grade'

export interface StudentResult {
  student: Student
  right: number
  wrong: number
  unanswered: number
  points: number
  /** Points that this student could have had. */
  possible: number
  /** 0…100 of them; 0 when there are none. */
  percent: number
  /** When the last answer arrived (ISO 8601), or null. */
  lastAnswerAt: string | null
}

export interface QuestionResult {
  questionId: string
  prompt: string
  /**
   * How many handed in each choice, in the order of the choices; those of earlier versions that were chosen come last.
   */
  counts: { choiceId: string; text: string; right: boolean; count: number }[]
  answered: number
  /** Share of those who answered that were right, 0…1; null when nobody did (the item's difficulty index p). */
  facility: number | null
  /** Whether it is asked no longer: only students of an earlier version answered it. */
  earlier: boolean
}

export interface Results {
  students: StudentResult[]
  questions: QuestionResult[]
  /** Points to be had now. */
  possible: number
}

/** What was asked at a place: every version of a set that was answered, and those that are asked now. */
export interface PublishedSets {
  sets: readonly GradedSet[]
  current: readonly string[]
}

interface Asked {
  question: OpenQuestion
  key: QuestionKey
}

/** The questions of a version with their keys, in the order of time. */
function asked({ checkpoints, keys }: GradedSet): Map<string, Asked> {
  const all = new Map<string, Asked>()
  for (const { question } of checkpoints) {
    const key = keys.find((k) => k.questionId === question.id)
    if (key) all.set(question.id, { question, key })
  }
  return all
}

/**
 * @param events as the server stored them, any order, repeats allowed
 * @param roster students of the course; those who answered without being on it are added
 */
export function computeResults(
  { sets, current }: PublishedSets,
  events: readonly StoredEvent[],
  roster: readonly Student[],
): Results {
  const versions = new Map(sets.map((set) => [set.version, asked(set)]))
  const setOf = new Map(sets.map((set) => [set.version, set.id]))
  const ofSets = (chosen: readonly string[]) => new Map(chosen.flatMap((version) => [...(versions.get(version) ?? [])]))
  const now = ofSets(current)
  /** A question as one version asked it; as it is asked now when that version is not known. */
  const seenIn = (version: string | undefined, questionId: string) =>
    versions.get(version ?? '')?.get(questionId) ?? now.get(questionId)

  const groups = byStudent(events)
  const everyone = new Map(roster.map((s) => [personKey(s), s]))
  for (const [key, group] of groups) if (!everyone.has(key) && group[0]) everyone.set(key, group[0].student)
  const tallies = new Map<string, { counts: Map<string, number>; right: number; latest: Asked }>()

  const students = [...everyone.values()].map((student): StudentResult => {
    const group = groups.get(personKey(student)) ?? []
    const answers = group.filter((s) => s.event.kind === 'answer')
    const state = attemptState(answers.map((s) => s.event))
    const row: StudentResult = {
      student,
      right: 0,
      wrong: 0,
      unanswered: 0,
      points: 0,
      possible: 0,
      percent: 0,
      lastAnswerAt: answers.at(-1)?.receivedAt ?? null,
    }
    // What one was asked: of each set the questions of the version seen last, and what was answered in others.
    const seenLast = new Map(current.map((version) => [setOf.get(version), version]))
    for (const { event } of answers) {
      const set = setOf.get(event.version ?? '')
      if (set !== undefined && event.version) seenLast.set(set, event.version)
    }
    const own = ofSets([...seenLast.values()])
    for (const questionId of new Set([...own.keys(), ...state.keys()])) {
      const answer = state.get(questionId)
      const seen = answer?.kind === 'handed-in' ? seenIn(answer.version, questionId) : own.get(questionId)
      if (!seen) continue
      row.possible += seen.question.points
      if (answer?.kind !== 'handed-in') {
        row.unanswered++
        continue
      }
      const mark = grade(seen.question, seen.key, answer.choiceId)
      if (mark.right) row.right++
      else row.wrong++
      row.points += mark.points
      const tally = tallies.get(questionId) ?? { counts: new Map<string, number>(), right: 0, latest: seen }
      tally.counts.set(answer.choiceId, (tally.counts.get(answer.choiceId) ?? 0) + 1)
      if (mark.right) tally.right++
      tallies.set(questionId, tally)
    }
    row.percent = row.possible > 0 ? Math.round((1000 * row.points) / row.possible) / 10 : 0
    return row
  })

  const questions = [...new Set([...now.keys(), ...tallies.keys()])].flatMap((questionId): QuestionResult[] => {
    const tally = tallies.get(questionId)
    const shown = now.get(questionId) ?? tally?.latest
    if (!shown) return []
    const choices = new Map(shown.question.choices.map((c) => [c.id, c.text]))
    for (const version of versions.values())
      for (const c of version.get(questionId)?.question.choices ?? [])
        if (tally?.counts.has(c.id) && !choices.has(c.id)) choices.set(c.id, c.text)
    const counts = [...choices].map(([choiceId, text]) => ({
      choiceId,
      text,
      right: choiceId === shown.key.right,
      count: tally?.counts.get(choiceId) ?? 0,
    }))
    const answered = counts.reduce((sum, c) => sum + c.count, 0)
    const facility = answered ? (tally?.right ?? 0) / answered : null
    return [{ questionId, prompt: shown.question.prompt, counts, answered, facility, earlier: !now.has(questionId) }]
  })
  const possible = [...now.values()].reduce((sum, q) => sum + q.question.points, 0)
  return {
    students: students.sort((a, b) => sayStudent(a.student).localeCompare(sayStudent(b.student))),
    questions,
    possible,
  }
}
