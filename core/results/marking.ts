/** Answers that a person marks, one after another, and what a decision would change or has changed. */
import { personKey, sayStudent } from '../course/people'
import { finalSince } from '../questions/attempt'
import { isGraded } from '../questions/grade'
import { earned, gradedAs, isMarkedByPerson, type Keyed } from '../questions/grading'
import { kindOfQuestion } from '../questions/kinds'
import type { Answer } from '../schema/questions'
import type { Student } from '../schema/attempt'
import type { GradingEntry, MarkEntry, StoredGrading } from '../schema/grading'
import { lineOf } from '../text/rich-text'
import type { AttemptsAt, History, JudgedQuestion } from './history'

/** An answer for a marker. */
export interface AnswerToMark {
  /** Of the event that gave it. */
  id: string
  student: Student
  set: { id: string; title: string }
  attempt: number
  question: Keyed
  answer: Answer
  receivedAt: string
  /** Whether it cannot change any more. */
  final: boolean
  /** The mark it has. */
  mark: MarkEntry | null
  /** Whether another answer was marked here before this one took its place. */
  changed: boolean
  released: boolean
  excused: boolean
}

const byText = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0)

/** All there are, question by question in the order of the lecture, and within one by name. */
export function answersToMark(history: History): AnswerToMark[] {
  const order = new Map([...history.now.keys()].map((id, i) => [id, i]))
  return history.students
    .flatMap(({ student, sets }) =>
      sets.flatMap((at) =>
        at.attempts.flatMap((attempt) => {
          const { handedInAt, released, questions } = history.judge(at, attempt)
          return questions.flatMap(({ by, state, decision }): AnswerToMark[] => {
            if (state?.kind !== 'answered' || !isMarkedByPerson(by.open)) return []
            const mark = decision.mark ?? null
            const holds = mark?.answerId === state.eventId
            return [
              {
                ...{ id: state.eventId, student, set: at.own.set, attempt: attempt.number, question: by },
                ...{ answer: state.answer, receivedAt: state.receivedAt, released },
                final: handedInAt !== null || finalSince(state, at.own.asked) !== null,
                mark: holds ? mark : null,
                changed: mark !== null && !holds,
                excused: decision.excuse !== undefined,
              },
            ]
          })
        }),
      ),
    )
    .sort(
      (a, b) =>
        (order.get(a.question.open.id) ?? order.size) - (order.get(b.question.open.id) ?? order.size) ||
        sayStudent(a.student).localeCompare(sayStudent(b.student)) ||
        a.attempt - b.attempt ||
        byText(a.id, b.id),
    )
}

/** Student by student, the questions of one together. */
export const byPerson = (answers: readonly AnswerToMark[]): AnswerToMark[] => {
  const at = new Map<string, AnswerToMark[]>()
  for (const answer of answers) {
    const key = personKey(answer.student)
    at.set(key, [...(at.get(key) ?? []), answer])
  }
  return [...at.values()]
    .sort(([a], [b]) => (a && b ? sayStudent(a.student).localeCompare(sayStudent(b.student)) : 0))
    .flatMap((own) => own.sort((a, b) => a.attempt - b.attempt))
}

/** In an order that says nothing of who wrote them: by the ids of the answers, which are random. */
export const namesHidden = (answers: readonly AnswerToMark[]): AnswerToMark[] => {
  const place = new Map<string, number>()
  for (const { question } of answers) if (!place.has(question.open.id)) place.set(question.open.id, place.size)
  const at = (a: AnswerToMark) => place.get(a.question.open.id) ?? 0
  return [...answers].sort((a, b) => at(a) - at(b) || byText(a.id, b.id))
}

/** Comments on answers to a question, those used most first; of those used alike the latest. */
export function usedComments(entries: readonly GradingEntry[], questionId: string): string[] {
  const last = new Map<string, MarkEntry>()
  for (const entry of entries)
    if (entry.kind === 'mark' && entry.questionId === questionId) last.set(entry.answerId, entry)
  const used = new Map<string, { count: number; at: string }>()
  for (const { comment, at } of last.values()) {
    const text = comment.trim()
    if (!text) continue
    const before = used.get(text)
    used.set(text, { count: (before?.count ?? 0) + 1, at: before && before.at > at ? before.at : at })
  }
  return [...used].sort(([, a], [, b]) => b.count - a.count || byText(b.at, a.at)).map(([text]) => text)
}

