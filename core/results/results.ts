/**
 * Results as numbers: per student right, wrong, unanswered, points and per cent; per question how many chose
 * what. Students of the roster who never came stand in the table too, as unanswered.
 */
import type { StoredEvent, Student } from '../schema/attempt'
import type { Checkpoint } from '../schema/questions'
import { attemptState, byStudent } from '../questions/attempt'
import { grade } from '../questions/grade'

export interface StudentResult {
  student: Student
  right: number
  wrong: number
  unanswered: number
  points: number
  /** 0…100 of the points that could be had; 0 when there are none. */
  percent: number
  /** When the last answer arrived (ISO 8601), or null. */
  lastAnswerAt: string | null
}

export interface QuestionResult {
  questionId: string
  prompt: string
  /** How many handed in each choice, in the order of the choices. */
  counts: { choiceId: string; text: string; right: boolean; count: number }[]
  answered: number
  /** Share of those who answered that were right, 0…1; null when nobody did (the item's difficulty index p). */
  facility: number | null
}

export interface Results {
  students: StudentResult[]
  questions: QuestionResult[]
  possible: number
}

/**
 * @param checkpoints with their keys, as the author's browser holds them
 * @param events as the server stored them, any order, repeats allowed
 * @param roster students of the course; those who answered without being on it are added
 */
export function computeResults(checkpoints: readonly Checkpoint[], events: readonly StoredEvent[], roster: readonly Student[]): Results {
  const groups = byStudent(events)
  const everyone = new Map(roster.map((s) => [s.id, s]))
  for (const [id, group] of groups) if (!everyone.has(id) && group[0]) everyone.set(id, group[0].student)
  const possible = checkpoints.reduce((sum, c) => sum + c.question.points, 0)
  const counts = new Map<string, number>()

  const students = [...everyone.values()].map((student): StudentResult => {
    const group = groups.get(student.id) ?? []
    const state = attemptState(group.map((s) => s.event))
    const row: StudentResult = { student, right: 0, wrong: 0, unanswered: 0, points: 0, percent: 0, lastAnswerAt: null }
    for (const { question, key } of checkpoints) {
      const answer = state.get(question.id)
      if (answer?.kind !== 'handed-in') {
        row.unanswered++
        continue
      }
      const mark = grade(question, key, answer.choiceId)
      if (mark.right) row.right++
      else row.wrong++
      row.points += mark.points
      counts.set(`${question.id} ${answer.choiceId}`, (counts.get(`${question.id} ${answer.choiceId}`) ?? 0) + 1)
    }
    row.percent = possible > 0 ? Math.round((1000 * row.points) / possible) / 10 : 0
    row.lastAnswerAt = group.findLast((s) => s.event.kind === 'answer')?.receivedAt ?? null
    return row
  })

  const questions = checkpoints.map(({ question, key }): QuestionResult => {
    const perChoice = question.choices.map((c) => ({ choiceId: c.id, text: c.text, right: c.id === key.right, count: counts.get(`${question.id} ${c.id}`) ?? 0 }))
    const answered = perChoice.reduce((sum, c) => sum + c.count, 0)
    const right = perChoice.find((c) => c.right)?.count ?? 0
    return { questionId: question.id, prompt: question.prompt, counts: perChoice, answered, facility: answered ? right / answered : null }
  })
  return { students: students.sort((a, b) => a.student.name.localeCompare(b.student.name)), questions, possible }
}
