import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it } from 'vitest'
import { db } from '~/db/database'
import type { Take } from '#core/schema/lecture'
import { analyseNow, discardedTakes, discardTake, recoverTakes, takeOf } from './takes'

const take = (id: string, more: Partial<Take> = {}): Take => ({
  id, lectureId: `of-${id}`, state: 'whole', startedAt: '2026-11-23T09:00:00Z', duration: 10, pauses: [], note: '',
  feeds: [{ kind: 'sound', label: 'Microphone', fileId: `file-${id}`, offset: 0, duration: 10, width: 0, height: 0, frameRate: 0 }], ...more,
})
/** Jobs that only write down for which lectures they were started; the named ones go wrong. */
function jobs(...broken: string[]) {
  const started: string[] = []
  const start = (_: string, lectureId: string) => {
    started.push(lectureId)
    return broken.includes(lectureId) ? Promise.reject(new Error('cannot be decoded')) : Promise.resolve()
  }
  return { started, start, cancel: () => undefined } as unknown as Parameters<typeof recoverTakes>[0] & { started: string[] }
}

beforeEach(async () => {
  await Promise.all(db.tables.map((t) => t.clear()))
})

describe('a discarded take', () => {
  it('is not the lecture’s any more, can be brought back, and says how long it is', async () => {
    await db.takes.put(take('a', { state: 'settling', duration: 0 }))
    await discardTake(take('a'), 83)
    expect(await takeOf('of-a')).toBeUndefined()
    expect(await discardedTakes('of-a')).toMatchObject([{ id: 'a', state: 'discarded', duration: 83 }])
  })
  it('goes for good after a day, with its bytes, and not before', async () => {
    const hours = (h: number) => new Date(Date.now() - h * 3_600_000).toISOString()
    await db.takes.bulkPut([take('old', { state: 'discarded', discardedAt: hours(25) }), take('young', { state: 'discarded', discardedAt: hours(23) })])
    for (const id of ['old', 'young']) await db.chunks.put({ fileId: `file-${id}`, seq: 0, bytes: new Blob(['x']) })
    await recoverTakes(jobs(), () => undefined)
    expect((await db.takes.toArray()).map((t) => t.id)).toEqual(['young'])
    expect((await db.chunks.toArray()).map((c) => c.fileId)).toEqual(['file-young'])
  })
})

describe('takes that nobody has looked through', () => {
  it('are, each in its turn, and one that cannot be does not keep the others from it', async () => {
    await db.takes.bulkPut([take('a'), take('b'), take('c')])
    const some = jobs('of-a')
    await recoverTakes(some, () => undefined)
    expect(some.started).toEqual(['of-a', 'of-b', 'of-c'])
  })
  it('are left alone when everything about them is known', async () => {
    await db.takes.put(take('a'))
    await db.analyses.put({ takeId: 'a', sound: {} as never })
    const some = jobs()
    await recoverTakes(some, () => undefined)
    expect(some.started).toEqual([])
  })
  it('come first when a person has opened them, and only once', async () => {
    await db.takes.bulkPut([take('a'), take('b')])
    const some = jobs()
    await analyseNow('b', some)
    await recoverTakes(some, () => undefined)
    expect(some.started.sort()).toEqual(['of-a', 'of-b'])
  })
})