/** Attempts in which everything that a person marks is marked, and of which the student is not told yet. */
export function readyToRelease(answers: readonly AnswerToMark[]): { student: Student; set: string; attempt: number }[] {
  const attempts = new Map<string, AnswerToMark[]>()
  for (const answer of answers) {
    const key = `${answer.attempt} ${answer.set.id} ${personKey(answer.student)}`
    attempts.set(key, [...(attempts.get(key) ?? []), answer])
  }
  return [...attempts.values()]
    .filter((all) => all.every((a) => (a.mark || a.excused) && a.final && !a.released))
    .flatMap(([one]) => (one ? [{ student: one.student, set: one.set.id, attempt: one.attempt }] : []))
}

/** An answer that would earn something else by the key that holds now. */
export interface RegradeChange {
  student: Student
  set: string
  attempt: number
  questionId: string
  prompt: string
  /** Points, and the version by which they would be given. */
  before: number
  after: number
  version: string
}

/** What grading answers to earlier versions by those that are asked now would change; a marker's points stay. */
export function regradeChanges(history: History): RegradeChange[] {
  const currently = new Map(history.current.map((v) => [v.set.id, v]))
  const changeOf = (at: AttemptsAt, { questionId, seen, by, state, decision, earned: now }: JudgedQuestion) => {
    const version = currently.get(at.own.set.id)
    const asked = version?.questions.get(questionId)
    if (!version || !asked || state?.kind !== 'answered' || now.by !== 'key' || !isGraded(by.open)) return null
    if (isMarkedByPerson(by.open) || state.version === version.set.version) return null
    if (decision.regrade?.version === version.set.version) return null
    const after = earned(gradedAs(seen, asked, state.answer), state, decision, true).points
    if (after === null || now.points === null || after === now.points) return null
    return { version: version.set.version, before: now.points, after, prompt: lineOf(asked.open.prompt) }
  }
  return history.students.flatMap(({ student, sets }) =>
    sets.flatMap((at) =>
      at.attempts.flatMap((attempt) =>
        history.judge(at, attempt).questions.flatMap((question): RegradeChange[] => {
          const change = changeOf(at, question)
          const { questionId } = question
          return change ? [{ student, set: at.own.set.id, attempt: attempt.number, questionId, ...change }] : []
        }),
      ),
    ),
  )
}

/** An entry of the log in words. */
export interface SaidEntry {
  id: string
  at: string
  student: string
  /** The question, or the set. */
  about: string
  what: string
  reason: string
}

const sayPoints = (points: number) => (points === 1 ? '1 point' : `${points} points`)

function sayWhat(entry: GradingEntry): string {
  if (entry.kind === 'mark') return `Marked with ${sayPoints(entry.points)}`
  if (entry.kind === 'override')
    return entry.points === null ? 'Back to the points that were earned' : `${sayPoints(entry.points)} given in place`
  if (entry.kind === 'excuse') return entry.excused ? 'Excused' : 'Counts again'
  if (entry.kind === 'regrade') return 'Graded by the changed question'
  return entry.released ? 'Released' : 'Taken back'
}

/** The log of a place, the latest first. */
export function sayLog(history: History, grading: readonly StoredGrading[]): SaidEntry[] {
  const titles = new Map([...history.versions.values()].map(({ set }) => [set.id, set.title]))
  const prompts = new Map<string, string>()
  for (const version of history.versions.values())
    for (const [id, { open }] of version.questions) prompts.set(id, lineOf(open.prompt))
  return [...grading]
    .sort((a, b) => b.seq - a.seq)
    .map(({ entry }) => ({
      id: entry.id,
      at: entry.at,
      student: sayStudent(entry.student),
      about:
        entry.kind === 'release'
          ? `${titles.get(entry.set) ?? 'Questions'}, attempt ${entry.attempt}`
          : (prompts.get(entry.questionId) ?? 'A question that is gone'),
      what: sayWhat(entry),
      reason: entry.kind === 'mark' ? entry.comment : 'reason' in entry ? entry.reason : '',
    }))
}

/** An answer in words, as a person reads it. */
export const sayAnswer = ({ open }: Keyed, answer: Answer): string => kindOfQuestion(open).say(open, answer)
