import 'fake-indexeddb/auto'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { toNodeListener } from 'h3'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { newTrack, setText } from '#core/captions/track'
import type { Take } from '#core/schema/lecture'
import { writeWav } from '#core/sound/wav'
import { recorded } from '#core/time/units'
import { captioningService, type Fault, type KeptOrder } from '#standins/captioning/service'
import { db, type OrderRow } from '~/db/database'
import { storeFile } from '~/db/files'
import { JobCancelled, type useJobs } from '~/stores/jobs'
import { changeLecture } from './cards'
import { documentRow, storeDocument, travel } from './documents'
import { deleteLecture } from './lectures'
import { cancelOrder, followOrders, isLate, leaveHeld, orderables, placeOrders, takeHeld } from './ordering'
import { keepWord } from './words'

const take: Take = {
  ...{ id: 't', lectureId: 'l', state: 'whole', startedAt: '2026-11-23T09:00:00Z', duration: 60, pauses: [], note: '' },
  feeds: [
    {
      ...{ id: 'sound', kind: 'sound', label: 'Microphone', fileId: 'f', offset: 0.5, duration: 59 },
      ...{ width: 0, height: 0, frameRate: 0 },
    },
  ],
}
/** Jobs that run at once; `stop` has the next one be cancelled. */
let stop = false
const jobs = {
  start: async (_: string, __: string, ___: string, run: (context: object) => Promise<void>) => {
    if (stop) throw new JobCancelled('Cancelled.')
    await run({
      engine: { extractSpeech: async () => new Blob([writeWav(new Uint8Array(59 * 32_000), 16_000) as BlobPart]) },
      ...{ scratch: 'job', signal: new AbortController().signal, progress: () => undefined },
    })
  },
} as unknown as ReturnType<typeof useJobs>

const kept = new Map<string, KeptOrder>()
/** Ms that the service is ahead. */
let ahead = 0
let server: Server
let origin = ''
/** What is asked of the server, and a failure that comes instead of the next answer. */
let asked: string[] = []
let failing: ((path: string, ask: () => Promise<Response>) => Promise<Response> | null) | null = null
const node = globalThis.fetch

const serve = (fault: Fault) =>
  node(`${origin}/fault`, { method: 'POST', body: new URLSearchParams({ fault }), redirect: 'manual' })
const words = 'the ice moves slowly down its valley and it carries stones along with it'
const said = Array.from({ length: 14 }, (_, i) => ({
  ...{ id: `c${i}`, from: recorded(1 + 4 * i), to: recorded(4.6 + 4 * i) },
  text: words
    .split(' ')
    .slice(i % 5, (i % 5) + 8)
    .join(' '),
}))
const track = async () => (await documentRow('l', 'captions'))?.document ?? null
const order = async () => (await db.orders.toArray())[0] as OrderRow
const DUE = '2026-12-10T12:00:00.000Z'
/** Ordered, sent, typed and come. */
async function whole(): Promise<OrderRow> {
  await placeOrders(['l'], DUE, 'notes')
  await followOrders(jobs)
  ahead += 3_600_000
  await followOrders(jobs)
  return order()
}

beforeEach(async () => {
  await db.delete()
  await db.open()
  kept.clear()
  asked = []
  failing = null
  stop = false
  ahead = 0
  const app = captioningService({
    orders: {
      read: async (id) => kept.get(id) ?? null,
      write: async (o) => void kept.set(o.id, o),
      all: async () => [...kept.values()],
    },
    ...{ account: 'College', key: 'k', pace: 1, now: () => new Date(Date.now() + ahead), listen: null },
  })
  server = createServer(toNodeListener(app)).listen(0)
  origin = `http://localhost:${(server.address() as AddressInfo).port}`
  vi.stubGlobal('navigator', {
    locks: { request: async (...all: unknown[]) => (all.at(-1) as (lock: object) => unknown)({}) },
  })
  vi.stubGlobal('fetch', async (url: string, init: RequestInit = {}) => {
    if (url === '/api/author/session') return Response.json({ signedIn: true, says: '' })
    const path = url.replace('/api/captioning', '/api')
    asked.push(`${init.method ?? 'GET'} ${path.replace(/^.*orders\/[^/]+/, '')}`)
    const { signal: _, ...rest } = init
    const ask = () => node(origin + path, { ...rest, headers: { ...init.headers, authorization: 'Bearer k' } })
    return failing?.(path, ask) ?? ask()
  })
  await db.courses.put({ id: 'c', code: 'PS', title: 'Ice', termId: 'term' })
  await db.lectures.put({
    ...{ id: 'l', courseId: 'c', week: 1, title: 'Flow', description: '', createdAt: '2026-11-23T08:00:00Z' },
  } as never)
  await db.takes.put(take)
  await storeFile({ id: 'f', type: 'audio/mp4', name: 'sound', size: 1 }, new Blob(['x']), () => undefined)
  await changeLecture('l', async () => {
    await storeDocument('l', 'captions', null, newTrack({ cues: said }, 'recogniser'), { says: 'Drafted' })
  })
})
afterEach(() => {
  server.close()
  vi.unstubAllGlobals()
})

