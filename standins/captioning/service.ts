/**
 * A stand-in for a captioning service: another house, with its own look, its own port and an account. A lecture is
 * ordered with its sound; some time later the captions can be fetched. It can be told to be late, wrong, cut short,
 * garbled, or to answer twice. Thaw talks to it only through `/api`.
 */
import { timingSafeEqual } from 'node:crypto'
import { Type, type Static } from '@sinclair/typebox'
import {
  createError,
  createRouter,
  defineEventHandler,
  getHeader,
  getRouterParam,
  sendRedirect,
  setHeader,
  type App,
  type H3Event,
} from 'h3'
import { readVtt } from '../../core/captions/vtt'
import { CaptionOrder, OrderStanding, OrderState, ServiceAccount } from '../../core/schema/captioning'
import type { Cue, Word } from '../../core/schema/captions'
import { collectBytes } from '../../core/schema/collect'
import { Id, Instant } from '../../core/schema/parts'
import { InvalidDocument, parseAs } from '../../core/schema/validate'
import { readWavHeader } from '../../core/sound/wav'
import { errorMessage } from '../../core/text/error-message'
import { deskPage } from './pages'
import { cuesOf, deliveries, typed } from './typing'
import { standInApp } from '../serve'

export const Fault = Type.Union([
  Type.Literal('none'),
  Type.Literal('late'),
  Type.Literal('wrong'),
  Type.Literal('short'),
  Type.Literal('garbled'),
  Type.Literal('twice'),
])
export type Fault = Static<typeof Fault>

export const KeptOrder = Type.Object(
  {
    id: Id,
    order: CaptionOrder,
    state: OrderState,
    says: Type.String(),
    price: Type.Integer(),
    currency: Type.String(),
    fault: Fault,
    /** When it is to be done; null until its sound is there, or when somebody has to say so. */
    readyAt: Type.Union([Instant, Type.Null()]),
    /** What is there already, as WebVTT; empty when nothing is. */
    draft: Type.String(),
    /** Each as WebVTT. */
    deliveries: Type.Array(Type.String()),
  },
  { additionalProperties: false },
)
export type KeptOrder = Static<typeof KeptOrder>

export interface ServiceSettings {
  orders: {
    read(id: string): Promise<KeptOrder | null>
    write(order: KeptOrder): Promise<void>
    all(): Promise<KeptOrder[]>
  }
  account: string
  /** Lets programs in at `/api`. */
  key: string
  /** How long typing takes, s for each minute of sound, and 1 s at least. */
  pace: number
  now(): Date
  /** Listens where an order comes without a draft; null where nobody can. */
  listen: ((wav: Uint8Array, language: string) => Promise<Word[]>) | null
}

const PRICE = 140
const CURRENCY = 'EUR'
/** Four hours of 16 kHz, 16 bit, mono; and what else is sent. */
const MOST_SOUND = 4 * 3600 * 32_000 + 4096
const MOST_TEXT = 4 << 20

const refuse = (statusCode: number, message: string) => createError({ statusCode, message })

