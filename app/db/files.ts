/** Files as rows of bytes. Reading gives a Blob over the rows, which the browser keeps on disk. */
import { db, type FileRow } from './database'

/** Bytes per row for a file that is stored whole. */
const ROW = 8 << 20

/** Storage that is full, said so that a person can act. */
export class StorageFull extends Error {
  override name = 'StorageFull'
  constructor() {
    super(
      'The browser’s storage is full. What was kept before is safe; delete a lecture you no longer need, or free some disk, and try again.',
    )
  }
}

/** Runs a write and turns a quota error into a sentence. */
export async function storing<T>(write: () => Promise<T>): Promise<T> {
  try {
    return await write()
  } catch (error) {
    if (error instanceof Error && (error.name === 'QuotaExceededError' || /quota/i.test(error.message)))
      throw new StorageFull()
    throw error
  }
}

/** Appends bytes to a file that is being recorded. */
export async function appendChunk(fileId: string, seq: number, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
  const write = () => storing(() => db.chunks.put({ fileId, seq, bytes: new Blob([bytes]) }))
  try {
    await write()
  } catch (error) {
    if (!(error instanceof StorageFull)) throw error
    // The moment may be one in which the room that is left is measured; that is over at once.
    await new Promise((resolve) => setTimeout(resolve, 100))
    await write()
  }
}

/** Files that are read where they are while they are copied, in this tab. */
const lent = new Map<string, Blob>()

/** Has a file read where it is, until it is given back. */
export function lend(fileId: string, data: Blob): void {
  lent.set(fileId, data)
}
export function giveBack(fileId: string): void {
  lent.delete(fileId)
}

/**
 * Stores a whole file row by row; on any failure nothing of it stays.
 * @param signal stops it, which is such a failure
 */
export async function storeFile(
  file: FileRow,
  data: Blob,
  onProgress: (share: number) => void,
  signal?: AbortSignal,
): Promise<void> {
  try {
    for (let seq = 0, at = 0; at < data.size; seq++, at += ROW) {
      signal?.throwIfAborted()
      // Slices are read into memory one at a time: a Blob that points into a file the user may delete is not kept.
      const bytes = new Blob([await data.slice(at, at + ROW).arrayBuffer()])
      await storing(() => db.chunks.put({ fileId: file.id, seq, bytes }))
      onProgress(Math.min(1, (at + ROW) / data.size))
    }
    signal?.throwIfAborted()
    await db.files.put(file)
  } catch (error) {
    await removeFile(file.id)
    throw error
  }
}

/** A whole file as one Blob; null when it is not there, or not all of it yet. */
export async function readFile(fileId: string): Promise<Blob | null> {
  const here = lent.get(fileId)
  if (here) return here
  const row = await db.files.get(fileId)
  return row ? readChunks(fileId, row.type) : null
}

/** What there is of a file that is, or was, recorded as it came; null when there is nothing. */
export async function readChunks(fileId: string, type = ''): Promise<Blob | null> {
  const rows = await db.chunks.where('fileId').equals(fileId).sortBy('seq')
  if (rows.length === 0) return null
  return new Blob(
    rows.map((r) => r.bytes),
    { type },
  )
}

/** Removes those of some files that no take and no edit has: what a job left that was cut off. */
export async function removeUnused(fileIds: readonly string[]): Promise<void> {
  if (fileIds.length === 0) return
  await db.transaction('rw', db.takes, db.assets, db.chunks, db.files, async () => {
    const takes = await db.takes.filter((t) => t.feeds.some((f) => fileIds.includes(f.fileId))).toArray()
    const used = new Set(takes.flatMap((t) => t.feeds.map((f) => f.fileId)))
    for (const id of fileIds) if (!used.has(id) && !(await db.assets.get(id))) await removeFile(id)
  })
}

export async function removeFile(fileId: string): Promise<void> {
  await db.transaction('rw', db.chunks, db.files, async () => {
    await db.chunks.where('fileId').equals(fileId).delete()
    await db.files.delete(fileId)
  })
}
