import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { toNodeListener } from 'h3'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { readVtt } from '../../core/captions/vtt'
import { plainText } from '../../core/captions/text'
import { OrderStanding, type CaptionOrder } from '../../core/schema/captioning'
import type { Word } from '../../core/schema/captions'
import { parseAs } from '../../core/schema/validate'
import { recorded } from '../../core/time/units'
import { writeWav } from '../../core/sound/wav'
import { captioningService, type Fault, type KeptOrder } from './service'

const kept = new Map<string, KeptOrder>()
let clock = Date.parse('2026-11-23T09:00:00Z')
let server: Server
let origin = ''
let heard: Word[] | null = null
beforeEach(async () => {
  kept.clear()
  clock = Date.parse('2026-11-23T09:00:00Z')
  heard = null
  const app = captioningService({
    orders: {
      read: async (id) => kept.get(id) ?? null,
      write: async (order) => void kept.set(order.id, order),
      all: async () => [...kept.values()],
    },
    ...{ account: 'A <college>', key: 'the-key', pace: 30, now: () => new Date(clock) },
    listen: async () => {
      if (!heard) throw new Error('Nobody is there.')
      return heard
    },
  })
  server = createServer(toNodeListener(app)).listen(0)
  origin = `http://localhost:${(server.address() as AddressInfo).port}`
})
afterEach(() => server.close())

const order: CaptionOrder = {
  ...{ title: 'Mass balance', language: 'en', dueAt: '2026-11-30T12:00:00Z', notes: 'The “firn” is snow.' },
  words: [{ text: 'Firn', heard: ['fern'] }],
}
const draft =
  'WEBVTT\n\n00:01.000 --> 00:03.000\nthe fern settles\n\n00:03.000 --> 00:05.000\nand i say so\n\n00:08.000 --> 00:09.000\nice\n'
const sound = (seconds: number) => writeWav(new Uint8Array(32_000 * seconds), 16_000)
const ask = (path: string, init: RequestInit = {}, key = 'the-key') =>
  fetch(`${origin}/api/${path}`, { ...init, headers: { authorization: `Bearer ${key}`, ...init.headers } })
const standing = async (path: string, init?: RequestInit) =>
  parseAs(OrderStanding, await (await ask(path, init)).json(), 'standing')
const put = (body: string | Uint8Array) => ({ method: 'PUT', body: body as BodyInit })
const serve = (fault: Fault) =>
  fetch(`${origin}/fault`, { method: 'POST', body: new URLSearchParams({ fault }), redirect: 'manual' })
const lines = (vtt: string) => readVtt(vtt, () => 'x').cues.map((c) => plainText(c.text))

async function ordered(id: string, fault: Fault = 'none'): Promise<OrderStanding> {
  await serve(fault)
  await ask(`orders/${id}`, put(JSON.stringify(order)))
  await ask(`orders/${id}/draft`, put(draft))
  return standing(`orders/${id}/sound`, put(sound(90)))
}

