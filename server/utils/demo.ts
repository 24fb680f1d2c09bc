/** Puts the demo term's publications into a storage that has none, from the files that ship with the app. */
import { store } from './storage'

export async function plantDemo(): Promise<void> {
  if (process.env.THAW_DEMO === 'off' || (await store().hasItem('demo'))) return
  const shipped = useStorage('assets:demo')
  for (const key of await shipped.getKeys()) {
    const data = await shipped.getItemRaw<Uint8Array>(key)
    if (data) await store().setItemRaw(key, Buffer.from(data))
  }
  await store().setItem('demo', { plantedAt: new Date().toISOString() })
}
