import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it } from 'vitest'
import { editTimeMap, newEdit } from '#core/edit/edit'
import { DEFAULT_POLICY } from '#core/questions/policy'
import { policyPresets } from '#core/questions/policy-presets'
import { newQuestionSet } from '#core/questions/set'
import { recorded } from '#core/time/units'
import { db } from '~/db/database'
import { oneRight } from '../../test/questions'
import { documentRow, storeDocument } from './documents'
import { loadParts } from './cards'
import { projectSets } from './publishing'
import { addSet, copySet, deletePolicy, deleteSet, keepPolicy, loadPolicies, publishedSetId } from './question-sets'

const set = {
  ...newQuestionSet('On ice'),
  checkpoints: [3, 50].map((at, i) => ({ id: `c${i}`, at: recorded(at), questions: [oneRight(`q${i}`)] })),
}
beforeEach(async () => {
  await db.delete()
  await db.open()
  for (const id of ['l', 'm'])
    await db.lectures.put({
      id,
      courseId: 'c',
      week: 1,
      title: id,
      description: '',
      createdAt: '2026-11-23T00:00:00.000Z',
    })
  await storeDocument('l', 'questions', null, set, { says: '' })
})

describe('sets of questions', () => {
  it('are begun beside one another, and one goes without the others', async () => {
    const name = await addSet('l', 'For those who want more')
    expect(name).not.toBe('questions')
    expect((await documentRow('l', name))?.document).toMatchObject({
      title: 'For those who want more',
      checkpoints: [],
    })
    expect(await addSet('m', 'First')).toBe('questions')
    await deleteSet('l', name)
    expect(await documentRow('l', name)).toBeUndefined()
    expect((await documentRow('l', 'questions'))?.document.title).toBe('On ice')
  })
  it('go out empty once they are deleted, so that they ask nothing more', async () => {
    const name = await addSet('l', 'More')
    const id = publishedSetId('l', name)
    const out = async () => {
      const parts = await loadParts('l')
      const release = { asked: { [publishedSetId('l', 'questions')]: 'v1', [id]: 'v2' } }
      const sets = projectSets({ ...parts!, release: release as never }, 'l', editTimeMap(newEdit(recorded(60), 25)))
      return sets.map(({ set }) => [set.id, set.checkpoints.length])
    }
    expect(await out()).toEqual([
      ['l-questions', 2],
      [id, 0],
    ])
    await deleteSet('l', 'questions')
    await deleteSet('l', name)
    expect((await out()).sort()).toEqual(
      [
        ['l-questions', 0],
        [id, 0],
      ].sort(),
    )
  })
  it('are copied to another lecture under ids of their own, what is too late to its end', async () => {
    await expect(copySet('l', 'questions', 'm')).rejects.toThrow(/no recording yet/)
    await storeDocument('m', 'edit', null, newEdit(recorded(20), 25), { says: '' })
    expect(await copySet('l', 'questions', 'm')).toBe(1)
    expect(await copySet('l', 'questions', 'm')).toBe(1)
    const rows = (await db.documents.where('lectureId').equals('m').toArray()).filter((r) => r.kind === 'questions')
    expect(rows).toHaveLength(2)
    const [copy] = rows.map((r) => r.document as typeof set)
    expect(copy?.checkpoints.map((c) => c.at)).toEqual([3, 19.9])
    const ids = (s: typeof set) => s.checkpoints.flatMap((c) => [c.id, ...c.questions.map((q) => q.open.id)])
    expect(ids(copy!).filter((id) => ids(set).includes(id))).toEqual([])
    await expect(copySet('l', 'questions-gone', 'm')).rejects.toThrow(/not there any more/)
  })
})

describe('policies', () => {
  it('are those that come with Thaw and those that were kept, one by a name', async () => {
    const { welcome: _, ...rules } = DEFAULT_POLICY
    await keepPolicy('My own', { ...rules, ahead: false })
    await keepPolicy('My own', { ...rules, putOff: false })
    const all = await loadPolicies()
    expect(all).toHaveLength(policyPresets.length + 1)
    expect(all.at(-1)).toMatchObject({ name: 'My own', own: true, rules: { ahead: true, putOff: false } })
    await deletePolicy(all.at(-1)!.id)
    expect(await loadPolicies()).toHaveLength(policyPresets.length)
  })
})
