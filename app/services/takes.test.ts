import 'fake-indexeddb/auto'
import { documentRow, goToStep, stepsOf, storeDocument } from './documents'
import { changeLecture, takesOf } from './cards'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { withIds } from '#core/record/recording'
import { db } from '~/db/database'
import { storeFile } from '~/db/files'
import { apply } from '#core/edit/edit'
import type { Feed, Take } from '#core/schema/lecture'
import { recorded } from '#core/time/units'
import {
  analyseNow,
  analyseTake,
  discardedTakes,
  discardTake,
  placeTake,
  RECORDING,
  recoverTakes,
  showFeed,
} from './takes'

const take = (id: string, more: Partial<Take> = {}): Take => ({
  id,
  lectureId: `of-${id}`,
  state: 'whole',
  startedAt: '2026-11-23T09:00:00Z',
  duration: 10,
  pauses: [],
  note: '',
  feeds: [
    {
      id: 'sound',
      kind: 'sound',
      label: 'Microphone',
      fileId: `file-${id}`,
      offset: 0,
      duration: 10,
      width: 0,
      height: 0,
      frameRate: 0,
    },
  ],
  ...more,
})
/** Jobs that only write down for which lectures they were started; the named ones go wrong. */
function jobs(...broken: string[]) {
  const started: string[] = []
  const start = (_: string, lectureId: string) => {
    started.push(lectureId)
    return broken.includes(lectureId) ? Promise.reject(new Error('cannot be decoded')) : Promise.resolve()
  }
  return { started, start, cancel: () => undefined } as unknown as Parameters<typeof recoverTakes>[0] & {
    started: string[]
  }
}

/** Locks as a browser has them, of which the recorder's can be held. */
let recordingOver: Promise<void> = Promise.resolve()
beforeEach(async () => {
  recordingOver = Promise.resolve()
  const request = async (name: string, ...more: unknown[]) => {
    if (name === RECORDING) await recordingOver
    return (more.at(-1) as (lock: object) => unknown)({})
  }
  vi.stubGlobal('navigator', { locks: { request } })
  await Promise.all(db.tables.map((t) => t.clear()))
})

