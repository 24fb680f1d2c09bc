import fsDriver from 'unstorage/drivers/fs'
import memoryDriver from 'unstorage/drivers/memory'
import { sweepUploads } from '../utils/publications'
import { plantDemo } from '../utils/demo'

/**
 * Mounts the storage that everything on the server goes through. Files below THAW_DATA by default;
 * THAW_STORAGE=memory keeps nothing. Another unstorage driver is one more line here.
 */
export default defineNitroPlugin(async () => {
  const kind = process.env.THAW_STORAGE ?? 'fs'
  const base = process.env.THAW_DATA ?? './.data'
  const drivers: Record<string, () => Parameters<ReturnType<typeof useStorage>['mount']>[1]> = {
    fs: () => fsDriver({ base }),
    memory: () => memoryDriver(),
  }
  const make = drivers[kind]
  if (!make) throw new Error(`THAW_STORAGE is “${kind}”; it can be ${Object.keys(drivers).join(' or ')}.`)
  useStorage().mount('thaw', make())
  await sweepUploads()
  await plantDemo()
})
