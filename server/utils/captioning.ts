/**
 * A captioning service, as Thaw needs it: another house's, asked over HTTP with the key of an account (docs/formats.md, “A
 * captioning service”). The account is kept here; orders are the service's and the author's.
 */
import type { Readable } from 'node:stream'
import { Type, type Static, type TSchema } from '@sinclair/typebox'
import { OrderStanding, ServiceAccount } from '#core/schema/captioning'
import { InvalidDocument, parseAs } from '#core/schema/validate'
import { refuse } from './border'
import { askOutside, foreignWords, limitedText, NotAllowed, TooLarge } from './outgoing'
import { useStore } from './storage'

export const Connection = Type.Object(
  {
    /** http(s), without a path of its own orders. */
    address: Type.String({ pattern: '^https?://[^\\s/?#]+(/[^\\s?#]*)?$', maxLength: 500 }),
    key: Type.String({ minLength: 1, maxLength: 500, pattern: '^[\\x21-\\x7e]+$' }),
  },
  { additionalProperties: false },
)
export type Connection = Static<typeof Connection>

/** What the author is told of the connection; never its key. */
export interface ConnectionView {
  /** Of the service; where there is no connection, the one that is near. */
  address: string
  account: ServiceAccount | null
  /** Why there is none, or why the service does not answer; may be empty. */
  says: string
}

const connections = () => useStore().documents('captioning', Connection)
const ONLY = 'service'

/** How long it may take to answer, ms; sound may take longer to be sent. */
const PATIENCE = 20_000
/** Captions of a day, at most, and whatever else is said, bytes. */
const [MOST, MOST_SAID] = [10 << 20, 1 << 20]

interface Asked {
  method?: 'GET' | 'PUT' | 'DELETE'
  type?: string
  body?: string | Readable
  /** Bytes of a body that is streamed. */
  length?: number
}

type Answered = Awaited<ReturnType<typeof askOutside>>

/** The service that ships, where it runs beside. */
const near = () => process.env.THAW_CAPTIONING ?? ''
/** Hosts in a private network that a service may be on: the one that runs beside, and those that are listed. */
const trusted = () => [
  ...(near() ? [new URL(near()).host] : []),
  ...(process.env.THAW_CAPTIONING_HOSTS ?? '').split(/[\s,]+/).filter(Boolean),
]

/** Asks the service. What it refuses is told with its own words. */
async function ask({ address, key }: Connection, path: string, asked: Asked = {}): Promise<Answered> {
  const { method = 'GET', type, body, length } = asked
  const isStream = body !== undefined && typeof body !== 'string'
  const url = `${address.replace(/\/+$/, '')}/api/${path}`
  let response: Answered
  try {
    const init = {
      method,
      headers: {
        authorization: `Bearer ${key}`,
        ...(type && { 'content-type': type }),
        ...(length !== undefined && { 'content-length': String(length) }),
      },
      redirect: 'error' as const,
      ...(body !== undefined && { body }),
      ...(isStream ? { duplex: 'half' as const } : { signal: AbortSignal.timeout(PATIENCE) }),
    }
    response = await askOutside(url, init, trusted())
  } catch (error) {
    if (error instanceof NotAllowed)
      return refuse(
        409,
        `${error.host} is in a private network, which this server does not connect to. Whoever runs it can allow it in the setting THAW_CAPTIONING_HOSTS.`,
      )
    console.error(error)
    return refuse(503, 'The captioning service does not answer. Nothing was lost; it is asked again later.')
  }
  if (response.ok) return response
  const told = await limitedText(response, MOST_SAID)
    .then((text) => JSON.parse(text) as { message?: unknown } | null)
    .catch(() => null)
  const says = foreignWords(told?.message)
  if (response.status === 401)
    return refuse(409, `The captioning service does not take the key.${says && ` It says: “${says}”`}`)
  if (response.status >= 400 && response.status < 500)
    return refuse(
      response.status,
      says ? `The captioning service says: “${says}”` : `The captioning service refuses this (${response.status}).`,
    )
  return refuse(
    503,
    `The captioning service does not answer as it should (${response.status}). It is asked again later.`,
  )
}

async function answer<S extends TSchema>(response: Answered, schema: S, what: string): Promise<Static<S>> {
  try {
    return parseAs(schema, JSON.parse(await limitedText(response, MOST_SAID)), what)
  } catch (error) {
    if (!(error instanceof InvalidDocument || error instanceof SyntaxError || error instanceof TooLarge)) throw error
    return refuse(502, `What the captioning service answers cannot be read. ${error.message}`)
  }
}

async function connected(): Promise<Connection> {
  const found = await connections().read(ONLY)
  if (!found) refuse(409, 'No captioning service is connected. Connect its account first.')
  return found
}

export async function connection(): Promise<ConnectionView> {
  const found = await connections().read(ONLY)
  if (!found) return { address: near(), account: null, says: '' }
  try {
    const account = await answer(await ask(found, 'account'), ServiceAccount, 'account')
    return { address: found.address, account, says: '' }
  } catch (error) {
    return { address: found.address, account: null, says: (error as Error).message }
  }
}

/** Connects an account once the service knows it. */
export async function connect(wanted: Connection): Promise<ConnectionView> {
  const account = await answer(await ask(wanted, 'account'), ServiceAccount, 'account')
  await connections().write(ONLY, wanted)
  return { address: wanted.address, account, says: '' }
}

export const disconnect = (): Promise<void> => connections().remove(ONLY)

/** Does something to an order. @returns where it then stands */
export async function askOrder(id: string, path: '' | 'draft' | 'sound', asked: Asked = {}): Promise<OrderStanding> {
  const at = `orders/${id}${path && `/${path}`}`
  const standing = await answer(await ask(await connected(), at, asked), OrderStanding, 'answer about an order')
  if (standing.id !== id) refuse(502, 'The captioning service answers about another order.')
  return standing
}

/** Captions that the service sent, as WebVTT. @param number from 1 */
export async function delivery(id: string, number: number): Promise<string> {
  const response = await ask(await connected(), `orders/${id}/deliveries/${number}`)
  return limitedText(response, MOST).catch((error: unknown) => {
    if (!(error instanceof TooLarge)) throw error
    return refuse(502, 'The captioning service sends more than captions can be.')
  })
}
