/**
 * Results as numbers: per student right, wrong, unanswered, points and per cent; per question how many chose what.
 * Everything is graded as it was asked: by the key of the version that the student saw. Students of the roster who
 * never came stand in the table too, as unanswered.
 */
import { mean, median } from 'd3-array'
import { sayStudent } from '../course/people'
import type { Student } from '../schema/attempt'
import type { GradedSet } from '../schema/publication'
import type { Answer, OpenQuestion } from '../schema/questions'
import { lineOf } from '../text/rich-text'
import { isGraded } from '../questions/grade'
import { isMarkedByPerson, type Keyed } from '../questions/grading'
import { kindOfQuestion } from '../questions/kinds'
import type { Tally } from '../questions/kinds/kind'
import type { History, JudgedAttempt, Version } from './history'
import { setStatistics, type ItemStatistics, type SetStatistics } from './statistics'

export interface StudentResult {
  student: Student
  /** Answers that earned all points, some of them, and none; those that a person has yet to mark; those not given. */
  right: number
  partly: number
  wrong: number
  unmarked: number
  unanswered: number
  /** Answers that are marked, of which the student is not told yet. */
  unreleased: number
  /** Questions that do not count for this student. */
  excused: number
  points: number
  /** Points that this student could have had. */
  possible: number
  /** 0…100 of them, without those of answers that are not marked yet; 0 when there are none. */
  percent: number
  /** Attempts begun; of several sets, at the one with most. 0 for whoever never came. */
  attempts: number
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
  /** How it goes with the set it is of; null where that cannot be told (`statistics.ts`). */
  item: ItemStatistics | null
  /** For how long it was shown before it was answered, the median in s; null where players did not say. */
  took: number | null
  /** How many read the hint first. */
  hinted: number
  /** Whether it is asked no longer: only students of an earlier version answered it. */
  earlier: boolean
}

/** A set as a whole, of those who handed in their first attempt at it. */
export interface SetResult {
  id: string
  title: string
  statistics: SetStatistics
  /** Ids of the questions that it is of: those that are graded, and marked for everybody who answered. */
  items: string[]
}

export interface Results {
  students: StudentResult[]
  questions: QuestionResult[]
  /** Of the sets that are asked now. */
  sets: SetResult[]
  /** Points to be had now. */
  possible: number
}

/** An answer with what it was given to. */
interface GivenAnswer {
  asked: Keyed
  answer: Answer
  share: number | null
  took?: number
  hinted?: boolean
}

/** What one student made of an attempt. */
interface AttemptResult {
  handedIn: boolean
  answers: Map<string, GivenAnswer>
  counts: Pick<StudentResult, 'right' | 'partly' | 'wrong' | 'unmarked' | 'unreleased' | 'unanswered' | 'excused'>
  points: number
  possible: number
  /** Points of answers that are not marked yet. */
  unknown: number
}

/** Counts answers by the version that each was given to; those of earlier ones that say something else come last. */
function countsOf(shown: Keyed, answers: readonly { asked: Keyed; answer: Answer }[]): Tally[] {
  const kind = kindOfQuestion(shown.open)
  const isShown = ({ asked, answer }: { asked: Keyed; answer: Answer }) =>
    asked.open.kind === shown.open.kind && kind.answerProblem(shown.open, answer) === null
  const fitting = answers.filter(isShown).map((a) => a.answer)
  const others = answers.filter((a) => !isShown(a))
  const rows = kind.tally(shown.open, shown.key, fitting)
  for (const { asked, answer } of others)
    for (const row of kindOfQuestion(asked.open).tally(asked.open, asked.key, [answer])) {
      if (row.count === 0) continue
      const same = rows.find((r) => r.id === row.id)
      if (same) same.count += row.count
      else rows.push({ ...row, right: null })
    }
  return rows
}

function resultOf({ handedInAt, released, questions }: JudgedAttempt): AttemptResult {
  const result: AttemptResult = {
    handedIn: handedInAt !== null,
    answers: new Map(),
    counts: { right: 0, partly: 0, wrong: 0, unmarked: 0, unreleased: 0, unanswered: 0, excused: 0 },
    ...{ points: 0, possible: 0, unknown: 0 },
  }
  const { counts, answers } = result
  for (const { questionId, seen, by, state, earned } of questions) {
    const { share, points, excused } = earned
    if (state?.kind === 'answered') {
      const { answer, took, hinted } = state
      answers.set(questionId, {
        ...{ asked: seen, answer, share },
        ...(took !== undefined && { took }),
        ...(hinted && { hinted }),
      })
    }
    if (excused) counts.excused++
    else result.possible += by.open.points
    if (excused || !isGraded(by.open)) continue
    result.points += points ?? 0
    if (state?.kind !== 'answered') counts.unanswered++
    else if (share === null) {
      counts.unmarked++
      result.unknown += by.open.points
    } else {
      counts[share >= 1 ? 'right' : share === 0 ? 'wrong' : 'partly']++
      if (isMarkedByPerson(by.open) && !released) counts.unreleased++
    }
  }
  result.points = hundredths(result.points)
  return result
}

