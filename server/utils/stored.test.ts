/** What the server keeps, over a storage in memory: versions, torn uploads, answers; also after a restart. */
import { createHash } from 'node:crypto'
import { createStorage, type Storage } from 'unstorage'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { AttemptEvent } from '#core/schema/attempt'
import { PART_SIZE, type UploadStart } from '#core/schema/publication'

let storage: Storage
beforeEach(() => {
  storage = createStorage()
  vi.stubGlobal('useStorage', () => storage)
  vi.stubGlobal('createError', (e: { statusCode: number; message: string }) => Object.assign(new Error(e.message), { statusCode: e.statusCode }))
})
/** The modules as after a restart: nothing in memory, the storage as it was. */
async function restart() {
  vi.resetModules()
  return { publications: await import('./publications'), responses: await import('./responses'), live: await import('./live'), demo: await import('./demo') }
}

const media = new Uint8Array(2 * PART_SIZE + 100).map((_, i) => (i * 7) % 256)
const parts = [0, 1, 2].map((i) => media.subarray(i * PART_SIZE, (i + 1) * PART_SIZE))
const sha = (b: Uint8Array) => createHash('sha256').update(b).digest('hex')
const start = (title: string): UploadStart => ({
  manifest: { format: 'thaw-publication', version: 1, id: 'p', title, description: '', language: 'en', duration: 5, width: 2, height: 2, madeAt: '2026-11-23T00:00:00.000Z', files: [{ name: 'media.mp4', type: 'video/mp4', size: media.length, parts: parts.map(sha) }], checkpoints: [] },
  keys: { format: 'thaw-keys', version: 1, publicationId: 'p', keys: [] },
})
async function publish(title: string): Promise<void> {
  const { publications } = await restart()
  const upload = await publications.startUpload('p', start(title))
  for (const [i, part] of parts.entries()) await publications.putPart('p', upload, 'media.mp4', i, part)
  await publications.commitUpload('p', upload)
}
async function bytes(stream: ReadableStream<Uint8Array>): Promise<Buffer> {
  const all: Uint8Array[] = []
  for await (const chunk of stream as unknown as AsyncIterable<Uint8Array>) all.push(chunk)
  return Buffer.concat(all)
}

describe('a publication', () => {
  it('is there after a restart, and every range of it is right', async () => {
    await publish('one')
    const { publications } = await restart()
    const found = await publications.readPublication('p')
    expect(found?.manifest.title).toBe('one')
    for (const [from, to] of [[0, media.length - 1], [0, 0], [PART_SIZE - 1, PART_SIZE], [PART_SIZE + 5, 2 * PART_SIZE + 50], [media.length - 1, media.length - 1]] as const)
      expect(Buffer.compare(await bytes(publications.readRange('p', found!, found!.manifest.files[0]!, from, to)), Buffer.from(media.subarray(from, to + 1)))).toBe(0)
  })
  it('replaced leaves nothing of the one before', async () => {
    await publish('one')
    const before = (await storage.getKeys()).length
    await publish('two')
    expect((await (await restart()).publications.readPublication('p'))?.manifest.title).toBe('two')
    expect((await storage.getKeys()).length).toBe(before)
  })
  it('falls back to the version before when the newest marker is torn', async () => {
    await publish('one')
    await storage.setItem('pub:p:live:00000099', '{"vers')
    expect((await (await restart()).publications.readPublication('p'))?.manifest.title).toBe('one')
  })
  it('that was never committed is gone after a restart, and the one before stands', async () => {
    await publish('one')
    const keys = (await storage.getKeys()).sort()
    const { publications } = await restart()
    const upload = await publications.startUpload('p', start('two'))
    await publications.putPart('p', upload, 'media.mp4', 0, parts[0]!)
    expect((await storage.getKeys()).length).toBeGreaterThan(keys.length)
    const again = await restart()
    await again.publications.sweepUploads()
    expect((await storage.getKeys()).sort()).toEqual(keys)
    await expect(again.publications.commitUpload('p', upload)).rejects.toThrow(/not open any more/)
    expect((await again.publications.readPublication('p'))?.manifest.title).toBe('one')
  })
  it('nobody goes on with is given up after an hour, not before', async () => {
    const { publications } = await restart()
    await publications.startUpload('p', start('slow'))
    await publications.sweepUploads(60 * 60 * 1000)
    expect((await storage.getKeys('uploads')).length).toBe(1)
    vi.useFakeTimers({ now: Date.now() + 61 * 60 * 1000, toFake: ['Date'] })
    await publications.sweepUploads(60 * 60 * 1000)
    vi.useRealTimers()
    expect(await storage.getKeys()).toEqual([])
  })
})

