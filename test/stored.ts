/** What the browser's database holds, read and written past the application, for what no screen shows. */
import type { Conflict } from '#core/documents/change'
import { documentId, type Documents, type Kind } from '#core/documents/kinds'
import type { Page } from 'puppeteer-core'

/** All rows of a table, of the demo or of one's own library. */
export const stored = <T>(page: Page, table: string, library: 'demo' | 'own' = 'demo'): Promise<T[]> =>
  page.evaluate(
    async (name, database) => {
      const open = indexedDB.open(database)
      const db = await new Promise<IDBDatabase>((resolve, reject) => {
        open.onsuccess = () => resolve(open.result)
        open.onerror = () => reject(open.error)
      })
      const all = await new Promise<unknown[]>((resolve, reject) => {
        const request = db.transaction(name).objectStore(name).getAll()
        request.onsuccess = () => resolve(request.result)
        request.onerror = () => reject(request.error)
      })
      db.close()
      return all
    },
    table,
    `thaw-${library}`,
  ) as Promise<T[]>

/** Puts a row of plain data into a table. */
export const store = (page: Page, table: string, row: object, library: 'demo' | 'own' = 'demo'): Promise<void> =>
  page.evaluate(
    async (name, what, database) => {
      const open = indexedDB.open(database)
      const db = await new Promise<IDBDatabase>((resolve, reject) => {
        open.onsuccess = () => resolve(open.result)
        open.onerror = () => reject(open.error)
      })
      const transaction = db.transaction(name, 'readwrite')
      transaction.objectStore(name).put(what)
      await new Promise((resolve, reject) => {
        transaction.oncomplete = resolve
        transaction.onabort = () => reject(transaction.error)
      })
      db.close()
    },
    table,
    row,
    `thaw-${library}`,
  )

/** A file as its rows end to end. */
export const storedFile = async (page: Page, fileId: string): Promise<Buffer> =>
  Buffer.from(
    await page.evaluate(async (id) => {
      const open = indexedDB.open('thaw-demo')
      const db = await new Promise<IDBDatabase>((resolve, reject) => {
        open.onsuccess = () => resolve(open.result)
        open.onerror = () => reject(open.error)
      })
      const rows = await new Promise<{ seq: number; bytes: Blob }[]>((resolve, reject) => {
        const request = db.transaction('chunks').objectStore('chunks').index('fileId').getAll(id)
        request.onsuccess = () => resolve(request.result as { seq: number; bytes: Blob }[])
        request.onerror = () => reject(request.error)
      })
      db.close()
      const bytes = new Uint8Array(await new Blob(rows.sort((a, b) => a.seq - b.seq).map((r) => r.bytes)).arrayBuffer())
      let text = ''
      for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192))
      return btoa(text)
    }, fileId),
    'base64',
  )

/** A document of a lecture as it is kept, with how much of its history holds. */
export async function storedDocument<K extends Kind>(
  page: Page,
  lectureId: string,
  kind: K,
): Promise<{ document: Documents[K]; applied: number; conflicts: Conflict[] } | undefined> {
  const rows = await stored<{ id: string; document: Documents[K]; applied: number; conflicts: Conflict[] }>(
    page,
    'documents',
  )
  return rows.find((row) => row.id === documentId(lectureId, kind))
}
