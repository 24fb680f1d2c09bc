/** A lecture's sets of questions: begun, deleted, copied to another lecture; and policies that are kept under a name. */
import { documentId, type DocumentName } from '#core/documents/kinds'
import { policyPresets, type PolicyRules } from '#core/questions/policy-presets'
import { picturesIn } from '#core/questions/pictures'
import { copyCheckpoint, newQuestionSet } from '#core/questions/set'
import { KeptPolicy } from '#core/schema/questions'
import { parseAs } from '#core/schema/validate'
import { recorded } from '#core/time/units'
import { db } from '~/db/database'
import { storing } from '~/db/files'
import { shareAssets } from './assets'
import { changeLecture } from './cards'
import { deleteDocument, documentRow, storeDocument } from './documents'
import { newId } from './ids'

export type SetName = DocumentName<'questions'>

const freeName = async (lectureId: string): Promise<SetName> =>
  (await documentRow(lectureId, 'questions')) ? `questions-${newId()}` : 'questions'

/** Begins a further set. @returns what it is called */
export const addSet = (lectureId: string, title: string): Promise<SetName> =>
  storing(() =>
    changeLecture(lectureId, async () => {
      const name = await freeName(lectureId)
      await storeDocument(lectureId, name, null, newQuestionSet(title), { says: `Began “${title}”` })
      return name
    }),
  )

/** Deletes a set with its history. Answers that were given to it stay. */
export const deleteSet = (lectureId: string, name: SetName): Promise<void> =>
  storing(() => deleteDocument(lectureId, name))

/**
 * Copies a set to another lecture, as one more of its own, with ids of its own. What is asked later than that lecture is
 * long is asked at its end.
 * @returns how many of its checkpoints had to be moved there
 * @throws {Error} with a sentence
 */
export async function copySet(lectureId: string, name: SetName, to: string): Promise<number> {
  const set = (await documentRow(lectureId, name))?.document
  if (!set) throw new Error('This set of questions is not there any more.')
  const length = (await documentRow(to, 'edit'))?.document.duration
  if (length === undefined) throw new Error('That lecture has no recording yet: record it first, or bring it in.')
  const most = recorded(Math.max(0, length - 0.1))
  const late = set.checkpoints.filter((c) => c.at > most).length
  const checkpoints = set.checkpoints.map((c) => {
    const copy = copyCheckpoint(c, newId)
    return c.at > most ? { ...copy, at: most } : copy
  })
  await storing(() =>
    changeLecture(to, async () => {
      await shareAssets(picturesIn(set), to)
      const into = await freeName(to)
      await storeDocument(
        to,
        into,
        null,
        { ...set, checkpoints },
        { says: `Copied “${set.title}” from another lecture` },
      )
    }),
  )
  return late
}

/** The id by which a set is published. */
export const publishedSetId = (lectureId: string, name: SetName): string => documentId(lectureId, name)

/** Policies that a person may choose from: those that come with Thaw, and those that were kept here. */
export async function loadPolicies(): Promise<
  { id: string; name: string; says: string; rules: PolicyRules; own: boolean }[]
> {
  const kept = (await db.policies.toArray()).map((row) => parseAs(KeptPolicy, row, 'policy'))
  return [
    ...policyPresets.map((p) => ({ ...p, own: false })),
    ...kept
      .sort((a, b) => a.name.localeCompare(b.name))
      .map(({ id, name, rules }) => ({ id, name, says: 'Kept by you.', rules, own: true })),
  ]
}

/** Keeps a policy; one of the same name is replaced. */
export async function keepPolicy(name: string, rules: PolicyRules): Promise<void> {
  await db.transaction('rw', db.policies, async () => {
    const same = (await db.policies.toArray()).find((p) => p.name === name)
    await db.policies.put(parseAs(KeptPolicy, structuredClone({ id: same?.id ?? newId(), name, rules }), 'policy'))
  })
}

export const deletePolicy = (id: string): Promise<void> => db.policies.delete(id)
