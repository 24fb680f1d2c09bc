/**
 * Results as numbers: per student right, wrong, unanswered, points and per cent; per question how many chose what.
 * Everything is graded as it was asked: by the key of the version that the student saw. Students of the roster who
 * never came stand in the table too, as unanswered.
 */
import { mean } from 'd3-array'
import { personKey, sayStudent } from '../course/people'
import type { StoredEvent, Student } from '../schema/attempt'
import type { GradedSet } from '../schema/publication'
import type { Answer, OpenQuestion, QuestionKey } from '../schema/questions'
import { lineOf } from '../text/rich-text'
import { attemptState, byStudent } from '../questions/attempt'
import { kindOfQuestion } from '../questions/kinds'
import type { Tally } from '../questions/kinds/kind'
import { grade, isGraded } from '../questions/grade'

export interface StudentResult {
  student: Student
  /** Answers that earned all points, some of them, and none; those that a person has yet to mark; those not given. */
  right: number
  partly: number
  wrong: number
  unmarked: number
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
  kind: OpenQuestion['kind']
  prompt: string
  /** What was answered, and how often; of earlier versions too, where that says something else. */
  counts: Tally[]
  answered: number
  /**
   * Mean share of the points that those who answered have earned, 0…1: the item's difficulty index p. Null when nobody
   * did, and where nothing is graded or not yet.
   */
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
  for (const question of checkpoints.flatMap((c) => c.questions)) {
    const key = keys.find((k) => k.questionId === question.id)
    if (key) all.set(question.id, { question, key })
  }
  return all
}

/** Counts answers by the version that each was given to; those of earlier ones that say something else come last. */
function countsOf(shown: Asked, answers: readonly { asked: Asked; answer: Answer }[]): Tally[] {
  const kind = kindOfQuestion(shown.question)
  const isShown = ({ asked, answer }: { asked: Asked; answer: Answer }) =>
    asked.question.kind === shown.question.kind && kind.answerProblem(shown.question, answer) === null
  const fitting = answers.filter(isShown).map((a) => a.answer)
  const others = answers.filter((a) => !isShown(a))
  const rows = kind.tally(shown.question, shown.key, fitting)
  for (const { asked, answer } of others)
    for (const row of kindOfQuestion(asked.question).tally(asked.question, asked.key, [answer])) {
      if (row.count === 0) continue
      const same = rows.find((r) => r.id === row.id)
      if (same) same.count += row.count
      else rows.push({ ...row, right: null })
    }
  return rows
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
  const given = new Map<string, { asked: Asked; answer: Answer; share: number | null }[]>()

  const students = [...everyone.values()].map((student): StudentResult => {
    const group = groups.get(personKey(student)) ?? []
    const answers = group.filter((s) => s.event.kind === 'answer')
    const state = attemptState(answers.map((s) => s.event))
    const row: StudentResult = {
      student,
      ...{ right: 0, partly: 0, wrong: 0, unmarked: 0, unanswered: 0 },
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
        if (isGraded(seen.question)) row.unanswered++
        continue
      }
      const { share, points } = grade(seen.question, seen.key, answer.answer)
      const all = given.get(questionId)
      const one = { asked: seen, answer: answer.answer, share }
      if (all) all.push(one)
      else given.set(questionId, [one])
      if (!isGraded(seen.question)) continue
      if (share === null) row.unmarked++
      else if (share === 1) row.right++
      else if (share === 0) row.wrong++
      else row.partly++
      row.points += points ?? 0
    }
    row.points = Math.round(100 * row.points) / 100
    row.percent = row.possible > 0 ? Math.round((1000 * row.points) / row.possible) / 10 : 0
    return row
  })

  const questions = [...new Set([...now.keys(), ...given.keys()])].flatMap((questionId): QuestionResult[] => {
    const answers = given.get(questionId) ?? []
    const shown = now.get(questionId) ?? answers.at(-1)?.asked
    if (!shown) return []
    const shares = answers.flatMap(({ share }) => (share === null ? [] : [share]))
    return [
      {
        questionId,
        kind: shown.question.kind,
        prompt: lineOf(shown.question.prompt),
        counts: countsOf(shown, answers),
        answered: answers.length,
        facility: shares.length > 0 ? (mean(shares) ?? null) : null,
        earlier: !now.has(questionId),
      },
    ]
  })
  const possible = [...now.values()].reduce((sum, q) => sum + q.question.points, 0)
  return {
    students: students.sort((a, b) => sayStudent(a.student).localeCompare(sayStudent(b.student))),
    questions,
    possible,
  }
}
