/** What publishing a changed set does to answers that were already given: said before it is published. */
import equal from 'fast-deep-equal'
import { personKey } from '../course/people'
import { isGraded } from '../questions/grade'
import type { StoredEvent } from '../schema/attempt'
import type { GradedSet, SetUpload } from '../schema/publication'
import type { OpenQuestion, QuestionKey } from '../schema/questions'
import { sayCount } from '../text/words'
import { lineOf } from '../text/rich-text'

/** A question that was answered as it will not be asked any more. */
export interface AnsweredChange {
  questionId: string
  prompt: string
  how: 'changed' | 'gone'
  /** Whether answers to it earn points. */
  graded: boolean
  /** How many people answered it so. */
  people: number
}

interface Asked {
  open: OpenQuestion
  key: QuestionKey | undefined
}
const askedIn = (checkpoints: readonly { questions: OpenQuestion[] }[], keys: readonly QuestionKey[]) =>
  new Map(
    checkpoints.flatMap((c) =>
      c.questions.map((open): [string, Asked] => [open.id, { open, key: keys.find((k) => k.questionId === open.id) }]),
    ),
  )

/**
 * @param events answers as far as they are known, and `versions` of the sets that they were given to
 * @param next as the sets would be published now
 */
export function answeredChanges(
  events: readonly StoredEvent[],
  versions: readonly GradedSet[],
  next: readonly SetUpload[],
): AnsweredChange[] {
  const before = new Map(versions.map((v) => [v.version, askedIn(v.checkpoints, v.keys)]))
  const after = new Map(next.flatMap(({ set, keys }) => [...askedIn(set.checkpoints, keys.keys)]))
  const changes = new Map<string, AnsweredChange & { who: Set<string> }>()
  for (const { event, student } of events) {
    if (event.kind !== 'answer') continue
    const seen = before.get(event.version ?? '')?.get(event.questionId)
    const now = after.get(event.questionId)
    if (!seen || equal(seen, now)) continue
    const change = changes.get(event.questionId) ?? {
      ...{ questionId: event.questionId, prompt: lineOf(seen.open.prompt), how: now ? 'changed' : 'gone' },
      ...{ graded: isGraded(seen.open), people: 0, who: new Set<string>() },
    }
    changes.set(event.questionId, change)
    change.who.add(personKey(student))
  }
  return [...changes.values()].map(({ who, ...change }) => ({ ...change, people: who.size }))
}

/** As an author reads it before publishing. */
export function sayAnsweredChange({ prompt, how, graded, people }: AnsweredChange): string {
  const who = sayCount(people, 'person has', 'people have')
  if (how === 'gone')
    return `“${prompt}” will not be asked any more. ${who} answered it: the answers${graded ? ' and their points' : ''} stay.`
  return graded
    ? `“${prompt}” is changed, and ${who} answered it as it was. Those answers stay and count by the question as it was; Results show what grading them by the changed one would alter.`
    : `“${prompt}” is changed, and ${who} answered it as it was. Those answers stay.`
}
