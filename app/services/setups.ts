/** Setups: recording settings kept under a name. */
import { db } from '~/db/database'
import { Setup } from '#core/schema/setup'
import { InvalidDocument, parseAs } from '#core/schema/validate'

const DEFAULT = 'default-setup'

/** All setups by name, which is the default, and a sentence for each that cannot be used. */
export async function loadSetups(): Promise<{ setups: Setup[]; usual: string; broken: string[] }> {
  const setups: Setup[] = []
  const broken: string[] = []
  for (const row of await db.setups.toArray())
    try {
      setups.push(parseAs(Setup, row, 'setup'))
    } catch (error) {
      if (!(error instanceof InvalidDocument)) throw error
      broken.push(error.message)
    }
  return {
    setups: setups.sort((a, b) => a.name.localeCompare(b.name)),
    usual: (await db.settings.get(DEFAULT))?.value ?? '',
    broken,
  }
}

/** Keeps a setup; one of the same name is replaced. */
export async function keepSetup(setup: Setup): Promise<Setup> {
  const checked = parseAs(Setup, structuredClone(setup), 'setup')
  return db.transaction('rw', db.setups, async () => {
    const same = (await db.setups.toArray()).find((s) => s.name === checked.name)
    const kept = { ...checked, id: same?.id ?? checked.id }
    await db.setups.put(kept)
    return kept
  })
}

export async function deleteSetup(id: string): Promise<void> {
  await db.transaction('rw', db.setups, db.settings, async () => {
    await db.setups.delete(id)
    if ((await db.settings.get(DEFAULT))?.value === id) await db.settings.delete(DEFAULT)
  })
}

/** Makes a setup the one that the room opens with; an empty id leaves the room as it comes. */
export const makeUsual = (id: string): Promise<unknown> =>
  id ? db.settings.put({ key: DEFAULT, value: id }) : db.settings.delete(DEFAULT)
