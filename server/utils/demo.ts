/** Puts the demo term's publications into a storage that has none, from the folder THAW_DEMO_FILES. */
import { createStorage } from 'unstorage'
import fsDriver from 'unstorage/drivers/fs'
import { shiftWeeks, weeksSince } from '#core/course/shift'
import { DEMO_ANCHOR } from '#core/schema/demo'
import { store } from './storage'

/** Parts of published files; everything else is JSON. */
const isPart = /:(media\.mp4|captions\.vtt):\d+$/
/** Rooms whose items are dated: they are laid around the present week, as the author's browser does with its own. */
const isDated = /^(places|site|responses):/

export async function plantDemo(): Promise<void> {
  const folder = process.env.THAW_DEMO_FILES
  if (!folder || (await store().hasItem('demo'))) return
  const shipped = createStorage({ driver: fsDriver({ base: folder }) })
  const weeks = weeksSince(DEMO_ANCHOR, Date.now())
  for (const key of await shipped.getKeys()) {
    if (isPart.test(key)) await store().setItemRaw(key, await shipped.getItemRaw(key))
    else await store().setItem(key, shiftWeeks(await shipped.getItem(key), isDated.test(key) ? weeks : 0))
  }
  await store().setItem('demo', { plantedAt: new Date().toISOString() })
}
