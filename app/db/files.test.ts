import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { db } from './database'
import { appendChunk, giveBack, lend, readChunks, readFile, removeFile, storeFile, StorageFull } from './files'

const row = (id: string, size: number) => ({ id, type: 'video/mp4', name: `${id}.mp4`, size })
const bytes = (...n: number[]) => new Uint8Array(n)

beforeEach(async () => {
  vi.restoreAllMocks()
  await Promise.all([db.chunks.clear(), db.files.clear()])
})

describe('files in rows', () => {
  it('are put together in their order, however many rows there are', async () => {
    for (const seq of [2, 10, 0, 1]) await appendChunk('rec', seq, bytes(seq))
    expect([...new Uint8Array(await (await readChunks('rec'))!.arrayBuffer())]).toEqual([0, 1, 2, 10])
    // It is not whole before it is said to be.
    expect(await readFile('rec')).toBeNull()
  })
  it('are stored in parts, with progress up to the end, and read back the same', async () => {
    const data = new Uint8Array(20 << 20).map((_, i) => i % 251)
    const shares: number[] = []
    await storeFile(row('big', data.length), new Blob([data]), (s) => shares.push(s))
    expect(await db.chunks.where('fileId').equals('big').count()).toBe(3)
    expect(shares.at(-1)).toBe(1)
    const back = await readFile('big')
    expect(back?.type).toBe('video/mp4')
    expect(Buffer.compare(Buffer.from(await back!.arrayBuffer()), Buffer.from(data))).toBe(0)
  })
  it('leave nothing behind when they cannot be stored whole, and say that storage is full', async () => {
    const put = db.chunks.put.bind(db.chunks)
    let n = 0
    vi.spyOn(db.chunks, 'put').mockImplementation(((chunk: never) =>
      ++n === 2 ? Promise.reject(new DOMException('no', 'QuotaExceededError')) : put(chunk)) as never)
    await expect(storeFile(row('half', 1), new Blob([new Uint8Array(9 << 20)]), () => undefined)).rejects.toThrow(
      StorageFull,
    )
    expect(await readFile('half')).toBeNull()
    expect(await db.files.count()).toBe(0)
  })
  it('are read where they are while they are copied, and leave nothing when that is stopped', async () => {
    const data = new Blob([new Uint8Array(20 << 20)])
    lend('slow', data)
    const abort = new AbortController()
    const copying = storeFile(row('slow', data.size), data, () => abort.abort(), abort.signal)
    expect(await readFile('slow')).toBe(data)
    await expect(copying).rejects.toThrow(/abort/i)
    giveBack('slow')
    expect([await readFile('slow'), await db.chunks.count()]).toEqual([null, 0])
  })
  it('other errors are not called a full disk', async () => {
    vi.spyOn(db.chunks, 'put').mockRejectedValue(new Error('broken'))
    await expect(appendChunk('x', 0, bytes(1))).rejects.toThrow('broken')
  })
  it('that are removed are gone, and the others are not', async () => {
    for (const id of ['a', 'b']) await storeFile(row(id, 1), new Blob(['x']), () => undefined)
    await removeFile('a')
    expect(await readFile('a')).toBeNull()
    expect(await readFile('b')).not.toBeNull()
  })
})
