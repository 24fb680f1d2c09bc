/**
 * The history beside a document: what was done, in words, with the change that it made. A point of the history is how
 * many of its steps hold; undo, redo and going to any point apply changes backward or forward.
 *
 *     steps     0 ─── 1 ─── 2 ─── 3 ─── 4
 *     applied               ▲ 3 of them hold; two were undone
 */
import { applyChange, compose, isEmpty, reverse, type Change, type Conflict, type Lists } from './change'

export interface Step {
  /** A line for the list of what was done. */
  says: string
  /** ISO 8601 UTC. */
  doneAt: string
  /** What was being written into; what is written on into the same within a while is the same step. */
  field?: string
  change: Change
}

/** How long after it was begun something written on is still the same step, s. */
const WRITING_FOR = 30
/** How many steps are kept. */
export const HISTORY_LENGTH = 1000

export interface History {
  /** Oldest first. */
  steps: readonly Step[]
  /** How many of them hold. */
  applied: number
}

export const emptyHistory: History = { steps: [], applied: 0 }

/** One more step. What had been undone is given up; what changes nothing is none. */
export function withStep({ steps, applied }: History, step: Step): History {
  if (isEmpty(step.change)) return { steps, applied }
  const done = steps.slice(0, applied)
  const last = done.at(-1)
  const goesOn =
    last?.field !== undefined &&
    last.field === step.field &&
    Date.parse(step.doneAt) - Date.parse(last.doneAt) <= 1000 * WRITING_FOR
  if (!last || !goesOn) {
    const all = [...done, step].slice(-HISTORY_LENGTH)
    return { steps: all, applied: all.length }
  }
  const change = compose(last.change, step.change)
  const before = done.slice(0, -1)
  return isEmpty(change)
    ? { steps: before, applied: before.length }
    : { steps: [...before, { ...last, says: step.says, change }], applied: done.length }
}

/**
 * Goes to a point of the history.
 * @param applied how many steps are to hold; a number outside is taken as the nearest
 */
export function goTo<D extends object>(
  lists: Lists,
  document: D,
  history: History,
  applied: number,
): { document: D; history: History; conflicts: Conflict[] } {
  const to = Math.min(history.steps.length, Math.max(0, Math.round(applied)))
  const way =
    to < history.applied
      ? history.steps
          .slice(to, history.applied)
          .reverse()
          .map((step) => reverse(step.change))
      : history.steps.slice(history.applied, to).map((step) => step.change)
  let at = document
  const conflicts: Conflict[] = []
  for (const change of way) {
    const done = applyChange(lists, at, change)
    at = done.document
    conflicts.push(...done.conflicts)
  }
  return { document: at, history: { ...history, applied: to }, conflicts }
}
