/**
 * What a kind of question is: what a student may read before answering (`open`), what stays on the server until then
 * (`key`), what an answer is, and how it is judged. A kind is one file here, and an entry in `schemas.ts` and `index.ts`;
 * what checks documents is apart, as the student's player carries none of it.
 */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Line } from '../../schema/parts'
import { RichText } from '../../schema/rich-text'

/** What students read of every question before they answer. */
export const openParts = {
  id: Id,
  prompt: RichText,
  hint: RichText,
  points: Type.Number({ minimum: 0, maximum: 1000 }),
}

/** What every key has. */
export const keyParts = {
  questionId: Id,
  explanation: RichText,
  /** An instant of the lecture that is worth another look, s: of the recording, or of the result once it is published. */
  lookAt: Type.Union([Type.Number({ minimum: 0, maximum: 86_400 }), Type.Null()]),
}

/** One of several things to choose from or to put in order. */
export const Choice = Type.Object({ id: Id, text: RichText }, closed)
export type Choice = Static<typeof Choice>
export const Choices = Type.Array(Choice, { minItems: 2, maxItems: 20 })

/** What is typed in an answer, on one line. */
export const Typed = Line(500)

/** How many gave an answer. */
export interface Tally {
  /** Of the choice, or the answer itself where there is none to choose. */
  id: string
  text: string
  /** Whether it earns all points; null where a part of it is right, or nothing is. */
  right: boolean | null
  count: number
}

export interface QuestionKind<Open, Key, Answer> {
  /** As a person chooses it. */
  name: string
  /** What of it a student gives, in a few words, for the form that asks. */
  asks: string
  /** What is its own in a question that nobody has written yet. */
  fresh(newId: () => string): { open: Omit<Open, keyof typeof openParts>; key: Omit<Key, keyof typeof keyParts> }
  /** The same under ids of its own. */
  copy?(open: Open, key: Key, newId: () => string): { open: Open; key: Key }
  /** What keeps it from being asked, as sentences. */
  problems(open: Open, key: Key): string[]
  /** Why an answer is none to this question, as a sentence; null when it is. */
  answerProblem(open: Open, answer: Answer): string | null
  /** How much of the points an answer earns, 0…1; null where a person marks it, or where nothing is graded. */
  share(open: Open, key: Key, answer: Answer): number | null
  /** What was answered, and how often; right ones stand there also when nobody gave them. */
  tally(open: Open, key: Key, answers: readonly Answer[]): Tally[]
  /** An answer in words. */
  say(open: Open, answer: Answer): string
  /** The right answer in words; empty where there is none. */
  sayKey(open: Open, key: Key): string
}

/** Counts the same under one name, most first. */
export function tallyBy<A>(
  answers: readonly A[],
  name: (answer: A) => string,
  right: (answer: A) => boolean | null,
): Tally[] {
  const rows = new Map<string, Tally>()
  for (const answer of answers) {
    const text = name(answer)
    const row = rows.get(text) ?? { id: text, text, right: right(answer), count: 0 }
    row.count++
    rows.set(text, row)
  }
  return [...rows.values()].sort((a, b) => b.count - a.count || (a.text < b.text ? -1 : 1))
}
