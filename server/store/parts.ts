/**
 * Parts of media behind unstorage. The driver here keeps each as a file that is whole or not there, and reads ranges of
 * it; any other driver will do, as long as a write is whole when it is answered.
 */
import { open, readdir, readFile, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { defineDriver, type Driver, type Storage } from 'unstorage'
import { ifThere, removeFile, removeWhenEmpty, replaceFile, UNFINISHED } from './durable'
import type { Guard } from './epoch'
import type { Parts } from './store'

/** Asked of a driver with a read; one that does not know it gives the whole part. */
interface ReadOptions {
  range?: [from: number, to: number]
}

async function readRange(path: string, from: number, to: number): Promise<Uint8Array> {
  const file = await open(path)
  try {
    const bytes = Buffer.allocUnsafe(to - from + 1)
    let got = 0
    while (got < bytes.length) {
      const { bytesRead } = await file.read(bytes, got, bytes.length - got, from + got)
      if (bytesRead === 0) break
      got += bytesRead
    }
    return bytes.subarray(0, got)
  } finally {
    await file.close()
  }
}

/** Files below a folder; keys are paths whose steps are parted by colons. */
export const partsDriver = defineDriver((folder: string) => {
  const pathOf = (key: string) => join(folder, ...key.split(':').filter(Boolean))
  async function below(path: string, prefix: string): Promise<string[]> {
    const entries = (await ifThere(readdir(path, { withFileTypes: true }))) ?? []
    const found: string[] = []
    for (const entry of entries) {
      const key = prefix ? `${prefix}:${entry.name}` : entry.name
      if (entry.isDirectory()) for (const one of await below(join(path, entry.name), key)) found.push(one)
      else if (!entry.name.endsWith(UNFINISHED)) found.push(key)
    }
    return found
  }
  return {
    name: 'thaw-files',
    hasItem: async (key) => (await ifThere(stat(pathOf(key)))) !== null,
    getItem: (key) => ifThere(readFile(pathOf(key), 'utf8')),
    getItemRaw: (key, { range }: ReadOptions) =>
      ifThere(range ? readRange(pathOf(key), ...range) : readFile(pathOf(key))),
    setItem: (key, value) => replaceFile(pathOf(key), value),
    setItemRaw: (key, value: Uint8Array) => replaceFile(pathOf(key), value),
    async removeItem(key) {
      await removeFile(pathOf(key))
      for (let at = dirname(pathOf(key)); at.length > folder.length; at = dirname(at))
        if (!(await removeWhenEmpty(at))) break
    },
    getKeys: (base) => below(pathOf(base), base.split(':').filter(Boolean).join(':')),
    async getMeta(key) {
      const found = await ifThere(stat(pathOf(key)))
      return found && { size: found.size, mtime: found.mtime }
    },
  }
})

/** The driver that a setting names: the path of a module whose default export makes an unstorage driver. */
export async function driverOf(setting: string): Promise<Driver> {
  const made = (await import(/* @vite-ignore */ pathToFileURL(setting).href)) as { default?: unknown }
  if (typeof made.default !== 'function')
    throw new Error(`THAW_PARTS is “${setting}”: its default export has to make an unstorage driver.`)
  return (made.default as () => Driver)()
}

/** Parts that are removed side by side; they share the flush of their folder. */
const AT_ONCE = 32

const keyOf = (path: string) => path.replaceAll('/', ':')

/** @param guard called before anything is changed */
export function partsOver(storage: Storage, guard: Guard): Parts {
  const whole = async (path: string) => (await storage.getItemRaw<Uint8Array>(keyOf(path))) ?? null
  return {
    async write(path, bytes) {
      await guard()
      await storage.setItemRaw(keyOf(path), bytes)
    },
    async read(path, from, to) {
      if (from === undefined || to === undefined) return whole(path)
      const options: ReadOptions = { range: [from, to] }
      const bytes = (await storage.getItemRaw<Uint8Array>(keyOf(path), options)) ?? null
      return bytes && bytes.byteLength > to - from + 1 ? new Uint8Array(bytes).subarray(from, to + 1) : bytes
    },
    async size(path) {
      if (!(await storage.hasItem(keyOf(path)))) return null
      const { size } = await storage.getMeta(keyOf(path))
      return typeof size === 'number' ? size : ((await whole(path))?.byteLength ?? null)
    },
    async remove(path) {
      await guard()
      await storage.removeItem(keyOf(path))
    },
    async removeAll(path) {
      await guard()
      const keys = await storage.getKeys(keyOf(path))
      for (let at = 0; at < keys.length; at += AT_ONCE)
        await Promise.all(keys.slice(at, at + AT_ONCE).map((key) => storage.removeItem(key)))
    },
    async names(path) {
      const depth = path.split('/').length
      return [...new Set((await storage.getKeys(keyOf(path))).map((key) => key.split(':')[depth] ?? ''))].filter(
        Boolean,
      )
    },
  }
}

/** Removes what killed writes left below a folder. */
export async function removeUnfinished(folder: string): Promise<void> {
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true }))
    if (entry.isFile() && entry.name.endsWith(UNFINISHED)) await removeFile(join(entry.parentPath, entry.name))
}
