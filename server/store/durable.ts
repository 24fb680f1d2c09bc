/**
 * Files that are on the disk when it is said so: written beside, flushed, renamed, and the folder flushed, so that a
 * kill or a full disk leaves the old file or the new one. (Packages that do this take a short write for a whole one
 * when the disk is full.)
 */
import { randomUUID } from 'node:crypto'
import { link, mkdir, open, rename, rm, rmdir, unlink } from 'node:fs/promises'
import { dirname, join } from 'node:path'

/** Nobody but the server's own account reads what it keeps: secrets, keys and what students answered. */
export const FILE_MODE = 0o600
const FOLDER_MODE = 0o700

/** What a killed process leaves of a write; removed at the next start. */
export const UNFINISHED = '.unfinished'

const codeOf = (error: unknown) => (error as NodeJS.ErrnoException).code

/** What `read` gives, or null when there is no such file. */
export async function ifThere<T>(read: Promise<T>): Promise<T | null> {
  try {
    return await read
  } catch (error) {
    if (codeOf(error) === 'ENOENT' || codeOf(error) === 'ENOTDIR') return null
    throw error
  }
}

/** Flushes asked for while one is under way share the next one. */
const waiting = new Map<string, Promise<void>>()
const underWay = new Map<string, Promise<void>>()

async function flushNow(path: string): Promise<void> {
  const folder = await open(path)
  try {
    await folder.sync()
  } finally {
    await folder.close()
  }
}

/** Flushes a folder's list of names. */
export function syncFolder(path: string): Promise<void> {
  const next = waiting.get(path)
  if (next) return next
  const before = underWay.get(path) ?? Promise.resolve()
  const mine = before
    .catch(() => undefined)
    .then(() => {
      waiting.delete(path)
      underWay.set(path, mine)
      return flushNow(path)
    })
    .finally(() => {
      if (underWay.get(path) === mine) underWay.delete(path)
    })
  waiting.set(path, mine)
  return mine
}

/** Makes a folder with those above it. */
export async function makeFolder(path: string): Promise<void> {
  const first = await mkdir(path, { recursive: true, mode: FOLDER_MODE })
  if (!first) return
  for (let at = path; at.length >= first.length; at = dirname(at)) await syncFolder(dirname(at))
}

/** Writes it under another name in the same folder. @returns that name's path */
async function writeBeside(path: string, data: string | Uint8Array): Promise<string> {
  await makeFolder(dirname(path))
  const beside = `${path}.${randomUUID()}${UNFINISHED}`
  try {
    const file = await open(beside, 'wx', FILE_MODE)
    try {
      await file.writeFile(data)
      await file.sync()
    } finally {
      await file.close()
    }
    return beside
  } catch (error) {
    await rm(beside, { force: true })
    throw error
  }
}

/** Replaces a file, or makes it. */
export async function replaceFile(path: string, data: string | Uint8Array): Promise<void> {
  const beside = await writeBeside(path, data)
  try {
    await rename(beside, path)
  } catch (error) {
    await rm(beside, { force: true })
    throw error
  }
  await syncFolder(dirname(path))
}

/** Makes a file. @returns false when there is one, which then stays as it is */
export async function createFile(path: string, data: string | Uint8Array): Promise<boolean> {
  const beside = await writeBeside(path, data)
  try {
    await link(beside, path)
  } catch (error) {
    if (codeOf(error) === 'EEXIST') return false
    throw error
  } finally {
    await rm(beside, { force: true })
  }
  await syncFolder(dirname(path))
  return true
}

/** Removes a file; none being there is fine. */
export async function removeFile(path: string): Promise<void> {
  if ((await ifThere(unlink(path))) !== null) await ifThere(syncFolder(dirname(path)))
}

/** Removes a folder in which nothing is. @returns whether it did */
export async function removeWhenEmpty(path: string): Promise<boolean> {
  try {
    await rmdir(path)
    return true
  } catch (error) {
    if (['ENOENT', 'ENOTEMPTY', 'EEXIST'].includes(codeOf(error) ?? '')) return false
    throw error
  }
}

/** Path of something that is to be moved aside, which no other file has. */
export const asideName = (folder: string, name: string): string => join(folder, `${name}.${randomUUID().slice(0, 8)}`)
