import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it } from 'vitest'
import { db } from '~/db/database'
import { newInput } from '#core/record/inputs'
import type { Setup } from '#core/schema/setup'
import { deleteSetup, keepSetup, loadSetups, makeUsual } from './setups'

const setup = (id: string, name: string): Setup => ({
  format: 'thaw-setup',
  version: 1,
  id,
  name,
  inputs: [newInput('m', 'microphone', [])],
  countdown: 3,
})

beforeEach(async () => {
  await Promise.all([db.setups.clear(), db.settings.clear()])
})

describe('setups', () => {
  it('are kept and come by name', async () => {
    await keepSetup(setup('b', 'Upstairs'))
    await keepSetup(setup('a', 'Hall'))
    expect((await loadSetups()).setups.map((s) => s.name)).toEqual(['Hall', 'Upstairs'])
  })
  it('of the same name are replaced, and stay what opens the room', async () => {
    const first = await keepSetup(setup('a', 'Hall'))
    await makeUsual(first.id)
    await keepSetup({ ...setup('b', 'Hall'), countdown: 5 })
    expect(await loadSetups()).toMatchObject({ usual: 'a', setups: [{ id: 'a', countdown: 5 }] })
  })
  it('that are deleted do not open the room any more', async () => {
    await keepSetup(setup('a', 'Hall'))
    await makeUsual('a')
    await deleteSetup('a')
    expect(await loadSetups()).toEqual({ usual: '', setups: [], broken: [] })
  })
  it('that are broken are named, not half used', async () => {
    await db.setups.put({ ...setup('a', 'Hall'), countdown: -1 })
    await keepSetup(setup('c', 'Upstairs'))
    const { setups, broken } = await loadSetups()
    expect(setups.map((s) => s.id)).toEqual(['c'])
    expect(broken).toEqual([expect.stringMatching(/^This setup cannot be used: .*countdown/)])
    await expect(keepSetup({ ...setup('b', ''), inputs: [] })).rejects.toThrow(/cannot be used/)
  })
})
