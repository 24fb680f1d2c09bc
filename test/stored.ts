/** What the browser's database holds, read and written past the application, for what no screen shows. */
import type { Page } from 'puppeteer-core'

/** All rows of a table. */
export const stored = <T>(page: Page, table: string): Promise<T[]> => page.evaluate(async (name) => {
  const open = indexedDB.open('thaw')
  const db = await new Promise<IDBDatabase>((resolve) => { open.onsuccess = () => resolve(open.result) })
  const all = await new Promise<unknown[]>((resolve) => {
    const request = db.transaction(name).objectStore(name).getAll()
    request.onsuccess = () => resolve(request.result)
  })
  db.close()
  return all
}, table) as Promise<T[]>

/** Puts a row of plain data into a table. */
export const store = (page: Page, table: string, row: object): Promise<void> => page.evaluate(async (name, what) => {
  const open = indexedDB.open('thaw')
  const db = await new Promise<IDBDatabase>((resolve) => { open.onsuccess = () => resolve(open.result) })
  const transaction = db.transaction(name, 'readwrite')
  transaction.objectStore(name).put(what)
  await new Promise((resolve) => { transaction.oncomplete = resolve })
  db.close()
}, table, row)