const COUNTS = ['right', 'partly', 'wrong', 'unmarked', 'unreleased', 'unanswered', 'excused'] as const
const hundredths = (x: number) => Math.round(100 * x) / 100

/**
 * The attempt that is shown as the one that counts, with the points that count: of those handed in, as the set's policy
 * says; while there is none, of the first as it stands.
 */
function counting(attempts: readonly AttemptResult[], counts: CountsRule): AttemptResult | undefined {
  const handedIn = attempts.filter((a) => a.handedIn)
  const [first] = handedIn
  if (!first) return attempts[0]
  const last = handedIn.at(-1) ?? first
  if (counts === 'first') return first
  if (counts === 'best') return handedIn.reduce((best, a) => (a.points > best.points ? a : best))
  return counts === 'last' ? last : { ...last, points: hundredths(mean(handedIn, (a) => a.points) ?? 0) }
}
type CountsRule = GradedSet['policy']['attempts']['counts']

/** Of several attempts those count that the set's policy says. What is told of a question is of first attempts: whoever
 * answers again has seen it before. */
export function computeResults(history: History): Results {
  const { current: currently, now } = history
  const given = new Map<string, GivenAnswer[]>()
  /** First attempts that were handed in, by the sets' ids. */
  const whole = new Map<string, { own: Version; answers: AttemptResult['answers'] }[]>()

  const students = history.students.map(({ student, sets, lastAnswerAt }): StudentResult => {
    const row: StudentResult = {
      student,
      ...{ right: 0, partly: 0, wrong: 0, unmarked: 0, unreleased: 0, unanswered: 0, excused: 0 },
      ...{ points: 0, possible: 0, percent: 0, attempts: 0 },
      lastAnswerAt,
    }
    let unknown = 0
    for (const at of sets) {
      const { own, attempts, came } = at
      const judged = attempts.map((attempt) => resultOf(history.judge(at, attempt)))
      const [first] = judged
      for (const [questionId, answer] of first?.answers ?? []) {
        const all = given.get(questionId)
        if (all) all.push(answer)
        else given.set(questionId, [answer])
      }
      if (first?.handedIn) {
        const all = whole.get(own.set.id)
        if (all) all.push({ own, answers: first.answers })
        else whole.set(own.set.id, [{ own, answers: first.answers }])
      }
      if (came) row.attempts = Math.max(row.attempts, attempts.length)
      const counted = counting(judged, own.set.policy.attempts.counts)
      if (!counted) continue
      for (const name of COUNTS) row[name] += counted.counts[name]
      row.points += counted.points
      row.possible += counted.possible
      unknown += counted.unknown
    }
    row.points = hundredths(row.points)
    const known = row.possible - unknown
    row.percent = known > 0 ? Math.round((1000 * row.points) / known) / 10 : 0
    return row
  })

  const asSets = currently.map(({ set, questions }): SetResult => {
    const rows = (whole.get(set.id) ?? []).filter(({ own }) => [...questions.keys()].every((q) => own.questions.has(q)))
    const items = [...questions.values()]
      .map(({ open }) => open)
      .filter((q) => isGraded(q) && q.points > 0 && rows.every(({ answers }) => answers.get(q.id)?.share !== null))
    const scores = rows.map(({ answers }) => items.map((q) => answers.get(q.id)?.share ?? 0))
    const statistics = setStatistics(
      scores,
      items.map((q) => q.points),
    )
    return { id: set.id, title: set.title, statistics, items: items.map((q) => q.id) }
  })
  const itemOf = new Map(
    asSets.flatMap(({ items, statistics }) => items.map((id, i) => [id, statistics.items[i] ?? null] as const)),
  )

  const questions = [...new Set([...now.keys(), ...given.keys()])].flatMap((questionId): QuestionResult[] => {
    const answers = given.get(questionId) ?? []
    const shown = now.get(questionId) ?? answers.at(-1)?.asked
    if (!shown) return []
    const shares = answers.flatMap(({ share }) => (share === null ? [] : [share]))
    return [
      {
        questionId,
        kind: shown.open.kind,
        prompt: lineOf(shown.open.prompt),
        counts: countsOf(shown, answers),
        answered: answers.length,
        facility: shares.length > 0 ? (mean(shares) ?? null) : null,
        item: itemOf.get(questionId) ?? null,
        took: median(answers, (a) => a.took) ?? null,
        hinted: answers.filter((a) => a.hinted).length,
        earlier: !now.has(questionId),
      },
    ]
  })
  const possible = [...now.values()].reduce((sum, q) => sum + q.open.points, 0)
  return {
    students: students.sort((a, b) => sayStudent(a.student).localeCompare(sayStudent(b.student))),
    questions,
    sets: asSets,
    possible,
  }
}
