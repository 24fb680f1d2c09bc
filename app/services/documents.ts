/**
 * Storing what a person changed, with a step of its history. Another tab, or a job that ended, may have changed the same
 * document meanwhile: then both changes are joined, item by item, in the transaction that stores them, so that neither
 * takes the other's place.
 */
import { changeBetween, isEmpty, joinDocuments, type Conflict } from '#core/documents/change'
import { goTo, HISTORY_LENGTH, withStep, type Step } from '#core/documents/history'
import {
  documentId,
  documentName,
  emptied,
  kindOf,
  kinds,
  type DocumentName,
  type Documents,
  type Kind,
} from '#core/documents/kinds'
import { db, type DocumentRow, type StepRow } from '~/db/database'
import { storing } from '~/db/files'
import { changeLecture } from './cards'
import { nowInstant } from './ids'

/** A lecture's document, or undefined when there is none. */
export const documentRow = <K extends Kind>(
  lectureId: string,
  name: DocumentName<K>,
): Promise<DocumentRow<K> | undefined> =>
  db.documents.get(documentId(lectureId, name)) as Promise<DocumentRow<K> | undefined>

/** A document in which nothing has been done yet. */
export const newRow = <K extends Kind>(
  lectureId: string,
  name: DocumentName<K>,
  document: Documents[K],
): DocumentRow<K> => ({
  id: documentId(lectureId, name),
  lectureId,
  kind: kindOf(name),
  document,
  applied: 0,
  conflicts: [],
})

/** What was done, as its history says it. */
export interface Doing {
  /** A line for the list of what was done; empty for what is no step of a person's, such as a longer recording. */
  says: string
  /** What is being written into. */
  field?: string
  /** The instant that several documents have in common which are changed by one doing, and undone together. */
  doneAt?: string
}

/** Runs in one transaction: nobody writes between the reading and the writing. */
const atOnce = <T>(lectureId: string, act: () => Promise<T>): Promise<T> => storing(() => changeLecture(lectureId, act))

const withConflicts = (before: readonly Conflict[], more: readonly Conflict[]): Conflict[] => [
  ...before.filter((b) => !more.some((m) => m.list === b.list && m.id === b.id)),
  ...more,
]

/** Adds a step to the history of a row; what had been undone is given up. @returns how many steps hold then */
async function addStep(documentId: string, applied: number, step: Step): Promise<number> {
  const last = await db.steps.get([documentId, applied - 1])
  const { steps } = withStep({ steps: last ? [last] : [], applied: last ? 1 : 0 }, step)
  const first = last ? applied - 1 : applied
  await db.steps.where('[documentId+seq]').between([documentId, first], [documentId, Infinity]).delete()
  await db.steps.bulkPut(steps.map((s, i) => ({ ...s, documentId, seq: first + i })))
  await db.steps
    .where('[documentId+seq]')
    .between([documentId, -1], [documentId, first + steps.length - HISTORY_LENGTH])
    .delete()
  return first + steps.length
}

/**
 * Stores a document that was changed. May be called inside a change of its lecture.
 * @param before what `next` was made of; null when there was none
 * @returns the document as it is stored, which may hold more than `next`
 */
export const storeDocument = <K extends Kind>(
  lectureId: string,
  name: DocumentName<K>,
  before: Documents[K] | null,
  next: Documents[K],
  { says, field, doneAt = nowInstant() }: Doing,
): Promise<Documents[K]> =>
  atOnce(lectureId, async () => {
    const kind = kindOf(name)
    const { lists } = kinds[kind]
    const row = await documentRow(lectureId, name)
    if (row?.unreadable) throw new Error(row.unreadable)
    const stored = row?.document ?? null
    const joined = stored ? joinDocuments(lists, before, next, stored) : { document: next, conflicts: [] }
    const id = documentId(lectureId, name)
    // Undone, what began a document leaves it empty: without its fields it would be none.
    const change = changeBetween(lists, stored ?? emptied(kind, joined.document), joined.document)
    let applied = row?.applied ?? 0
    if (says && !isEmpty(change))
      applied = await addStep(id, applied, { says, doneAt, ...(field && { field }), change })
    await db.documents.put({
      ...newRow(lectureId, name, joined.document),
      applied,
      conflicts: withConflicts(row?.conflicts ?? [], joined.conflicts),
    })
    return joined.document
  })

