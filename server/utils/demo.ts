/** Puts the demo term's publications into a storage that has none, from the folder THAW_DEMO_FILES. */
import { createStorage } from 'unstorage'
import fsDriver from 'unstorage/drivers/fs'
import { shiftWeeks, weeksSince } from '#core/course/shift'
import { DEMO_ANCHOR } from '#core/schema/demo'
import { store } from './storage'

/** Rooms whose items are dated: they are laid around the present week, as the author's browser does with its own. */
const dated = /^(places|site|responses):/

export async function plantDemo(): Promise<void> {
  const folder = process.env.THAW_DEMO_FILES
  if (!folder || (await store().hasItem('demo'))) return
  const shipped = createStorage({ driver: fsDriver({ base: folder }) })
  const weeks = weeksSince(DEMO_ANCHOR, Date.now())
  for (const key of await shipped.getKeys()) {
    if (dated.test(key)) await store().setItem(key, shiftWeeks(await shipped.getItem(key), weeks))
    else await store().setItemRaw(key, await shipped.getItemRaw(key))
  }
  await store().setItem('demo', { plantedAt: new Date().toISOString() })
}