describe('a lecture that is held', () => {
  const announcement = { place: { id: 'pl', publicationId: 'p', courseId: 'c', week: 1, from: '2026-11-26T08:00:00.000Z', until: null }, title: 'T', startsAt: '2026-11-26T10:00:00.000Z' }
  const segment = (run: number, n: number) => ({ run, n, duration: 1.5 })
  const media = async () => (await storage.getKeys('live:pl:media')).length

  it('goes on after a restart where it was, and keeps no more than can be watched', async () => {
    const { live } = await restart()
    await live.announce(announcement)
    for (let run = 1; run <= 2; run++) {
      expect((await live.turnBroadcast('pl', { to: 'on' })).run).toBe(run)
      await live.putInit('pl', run, new Uint8Array(5))
      for (let n = 0; n < 100; n++) await live.putSegment('pl', segment(run, n), Uint8Array.from([run, n]))
    }
    // Three minutes are 120 segments, of both runs.
    expect(await media()).toBe(122)
    const again = (await restart()).live
    expect((await again.readBroadcast('pl'))?.segments).toHaveLength(120)
    for (let n = 100; n < 130; n++) await again.putSegment('pl', segment(2, n), Uint8Array.from([2, n]))
    expect(await again.readLive('pl', 1, 'init')).toBeNull()
    expect(Array.from((await again.readLive('pl', 2, '129'))!)).toEqual([2, 129])
    expect(await media()).toBe(121)
    await again.announce({ ...announcement, title: 'Another' })
    expect(await again.readBroadcast('pl')).toMatchObject({ title: 'Another', state: 'on', run: 2 })
    await again.endBroadcast('pl')
    expect(await storage.getKeys('live')).toEqual([])
  })
  it('counts who watches now', async () => {
    const { live } = await restart()
    vi.useFakeTimers({ toFake: ['Date'] })
    for (const id of ['s1', 's2', 's1']) live.isWatching('pl', { id, name: id })
    expect(live.watching('pl')).toBe(2)
    vi.setSystemTime(Date.now() + 8000)
    live.isWatching('pl', { id: 's2', name: 's2' })
    vi.setSystemTime(Date.now() + 8000)
    expect(live.watching('pl')).toBe(1)
    vi.useRealTimers()
  })
})

describe('answers', () => {
  const student = (id: string) => ({ id, name: id })
  const event = (id: string): AttemptEvent => ({ id, kind: 'answer', questionId: 'q', choiceId: 'a', at: '2026-11-23T10:00:00.000Z' })
  it('that come at the same time are all kept, each with a number of its own', async () => {
    const { responses } = await restart()
    await Promise.all(Array.from({ length: 40 }, (_, i) => responses.appendEvents('p', 'place', student(`s${i % 8}`), [event(`e${i}`)])))
    const seqs = (await responses.readEvents('p')).map((e) => e.seq)
    expect(seqs).toEqual(Array.from({ length: 40 }, (_, i) => i + 1))
  })
  it('are kept once, also when they are sent again after a restart', async () => {
    await (await restart()).responses.appendEvents('p', 'place', student('s1'), [event('e1'), event('e1')])
    const { responses } = await restart()
    await responses.appendEvents('p', 'place', student('s1'), [event('e1'), event('e2')])
    await responses.appendEvents('p', 'place', student('s2'), [event('e1')])
    expect((await responses.readEvents('p')).map((e) => [e.seq, e.student.id, e.event.id])).toEqual([[1, 's1', 'e1'], [2, 's1', 'e2'], [3, 's2', 'e1']])
    expect(await responses.readEvents('p', 2)).toHaveLength(1)
  })
})

describe('the demo', () => {
  it('is planted once, moved to the present week, and never over what is there', async () => {
    vi.stubEnv('THAW_DEMO_FILES', new URL('../../demo/publications', import.meta.url).pathname)
    vi.useFakeTimers({ now: Date.parse('2026-12-08T12:00:00Z'), toFake: ['Date'] })
    const { demo, publications, responses } = await restart()
    await demo.plantDemo()
    expect(await storage.getItem('places:place-glacier')).toMatchObject({ from: '2026-11-09T08:00:00.000Z' })
    expect((await publications.readPublication('pub-glacier'))?.manifest.title).toBe('What a glacier is')
    expect((await responses.readEvents('pub-glacier')).length).toBeGreaterThan(10)
    await storage.removeItem('places:place-glacier')
    await demo.plantDemo()
    vi.useRealTimers()
    vi.unstubAllEnvs()
    expect(await storage.getItem('places:place-glacier')).toBeNull()
  })
})