/** The service as one application. */
export function captioningService({ orders, account, key, pace, now, listen }: ServiceSettings): App {
  let fault: Fault = 'none'
  const router = createRouter()

  /** Types what is due; one that was being typed when the service was stopped is typed again. */
  async function work(kept: KeptOrder): Promise<KeptOrder> {
    const isDue = kept.state === 'work' && kept.readyAt !== null && kept.readyAt <= now().toISOString()
    return isDue ? deliver(kept) : kept
  }
  async function deliver(kept: KeptOrder): Promise<KeptOrder> {
    let n = 0
    const cues: Cue[] = readVtt(kept.draft || 'WEBVTT', () => `d${++n}`).cues
    const done: KeptOrder = { ...kept, state: 'ready', deliveries: deliveries(typed(cues, kept.order), kept.fault) }
    await orders.write(done)
    return done
  }

  const standing = ({ id, state, says, order, price, currency, deliveries }: KeptOrder): OrderStanding => ({
    ...{ id, state, says, price, currency },
    dueAt: order.dueAt,
    deliveries: deliveries.length,
  })
  const bodyOf = async (event: H3Event, most: number): Promise<Uint8Array> => {
    const bytes = await collectBytes(
      event.node.req.iterator({ destroyOnReturn: false }) as AsyncIterable<Uint8Array>,
      most,
    )
    if (bytes) return bytes
    setHeader(event, 'connection', 'close')
    throw refuse(413, 'This is more than we take.')
  }
  const idOf = (event: H3Event) => {
    try {
      return parseAs(Id, getRouterParam(event, 'id', { decode: true }), 'order number')
    } catch {
      throw refuse(404, 'There is no such order.')
    }
  }
  const orderOf = async (event: H3Event): Promise<KeptOrder> => {
    const kept = await orders.read(idOf(event))
    if (!kept) throw refuse(404, 'There is no such order.')
    return work(kept)
  }
  const forPrograms = (handle: (event: H3Event) => Promise<unknown>) =>
    defineEventHandler(async (event) => {
      const given = Buffer.from(getHeader(event, 'authorization') ?? '')
      const wanted = Buffer.from(`Bearer ${key}`)
      if (given.length !== wanted.length || !timingSafeEqual(given, wanted))
        throw refuse(401, 'This key is not one of ours. It stands on the page of your account.')
      setHeader(event, 'cache-control', 'no-store')
      return handle(event)
    })

  router.get(
    '/api/account',
    forPrograms(async (): Promise<ServiceAccount> => ({ name: account, pricePerMinute: PRICE, currency: CURRENCY })),
  )
  router.put(
    '/api/orders/:id',
    forPrograms(async (event) => {
      const id = idOf(event)
      let order: CaptionOrder
      try {
        order = parseAs(CaptionOrder, JSON.parse(new TextDecoder().decode(await bodyOf(event, MOST_TEXT))), 'order')
      } catch (error) {
        if (error instanceof SyntaxError) throw refuse(400, 'This order is not JSON.')
        if (error instanceof InvalidDocument) throw refuse(400, error.message)
        throw error
      }
      // The same order again is the same order.
      const before = await orders.read(id)
      if (before && before.state !== 'sound') return standing(await work(before))
      if (order.dueAt < now().toISOString()) throw refuse(422, 'That day is over. Choose a later one.')
      const kept: KeptOrder = {
        ...{ id, order, says: '', price: 0, currency: CURRENCY, fault, readyAt: null },
        ...{ state: 'sound', draft: before?.draft ?? '', deliveries: [] },
      }
      await orders.write(kept)
      return standing(kept)
    }),
  )
  router.put(
    '/api/orders/:id/draft',
    forPrograms(async (event) => {
      const kept = await orderOf(event)
      const draft = new TextDecoder().decode(await bodyOf(event, MOST_TEXT))
      try {
        readVtt(draft, () => 'x')
      } catch (error) {
        throw refuse(400, `The draft cannot be read. ${errorMessage(error)}`)
      }
      if (kept.state !== 'sound') return standing(kept)
      const next = { ...kept, draft }
      await orders.write(next)
      return standing(next)
    }),
  )
  router.put(
    '/api/orders/:id/sound',
    forPrograms(async (event) => {
      const kept = await orderOf(event)
      const sound = await bodyOf(event, MOST_SOUND)
      if (kept.state !== 'sound') return standing(kept)
      let minutes: number
      try {
        const { dataSize, sampleRate, channels, bitsPerSample } = readWavHeader(sound)
        minutes = dataSize / (sampleRate * channels * (bitsPerSample / 8)) / 60
      } catch (error) {
        throw refuse(400, `The sound cannot be read. ${errorMessage(error)}`)
      }
      if (!kept.draft && !listen) throw refuse(422, 'Nobody is here to listen just now. Send a draft along.')
      const wait = Math.max(1, pace * minutes)
      const next: KeptOrder = {
        ...kept,
        state: 'work',
        price: PRICE * Math.max(1, Math.ceil(minutes)),
        readyAt: kept.fault === 'late' ? null : new Date(now().getTime() + 1000 * wait).toISOString(),
      }
      if (!next.draft && listen) {
        // It is listened to now, as the sound is not kept.
        try {
          next.draft = writeDraft(await listen(sound, kept.order.language))
        } catch (error) {
          next.state = 'refused'
          next.says = `It could not be listened to. ${errorMessage(error)}`
        }
      }
      await orders.write(next)
      return standing(next)
    }),
  )
  router.get(
    '/api/orders/:id',
    forPrograms(async (event) => standing(await orderOf(event))),
  )
  router.delete(
    '/api/orders/:id',
    forPrograms(async (event) => {
      const kept = await orderOf(event)
      if (kept.state === 'ready') throw refuse(409, 'It has been delivered already.')
      const next: KeptOrder = { ...kept, state: 'cancelled', price: 0 }
      await orders.write(next)
      return standing(next)
    }),
  )
  router.get(
    '/api/orders/:id/deliveries/:number',
    forPrograms(async (event) => {
      const kept = await orderOf(event)
      const text = kept.deliveries[Number(getRouterParam(event, 'number')) - 1]
      if (text === undefined) throw refuse(404, 'There is no such delivery.')
      setHeader(event, 'content-type', 'text/vtt; charset=utf-8')
      return text
    }),
  )

  const html = (event: H3Event, text: string) => {
    setHeader(event, 'content-type', 'text/html; charset=utf-8')
    setHeader(event, 'content-security-policy', "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'")
    return text
  }
  router.get(
    '/',
    defineEventHandler(async (event) => {
      const all = await Promise.all((await orders.all()).map(work))
      return html(event, deskPage({ account, key, fault, orders: all }))
    }),
  )
  /** What stands in a form of this site; one of another site is refused. */
  const form = async (event: H3Event) => {
    const from = getHeader(event, 'origin')
    if (from && from !== 'null' && new URL(from).host !== getHeader(event, 'host')) throw refuse(403, 'Not from there.')
    return new URLSearchParams(new TextDecoder().decode(await bodyOf(event, 4096)))
  }
  router.post(
    '/fault',
    defineEventHandler(async (event) => {
      try {
        fault = parseAs(Fault, (await form(event)).get('fault'), 'choice')
      } catch (error) {
        if (error instanceof InvalidDocument) throw refuse(400, errorMessage(error))
        throw error
      }
      return sendRedirect(event, '/', 303)
    }),
  )
  router.post(
    '/deliver/:id',
    defineEventHandler(async (event) => {
      await form(event)
      const kept = await orderOf(event)
      if (kept.state === 'work') await deliver(kept)
      return sendRedirect(event, '/', 303)
    }),
  )
  const app = standInApp()
  app.use(router)
  return app
}

const writeDraft = (words: readonly Word[]): string => deliveries(cuesOf(words), 'none')[0] ?? ''