describe('a discarded take', () => {
  it('is not the lecture’s any more, can be brought back, and says how long it is', async () => {
    await db.takes.put(take('a', { state: 'settling', duration: 0 }))
    await discardTake('a', 83)
    expect(await takesOf('of-a')).toEqual([])
    expect(await discardedTakes('of-a')).toMatchObject([{ id: 'a', state: 'discarded', duration: 83 }])
  })
  it('goes for good after a day, with its bytes, and not before', async () => {
    const hours = (h: number) => new Date(Date.now() - h * 3_600_000).toISOString()
    await db.takes.bulkPut([
      take('old', { state: 'discarded', discardedAt: hours(25) }),
      take('young', { state: 'discarded', discardedAt: hours(23) }),
    ])
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
  it('wait while a lecture is recorded, which needs the machine', async () => {
    await db.takes.put(take('a'))
    const some = jobs()
    let stop = () => undefined as void
    recordingOver = new Promise((resolve) => {
      stop = resolve
    })
    const recovering = recoverTakes(some, () => undefined)
    await new Promise((resolve) => setTimeout(resolve, 50))
    expect(some.started).toEqual([])
    stop()
    await recovering
    expect(some.started).toEqual(['of-a'])
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
    await analyseNow(['b'], some)
    await recoverTakes(some, () => undefined)
    expect(some.started.sort()).toEqual(['of-a', 'of-b'])
  })
})

describe('a take that is looked through', () => {
  it('keeps what a person decides meanwhile', async () => {
    const camera = {
      id: 'camera',
      kind: 'camera',
      label: 'Camera',
      fileId: 'film',
      offset: 0,
      duration: 10,
      width: 64,
      height: 36,
      frameRate: 25,
    } as const
    await db.takes.put(take('a', { feeds: [camera, { ...camera, id: 'sound', kind: 'sound' }] }))
    await storeFile({ id: 'film', type: 'video/mp4', name: 'film.mp4', size: 1 }, new Blob(['x']), () => undefined)
    const engine = {
      poster: () => Promise.resolve(new Blob()),
      coarsePeaks: () => Promise.resolve(null),
      analyseSound: () =>
        Promise.resolve({
          peaks: [],
          silences: [],
          clipping: [],
          proposals: [{ from: 2, to: 4, reason: 'pause', says: 'A pause.' }],
        }),
      openFilm: () => ({ thumbnails: () => db.analyses.update('a', { left: [2] }), close: () => undefined }),
    }
    const start = (_: string, _lecture: string, _says: string, run: (context: object) => Promise<void>) =>
      run({ engine, progress: () => undefined })
    await analyseTake('a', { start } as unknown as Parameters<typeof analyseTake>[1])
    expect(await db.analyses.get('a')).toMatchObject({
      left: [2],
      thumbnails: true,
      sound: { proposals: [{ from: 2 }] },
    })
  })
})

describe('a further take', () => {
  const place = (t: Take) => changeLecture('l', () => placeTake(t))
  const edit = async () => (await documentRow('l', 'edit'))!.document
  const of = (id: string, more: Partial<Take> = {}) => take(id, { lectureId: 'l', state: 'settling', ...more })
  it('goes on where the recording ends; the edit grows by it, with its pauses and its drawing', async () => {
    await place(of('a', { pauses: [{ from: 2, to: 3 }] }))
    const cut = { do: 'remove' as const, id: 'mine', from: recorded(8), to: recorded(10), reason: 'trim' as const }
    await storeDocument('l', 'edit', await edit(), apply(await edit(), cut), { says: 'Trimmed' })
    await place(
      of('b', {
        startedAt: '2026-11-23T10:00:00Z',
        duration: 20,
        pauses: [{ from: 5, to: null }],
        strokes: [{ colour: '#000000', width: 0.01, opacity: 1, points: [{ x: 0, y: 0, at: 1 }] }],
      }),
    )
    expect((await takesOf('l')).map((t) => [t.id, t.state, t.at])).toEqual([
      ['a', 'whole', undefined],
      ['b', 'whole', 10],
    ])
    expect((await edit()).duration).toBe(30)
    const { removed, stretches } = await edit()
    expect(removed.map((r) => [r.from, r.to])).toEqual([
      [2, 3],
      [8, 10],
      [15, 30],
    ])
    expect(stretches.map((s) => [s.from, s.to])).toEqual([[10, 30]])
    expect((await stepsOf('l-edit')).map((s) => s.says)).toEqual([
      'Folded a pause 0:02.0 – 0:03.0',
      'Trimmed',
      'Folded a pause 0:15.0 – 0:30.0',
      'Drawing over 0:10.0 – 0:30.0',
    ])
    // However far one goes back, the recording is as long as it is.
    await goToStep('l', 'edit', () => 0)
    expect(await edit()).toMatchObject({ duration: 30, removed: [], stretches: [] })
  })
  it('that is the first begins a new edit, also when a broken one is there', async () => {
    await db.takes.put(of('x', { state: 'broken' }))
    await place(of('a'))
    expect((await db.takes.get('a'))?.at).toBeUndefined()
    expect((await edit()).duration).toBe(10)
  })
})

describe('of several feeds alike', () => {
  const feed = (kind: Feed['kind'], fileId: string): Feed => ({
    id: kind,
    kind,
    label: fileId,
    fileId,
    offset: 0,
    duration: 10,
    width: 0,
    height: 0,
    frameRate: 0,
  })
  const found = { takeId: 'a', sound: {} as never, left: [1], thumbnails: true, slides: [0, 4] }
  const choose = async (
    kind: Feed['kind'],
    fileId: string,
    kinds = [feed('screen', 'deck'), feed('sound', 'lectern'), feed('sound', 'hall'), feed('screen', 'bench')],
  ) => {
    await db.takes.put(take('a', { feeds: withIds(kinds) }))
    await db.analyses.put(found)
    await db.peaks.put({ takeId: 'a', levels: [] })
    await db.stills.put({ takeId: 'a', kind: 'slide', at: 0, image: new Blob() })
    await db.posters.put({ lectureId: 'of-a', image: new Blob() })
    const some = jobs()
    await showFeed('a', { kind, fileId }, some)
    // What follows a choice begins after it.
    await new Promise((resolve) => setTimeout(resolve, 50))
    return {
      started: some.started,
      feeds: (await db.takes.get('a'))?.feeds.map((f) => f.fileId),
      known: await db.analyses.get('a'),
      peaks: await db.peaks.count(),
      stills: await db.stills.count(),
      posters: await db.posters.count(),
    }
  }
  it('another microphone is heard, and only the sound is looked through again', async () => {
    const after = await choose('sound', 'hall')
    expect(after).toMatchObject({
      started: ['of-a'],
      feeds: ['deck', 'hall', 'lectern', 'bench'],
      peaks: 0,
      stills: 1,
      posters: 1,
    })
    expect(after.known).toEqual({ takeId: 'a', thumbnails: true, slides: [0, 4] })
  })
  it('another screen is seen, and only the pictures are looked through again', async () => {
    const after = await choose('screen', 'bench')
    expect(after).toMatchObject({
      started: ['of-a'],
      feeds: ['bench', 'lectern', 'hall', 'deck'],
      peaks: 1,
      stills: 0,
      posters: 0,
    })
    expect(after.known).toEqual({ takeId: 'a', sound: {}, left: [1] })
  })
  it('another camera is looked through only where no screen was', async () => {
    const cameras = [feed('camera', 'front'), feed('camera', 'side')]
    expect(await choose('camera', 'side', [feed('screen', 'deck'), ...cameras])).toMatchObject({
      started: [],
      known: found,
      stills: 1,
    })
    const after = await choose('camera', 'side', cameras)
    expect(after).toMatchObject({ started: ['of-a'], stills: 0 })
    expect(after.known).toEqual({ takeId: 'a', sound: {}, left: [1] })
  })
  it('the one that is seen stays as it is', async () => {
    expect(await choose('sound', 'lectern')).toMatchObject({ started: [], known: found, peaks: 1, stills: 1 })
  })
  it('none is changed while the take is looked through, nor for one that is not there', async () => {
    await db.jobs.put({
      id: 'j',
      lectureId: 'of-a',
      kind: 'analyse',
      state: 'running',
      progress: 0,
      says: '',
      startedAt: '2026-11-23T09:00:00Z',
    })
    await expect(choose('sound', 'hall')).rejects.toThrow('still being looked through')
    expect((await db.takes.get('a'))?.feeds[1]?.fileId).toBe('lectern')
    await expect(showFeed('a', { kind: 'sound', fileId: 'nowhere' }, jobs())).rejects.toThrow('not there any more')
  })
})