describe('ordered captions', () => {
  it('go with the draft and the word list, and come back as checked, in one step', async () => {
    await keepWord('c', 'Valley', ['alley'])
    expect(await placeOrders(['l'], DUE, 'notes')).toBe(1)
    await followOrders(jobs)
    expect(asked).toEqual(['PUT ', 'PUT /draft', 'PUT /sound'])
    expect(await order()).toMatchObject({ state: 'work', price: 140, currency: 'EUR', title: 'Flow' })
    expect([...kept.values()][0]).toMatchObject({ order: { notes: 'notes', dueAt: DUE, words: [{ text: 'Valley' }] } })
    ahead += 3_600_000
    await followOrders(jobs)
    expect(await order()).toMatchObject({ state: 'ready', taken: 1, held: null })
    const now = (await track())!
    expect(now).toMatchObject({ state: 'checked', source: 'service' })
    expect(now.cues.every((c) => c.checked)).toBe(true)
    expect(now.cues.map((c) => c.text).join(' ')).toMatch(/Valley/)
    await travel('l', ['captions'], 'undo')
    expect((await track())!.cues.map((c) => c.text)).toEqual(said.map((c) => c.text))
  })
  it('are ordered once, however often that is pressed, and not of what has no sound', async () => {
    await Promise.all([placeOrders(['l'], DUE, ''), placeOrders(['l'], DUE, '')])
    expect(await db.orders.count()).toBe(1)
    expect((await orderables(['l', 'gone'])).map((o) => o.problem)).toEqual([
      'It is ordered already.',
      'It is not there any more.',
    ])
  })
  it('that could not be sent are sent later, as the same order', async () => {
    await placeOrders(['l'], DUE, '')
    const lost = () => Response.json({ message: 'It does not answer.' }, { status: 503 })
    failing = (path) => (path.endsWith('/sound') ? Promise.resolve(lost()) : null)
    await followOrders(jobs)
    expect(await order()).toMatchObject({ state: 'preparing', says: 'It does not answer.' })
    failing = null
    await followOrders(jobs)
    expect(await order()).toMatchObject({ state: 'work', says: '' })
    expect(kept.size).toBe(1)
  })
  it('that got there, and were typed, before that could be noted are joined all the same', async () => {
    await placeOrders(['l'], DUE, '')
    failing = (path, ask) =>
      path.endsWith('/sound') ? ask().then(() => Response.json({ message: 'Lost.' }, { status: 503 })) : null
    await followOrders(jobs)
    expect(await order()).toMatchObject({ state: 'preparing' })
    failing = null
    ahead += 3_600_000
    await followOrders(jobs)
    await followOrders(jobs)
    expect(await order()).toMatchObject({ state: 'ready', joinedAt: expect.any(String) as string, price: 140 })
    expect((await track())!.source).toBe('service')
  })
  it('that the service does not take are said to be refused', async () => {
    await placeOrders(['l'], '2020-01-01T00:00:00.000Z', '')
    await followOrders(jobs)
    expect(await order()).toMatchObject({ state: 'refused', says: 'That day is over. Choose a later one.' })
  })
  it('are late when their day is over, and joined when they come after all', async () => {
    await serve('late')
    await placeOrders(['l'], DUE, '')
    await followOrders(jobs)
    expect(isLate(await order(), '2026-12-11T00:00:00.000Z')).toBe(true)
    expect(isLate(await order(), '2026-12-01T00:00:00.000Z')).toBe(false)
    await node(`${origin}/deliver/${(await order()).id}`, { method: 'POST', redirect: 'manual' })
    await followOrders(jobs)
    expect(await order()).toMatchObject({ state: 'ready' })
    expect(isLate(await order(), '2026-12-11T00:00:00.000Z')).toBe(false)
    expect((await track())!.source).toBe('service')
  })
  it('are cancelled, also before they were sent, and while they are', async () => {
    await placeOrders(['l'], DUE, '')
    await cancelOrder((await order()).id)
    expect(await order()).toMatchObject({ state: 'cancelled' })
    await db.orders.clear()
    await placeOrders(['l'], DUE, '')
    await followOrders(jobs)
    await cancelOrder((await order()).id)
    expect([...kept.values()].map((o) => o.state)).toEqual(['cancelled'])
    await db.orders.clear()
    await placeOrders(['l'], DUE, '')
    stop = true
    await followOrders(jobs)
    expect(await order()).toMatchObject({ state: 'cancelled' })
  })
  it('stay in the list when their lecture is deleted, and harm nothing when they come', async () => {
    await placeOrders(['l'], DUE, '')
    await followOrders(jobs)
    await deleteLecture('l')
    ahead += 3_600_000
    await followOrders(jobs)
    expect(await order()).toMatchObject({ state: 'ready', joinedAt: null, price: 140 })
    expect((await order()).held?.problems).toContain('The lecture is not there any more.')
    expect(await db.documents.count()).toBe(0)
  })
})