/** The steps of a document's history that are kept, oldest first, also those that were undone. */
export const stepsOf = (documentId: string): Promise<StepRow[]> =>
  db.steps.where('[documentId+seq]').between([documentId, -1], [documentId, Infinity]).sortBy('seq')

/**
 * Goes to a point of a document's history.
 * @param to how many steps are to hold, of how many do; one that is not kept any more is taken as the nearest that is
 */
export const goToStep = (lectureId: string, name: DocumentName, to: (applied: number) => number): Promise<void> =>
  atOnce(lectureId, async () => {
    const row = await documentRow(lectureId, name)
    if (!row) return
    const steps = await stepsOf(row.id)
    const first = steps[0]?.seq ?? row.applied
    const { document, history, conflicts } = goTo(
      kinds[row.kind].lists,
      row.document,
      { steps, applied: row.applied - first },
      to(row.applied) - first,
    )
    await db.documents.put({
      ...row,
      document,
      applied: first + history.applied,
      conflicts: withConflicts(row.conflicts, conflicts),
    })
  })

/**
 * Undoes what was done last to any of some documents of a lecture, or does again what was undone last; also in its other
 * documents, where one doing changed several.
 */
export const travel = (lectureId: string, of: readonly DocumentName[], direction: 'undo' | 'redo'): Promise<void> =>
  atOnce(lectureId, async () => {
    const rows = await db.documents.where('lectureId').equals(lectureId).toArray()
    const found = await Promise.all(
      rows.map(async (row) => {
        const step = await db.steps.get([row.id, row.applied - (direction === 'undo' ? 1 : 0)])
        return step ? [{ name: documentName(row), doneAt: step.doneAt }] : []
      }),
    )
    const steps = found.flat().sort((a, b) => a.doneAt.localeCompare(b.doneAt))
    const own = steps.filter((step) => of.includes(step.name))
    const next = direction === 'undo' ? own.at(-1) : own[0]
    for (const { name, doneAt } of steps)
      if (doneAt === next?.doneAt)
        await goToStep(lectureId, name, (applied) => applied + (direction === 'undo' ? -1 : 1))
  })

/**
 * A person's decision on what was changed in two places.
 * @param kept null deletes it
 */
export const decide = (lectureId: string, name: DocumentName, conflict: Conflict, kept: unknown): Promise<void> =>
  atOnce(lectureId, async () => {
    const row = await documentRow(lectureId, name)
    if (!row) return
    const { kind } = row
    const { list, id } = conflict
    const next: Record<string, unknown> = { ...row.document }
    if (list === '') {
      if (kept === null) delete next[id]
      else next[id] = kept
    } else {
      const others = (next[list] as { id: string }[]).filter((item) => item.id !== id)
      const order = kinds[kind].lists[list] as (a: unknown, b: unknown) => number
      next[list] = kept ? [...others, kept].sort(order) : others
    }
    const change = changeBetween(kinds[kind].lists, row.document, next)
    const step = { says: 'Decided between two changes', doneAt: nowInstant(), change }
    await db.documents.put({
      ...row,
      document: next as unknown as Documents[Kind],
      applied: isEmpty(change) ? row.applied : await addStep(row.id, row.applied, step),
      conflicts: row.conflicts.filter((c) => c.list !== list || c.id !== id),
    })
  })

/** Removes a document of a lecture with its history; one that is not there is no matter. */
export const deleteDocument = (lectureId: string, name: DocumentName): Promise<void> =>
  atOnce(lectureId, async () => {
    const id = documentId(lectureId, name)
    await db.steps.where('documentId').equals(id).delete()
    await db.documents.delete(id)
  })

/** Removes all documents of a lecture with their histories. May be called inside a change of it. */
export const deleteDocuments = (lectureId: string): Promise<void> =>
  atOnce(lectureId, async () => {
    for (const { id } of await db.documents.where('lectureId').equals(lectureId).toArray())
      await db.steps.where('documentId').equals(id).delete()
    await db.documents.where('lectureId').equals(lectureId).delete()
  })
