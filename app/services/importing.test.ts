import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { apply } from '#core/edit/edit'
import type { Take } from '#core/schema/lecture'
import { recorded } from '#core/time/units'
import { db } from '~/db/database'
import { readFile } from '~/db/files'
import type { JobContext } from '~/stores/jobs'
import { documentRow, storeDocument } from './documents'
import { bringIn } from './importing'
import { createLecture, deleteLecture } from './lectures'
import { recoverTakes } from './takes'

let id: string
/** Copies under way, by the names of their files: the test says when a row is written. */
let hold: (() => Promise<void>) | null
const film = (name = 'film.mp4', bytes = 20 << 20) => new File([new Uint8Array(bytes)], name, { type: 'video/mp4' })
const found = {
  type: 'video/mp4',
  duration: 60,
  statesDuration: true,
  remarks: [],
  picture: { width: 64, height: 36, frameRate: 25 },
  sound: { codec: 'aac' },
}
/** Jobs whose engine finds the film above; analysis is only written down. */
function jobs(abort = new AbortController()) {
  const started: string[] = []
  const ended: Promise<unknown>[] = []
  const start = async (kind: string, _of: string, _says: string, run: (context: JobContext) => Promise<unknown>) => {
    started.push(kind)
    if (kind !== 'import') return
    const engine = { probe: () => Promise.resolve(found), coarsePeaks: () => Promise.resolve(null) }
    const running = run({
      engine,
      scratch: 's',
      progress: () => undefined,
      signal: abort.signal,
    } as unknown as JobContext)
    ended.push(running.catch(() => undefined))
    return running
  }
  const over = async () => {
    while (ended.length === 0) await new Promise((resolve) => setTimeout(resolve))
    await ended[0]
  }
  return { store: { start } as unknown as Parameters<typeof bringIn>[2], started, abort, over }
}
const take = async () => (await db.takes.toArray())[0] as Take

beforeEach(async () => {
  vi.restoreAllMocks()
  vi.stubGlobal('addEventListener', () => undefined)
  vi.stubGlobal('removeEventListener', () => undefined)
  const request = (...more: unknown[]) => Promise.resolve((more.at(-1) as (lock: object) => unknown)({}))
  vi.stubGlobal('navigator', { locks: { request } })
  await Promise.all(db.tables.map((t) => t.clear()))
  id = await createLecture('c', 1, 'Ice')
  hold = null
  const put = db.chunks.put.bind(db.chunks)
  vi.spyOn(db.chunks, 'put').mockImplementation((async (chunk: never) => {
    await hold?.()
    return put(chunk)
  }) as never)
})

describe('a file that is brought in', () => {
  it('can be used before it is copied, and is looked through meanwhile', async () => {
    let go: () => void = () => undefined
    const gate = new Promise<void>((resolve) => (go = resolve))
    hold = () => gate
    const { store, started, over } = jobs()
    const file = film()
    expect(await bringIn(file, id, store)).toBe('')
    const { state, feeds, source } = await take()
    expect([state, source, started]).toEqual(['whole', { name: 'film.mp4', size: file.size }, ['import', 'analyse']])
    expect(await readFile(feeds[0]!.fileId)).toBe(file)
    expect((await documentRow(id, 'edit'))?.document.duration).toBe(60)
    go()
    await over()
    const stored = await readFile(feeds[0]!.fileId)
    expect([stored?.size, stored === file, (await take()).state]).toEqual([file.size, false, 'whole'])
  })

  it.each([
    ['the disk is full', () => Promise.reject(new DOMException('no', 'QuotaExceededError')), 'storage is full'],
    ['it is stopped', null, 'Copying was stopped.'],
  ])('waits to be brought in again when %s, and so does what was done to it', async (_, fail, says) => {
    const first = jobs()
    let n = 0
    hold = () => {
      if (++n < 2) return Promise.resolve()
      if (fail) return fail()
      first.abort.abort()
      return Promise.resolve()
    }
    await bringIn(film(), id, first.store)
    const cut = { do: 'remove' as const, id: 'cut', from: recorded(5), to: recorded(9) }
    const edit = (await documentRow(id, 'edit'))!.document
    await storeDocument(id, 'edit', edit, apply(edit, cut), { says: 'Took out' })
    await first.over()
    const broken = await take()
    expect(broken.state).toBe('broken')
    expect(broken.note).toContain(says)
    expect(broken.note).toContain('Bring “film.mp4” in again')
    expect([await db.chunks.count(), await db.files.count()]).toEqual([0, 0])
    hold = null
    // Another file is another take; this very one goes on.
    const again = jobs()
    await bringIn(film(), id, again.store)
    await again.over()
    expect(await db.takes.count()).toBe(1)
    expect(await take()).toMatchObject({ id: broken.id, state: 'whole', note: '' })
    expect((await documentRow(id, 'edit'))?.document.removed.map((r) => r.id)).toEqual(['cut'])
    expect((await readFile((await take()).feeds[0]!.fileId))?.size).toBe(20 << 20)
  })

  it('is named at the next start when the page was closed before it was copied', async () => {
    const { store, over } = jobs()
    await bringIn(film(), id, store)
    await over()
    // As a kill leaves it: some of its rows, and no word that it is whole.
    await db.files.clear()
    await db.chunks.filter((c) => c.seq > 0).delete()
    await recoverTakes(jobs().store, () => undefined)
    expect(await take()).toMatchObject({ state: 'broken', note: expect.stringContaining('page was closed') as string })
    expect(await db.chunks.count()).toBe(0)
  })

  it('leaves nothing when its lecture is deleted meanwhile', async () => {
    const { store, abort, over } = jobs()
    let n = 0
    hold = async () => {
      if (++n !== 2) return
      abort.abort()
      await deleteLecture(id)
    }
    await bringIn(film(), id, store)
    await over()
    expect([await db.takes.count(), await db.chunks.count(), await db.files.count()]).toEqual([0, 0, 0])
  })
})
