/** Where the stand-ins keep their documents: a folder with a file of JSON for each, replaced whole or not at all. */
import { randomBytes } from 'node:crypto'
import { mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Static, TSchema } from '@sinclair/typebox'
import { parseAs } from '../core/schema/validate'

/** Replaces a file, whole or not at all. */
export async function putFile(file: string, text: string): Promise<void> {
  const part = `${file}.${randomBytes(4).toString('hex')}.part`
  await writeFile(part, text, { mode: 0o600 })
  await rename(part, file)
}

/** The text of a file; null when there is none. */
export async function fileText(file: string): Promise<string | null> {
  try {
    return await readFile(file, 'utf8')
  } catch (error) {
    if ((error as { code?: string }).code === 'ENOENT') return null
    throw error
  }
}

/** A secret that is made once and kept in a file of its own. */
export async function keptSecret(file: string): Promise<string> {
  const kept = await fileText(file)
  if (kept) return kept
  const made = randomBytes(24).toString('base64url')
  await putFile(file, made)
  return made
}

export interface Documents<T> {
  read(id: string): Promise<T | null>
  write(id: string, document: T): Promise<void>
  remove(id: string): Promise<void>
  ids(): Promise<string[]>
}

/** @param folder made when it is not there, and read by nobody else on the machine */
export async function documents<S extends TSchema>(folder: string, schema: S): Promise<Documents<Static<S>>> {
  await mkdir(folder, { recursive: true, mode: 0o700 })
  const fileOf = (id: string) => join(folder, `${id}.json`)
  return {
    async read(id) {
      const text = await fileText(fileOf(id))
      return text === null ? null : parseAs(schema, JSON.parse(text), 'document')
    },
    write: (id, document) => putFile(fileOf(id), JSON.stringify(document)),
    remove: (id) => rm(fileOf(id), { force: true }),
    ids: async () => (await readdir(folder)).filter((name) => name.endsWith('.json')).map((name) => name.slice(0, -5)),
  }
}