describe('what is not as it should be', () => {
  it.each([
    ['wrong', /may be of another lecture/],
    ['garbled', /1 line could not be read; line 3/],
  ] as const)('%s is held, and the captions stay', async (fault, reason) => {
    await serve(fault)
    const { held, state, joinedAt } = await whole()
    expect([state, joinedAt]).toEqual(['ready', null])
    expect(held?.problems.join(' ')).toMatch(reason)
    expect((await track())!.cues).toEqual(said)
    await leaveHeld((await order()).id)
    await followOrders(jobs, true)
    expect((await order()).held).toBeNull()
    expect((await track())!.cues).toEqual(said)
  })
  it('cut short is held, where it is known where somebody speaks; and joined when a person says so', async () => {
    await db.analyses.put({
      takeId: 't',
      sound: { silences: [], proposals: [], clipping: [], loudness: -20, noiseFloor: -60, peaks: [] } as never,
    })
    await serve('short')
    const { held, id } = await whole()
    expect(held?.problems).toEqual([expect.stringMatching(/^Nothing stands where somebody speaks, from 0:\d+ on/)])
    await takeHeld(id)
    expect((await track())!.cues).toHaveLength(8)
    expect(await order()).toMatchObject({ held: null, joinedAt: expect.any(String) as string })
  })
  it('sent twice: the second is held, and the same again is no news', async () => {
    await serve('twice')
    const { held, id } = await whole()
    expect((await track())!.cues[0]?.text).not.toContain('[pause]')
    expect(held?.problems[0]).toMatch(/sent captions again/)
    expect(held?.number).toBe(2)
    const before = await track()
    await leaveHeld(id)
    const at = kept.get(id)!
    kept.set(id, { ...at, deliveries: [...at.deliveries, at.deliveries[0]!] })
    await followOrders(jobs, true)
    expect(await order()).toMatchObject({ taken: 3, held: null })
    expect(await track()).toEqual(before)
  })
  it('the captions were changed meanwhile: a person decides', async () => {
    await placeOrders(['l'], DUE, '')
    await followOrders(jobs)
    const before = (await track())!
    await changeLecture('l', async () => {
      await storeDocument('l', 'captions', before, setText(before, 'c0', 'Written here.'), { says: 'Changed' })
    })
    ahead += 3_600_000
    await followOrders(jobs)
    expect((await order()).held?.problems[0]).toMatch(/were changed since they were ordered/)
    expect((await track())!.cues[0]?.text).toBe('Written here.')
  })
  it('what students see goes on being seen', async () => {
    const before = (await track())!
    await changeLecture('l', async () => {
      await storeDocument('l', 'captions', before, { ...before, state: 'on' }, { says: 'On' })
    })
    await whole()
    expect((await track())!.state).toBe('on')
  })
})
