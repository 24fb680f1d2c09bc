import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { db } from '~/db/database'
import { JobCancelled, useJobs, type JobContext } from './jobs'

const ended = vi.fn()
vi.mock('~/services/media-worker', () => ({
  startMediaWorker: () => ({ engine: {}, failed: new Promise(() => undefined), end: () => ended() }),
}))
const swept: string[] = []
vi.mock('#media/store', () => ({ removeScratch: async (name: string) => void swept.push(name) }))

/** Names of locks that are held. */
const held = new Set<string>()
const locks = {
  async request(name: string, ...rest: unknown[]) {
    const act = rest.at(-1) as (lock: object | null) => unknown
    const isFree = !held.has(name)
    if (!isFree && (rest[0] as { ifAvailable?: boolean }).ifAvailable) return act(null)
    held.add(name)
    try {
      return await act({})
    } finally {
      if (isFree) held.delete(name)
    }
  },
}

const only = async () => (await db.jobs.toArray())[0]!
const start = (run: (context: JobContext) => Promise<unknown>, more = {}) =>
  useJobs().start('publish', 'l', 'Publishing', run, more)

beforeEach(async () => {
  await db.delete()
  await db.open()
  ended.mockClear()
  swept.length = 0
  held.clear()
  vi.stubGlobal('navigator', { locks })
  setActivePinia(createPinia())
})
afterEach(() => vi.unstubAllGlobals())

describe('a job', () => {
  it('writes its progress now and then, however often it is told, and the last of it at the end', async () => {
    let writes = 0
    db.jobs.hook('updating', () => void writes++)
    const given = await start(async ({ progress }) => {
      for (let packet = 0; packet < 2000; packet++) progress(packet / 2000, `Packet ${packet}`)
      await vi.waitFor(async () => expect((await only()).says).toMatch(/^Packet/))
      progress(0.5, 'Almost there')
      return 7
    })
    expect(given).toBe(7)
    expect(await only()).toMatchObject({ state: 'done', progress: 1, says: 'Almost there' })
    // What waited to be written has been.
    await new Promise((resolve) => setTimeout(resolve, 400))
    expect(await only()).toMatchObject({ state: 'done', progress: 1, says: 'Almost there' })
    expect(writes).toBeLessThan(5)
    expect(ended).toHaveBeenCalledOnce()
    expect(swept).toEqual([`job-${(await only()).id}`])
  })

  it('that fails says why, and what it had named and nobody has is removed', async () => {
    const failing = start(async ({ holds, progress }) => {
      await db.files.put({ id: 'f', name: 'part', type: 'video/mp4', size: 1 } as never)
      await holds(['f'])
      progress(0.4, 'Rendering')
      throw new Error('The disk is full.')
    })
    await expect(failing).rejects.toThrow('The disk is full.')
    expect(await only()).toMatchObject({ state: 'failed', progress: 0.4, says: 'The disk is full.' })
    expect(await db.files.count()).toBe(0)
    expect(ended).toHaveBeenCalledOnce()
  })

  it('is cancelled at once, keeping how far it was, unless it cannot be any more', async () => {
    const cancelled = start(async ({ progress }) => {
      progress(0.3, 'Rendering')
      await new Promise(() => undefined)
    })
    await vi.waitFor(async () => expect((await only())?.progress).toBe(0.3))
    await useJobs().cancel((await only()).id)
    await expect(cancelled).rejects.toBeInstanceOf(JobCancelled)
    expect(await only()).toMatchObject({ state: 'cancelled', progress: 0.3, says: 'Rendering' })

    await db.jobs.clear()
    let end: () => void = () => undefined
    const final = start(async ({ noReturn }) => {
      noReturn()
      await new Promise<void>((resolve) => (end = resolve))
    })
    await vi.waitFor(async () => expect((await only())?.state).toBe('running'))
    await useJobs().cancel((await only()).id)
    end()
    await final
    expect((await only()).state).toBe('done')
  })

  it('takes the place of one that was cut off, once', async () => {
    const row = {
      ...{ id: 'old', lectureId: 'l', kind: 'publish', state: 'running', progress: 0.2, says: 'Rendering' },
      startedAt: '2026-11-23T09:00:00Z',
    } as const
    await db.jobs.put(row as never)
    await start(async () => undefined, { replaces: 'old' })
    expect(await db.jobs.get('old')).toMatchObject({ state: 'failed', says: expect.stringContaining('started again') })
    await expect(start(async () => undefined, { replaces: 'old' })).rejects.toBeInstanceOf(JobCancelled)
    expect(await db.jobs.count()).toBe(2)
  })

  it('that a closed page cut off is told at the next start; one that runs is left alone', async () => {
    const row = {
      ...{ lectureId: 'l', kind: 'publish', state: 'running', progress: 0.2, says: 'Rendering' },
      startedAt: '2026-11-23T09:00:00Z',
    }
    await db.jobs.bulkPut([
      { ...row, id: 'lost' },
      { ...row, id: 'again', restart: { kind: 'settle' } },
      { ...row, id: 'alive' },
    ] as never)
    held.add('job-alive')
    expect((await useJobs().tidyUp()).map((j) => j.id)).toEqual(['again'])
    expect(await db.jobs.get('lost')).toMatchObject({
      state: 'failed',
      says: expect.stringContaining('start it again'),
    })
    expect(await db.jobs.get('alive')).toMatchObject({ state: 'running' })
    expect(swept.sort()).toEqual(['job-again', 'job-lost'])
  })
})
