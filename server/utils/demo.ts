/** Puts the demo term's publications into a storage that has none, from the files that ship with the app. */
import { shiftWeeks, weeksSince } from '#core/course/shift'
import { DEMO_ANCHOR } from '#core/schema/demo'
import { store } from './storage'

export async function plantDemo(): Promise<void> {
  if (process.env.THAW_DEMO === 'off' || (await store().hasItem('demo'))) return
  const shipped = useStorage('assets:demo')
  for (const key of await shipped.getKeys()) {
    if (/^(places|site|responses)[:/]/.test(key)) {
      // Dated items are laid around the present week, as the author's browser does with its own.
      await store().setItem(key, shiftWeeks(await shipped.getItem(key), weeksSince(DEMO_ANCHOR, Date.now())))
      continue
    }
    const data = await shipped.getItemRaw<Uint8Array>(key)
    if (data) await store().setItemRaw(key, Buffer.from(data))
  }
  await store().setItem('demo', { plantedAt: new Date().toISOString() })
}