describe('an order', () => {
  it('is typed some time after its sound has come, with the words of the list', async () => {
    expect(await standing('orders/a', put(JSON.stringify(order)))).toMatchObject({ state: 'sound', price: 0 })
    await ask('orders/a/draft', put(draft))
    expect(await standing('orders/a/sound', put(sound(90)))).toMatchObject({ state: 'work', price: 280, deliveries: 0 })
    clock += 44_000
    expect(await standing('orders/a')).toMatchObject({ state: 'work' })
    clock += 2000
    expect(await standing('orders/a')).toMatchObject({ state: 'ready', deliveries: 1 })
    const text = await (await ask('orders/a/deliveries/1')).text()
    expect(lines(text)).toEqual(['The Firn settles', 'and I say so.', 'Ice.'])
    expect((await ask('orders/a/deliveries/2')).status).toBe(404)
  })
  it('sent twice is one, and what is in work is not begun again', async () => {
    await ordered('a')
    expect(await standing('orders/a', put(JSON.stringify(order)))).toMatchObject({ state: 'work' })
    expect(await standing('orders/a/sound', put(sound(600)))).toMatchObject({ price: 280 })
    expect(kept.size).toBe(1)
  })
  it('can be cancelled until it is delivered', async () => {
    await ordered('a')
    expect(await standing('orders/a', { method: 'DELETE' })).toMatchObject({ state: 'cancelled', price: 0 })
    clock += 100_000
    expect(await standing('orders/a')).toMatchObject({ state: 'cancelled' })
    await ordered('b')
    clock += 100_000
    expect((await ask('orders/b', { method: 'DELETE' })).status).toBe(409)
  })
  it('without a draft is listened to', async () => {
    const word = (text: string, from: number): Word => ({
      text,
      from: recorded(from),
      to: recorded(from + 0.4),
      confidence: 1,
    })
    heard = [word('snow', 0.5), word('falls', 1)]
    await ask('orders/a', put(JSON.stringify(order)))
    await standing('orders/a/sound', put(sound(2)))
    clock += 5000
    await standing('orders/a')
    expect(lines(await (await ask('orders/a/deliveries/1')).text())).toEqual(['Snow falls.'])
    heard = null
    await ask('orders/b', put(JSON.stringify(order)))
    expect(await standing('orders/b/sound', put(sound(2)))).toMatchObject({ state: 'refused' })
  })
  it('that makes no sense is refused with a sentence', async () => {
    const refused = async (path: string, init: RequestInit, status: number, key?: string) => {
      const response = await ask(path, init, key)
      expect(response.status).toBe(status)
      expect(((await response.json()) as { message: string }).message).toMatch(/\w.*\.$/)
    }
    await refused('account', {}, 401, 'another')
    await refused('orders/a', put('{'), 400)
    await refused('orders/a', put(JSON.stringify({ ...order, title: undefined })), 400)
    await refused('orders/a', put(JSON.stringify({ ...order, dueAt: '2026-11-01T12:00:00Z' })), 422)
    await refused('orders/none', {}, 404)
    await refused('orders/a%2F..', {}, 404)
    await ask('orders/a', put(JSON.stringify(order)))
    await refused('orders/a/draft', put('no captions'), 400)
    await refused('orders/a/sound', put('no sound'), 400)
  })
})

describe('told to serve otherwise', () => {
  const delivered = async (fault: Fault) => {
    const id = `o-${fault}`
    await ordered(id, fault)
    clock += 100_000
    const { state, deliveries } = await standing(`orders/${id}`)
    const texts = await Promise.all(
      Array.from({ length: deliveries }, async (_, i) => (await ask(`orders/${id}/deliveries/${i + 1}`)).text()),
    )
    return { state, texts }
  }
  it('it is late until it is told to deliver', async () => {
    expect(await delivered('late')).toEqual({ state: 'work', texts: [] })
    await fetch(`${origin}/deliver/o-late`, { method: 'POST', redirect: 'manual' })
    expect(await standing('orders/o-late')).toMatchObject({ state: 'ready', deliveries: 1 })
  })
  it('it sends others, less, lines that cannot be read, or again', async () => {
    const whole = (await delivered('none')).texts
    expect(lines((await delivered('wrong')).texts[0]!)[0]).toMatch(/committee/)
    expect(lines((await delivered('short')).texts[0]!)).toHaveLength(2)
    expect(() => lines('')).toThrow()
    await delivered('garbled').then(({ texts }) => expect(() => lines(texts[0]!)).toThrow(/Line 3/))
    const { texts } = await delivered('twice')
    expect(texts[0]).toBe(whole[0])
    expect(texts[1]).not.toBe(whole[0])
  })
  it('its page says so, and takes nothing from other sites', async () => {
    await ordered('a', 'late')
    const page = await (await fetch(origin)).text()
    expect(page).toContain('A &#60;college&#62;')
    expect(page).toContain('Deliver now')
    expect(page).toContain('the-key')
    const other = { method: 'POST', headers: { origin: 'http://elsewhere.example' }, redirect: 'manual' as const }
    expect((await fetch(`${origin}/deliver/a`, other)).status).toBe(403)
    expect((await standing('orders/a')).state).toBe('work')
    const fault = async (body: BodyInit) => (await fetch(`${origin}/fault`, { method: 'POST', body })).status
    expect(await fault(new URLSearchParams({ fault: 'x' }))).toBe(400)
    expect(await fault('x'.repeat(1 << 20))).toBe(413)
  })
})
