/** The server's border: every parameter and body is checked here, once, and refused with a plain 4xx and a sentence. */
import type { Static, TSchema } from '@sinclair/typebox'
import { STATUS_CODES } from 'node:http'
import { BlockList, isIP } from 'node:net'
import { createError, getRequestHeader, getQuery, getRouterParam, setHeader, type H3Event } from 'h3'
import { RateLimiterMemory } from 'rate-limiter-flexible'
import { personKey } from '#core/course/people'
import type { Student } from '#core/schema/attempt'
import { LanguageTag } from '#core/schema/captions'
import { collectBytes } from '#core/schema/collect'
import { InvalidDocument, parseAs } from '#core/schema/validate'

export function refuse(statusCode: number, message: string): never {
  throw createError({ statusCode, message, statusMessage: STATUS_CODES[statusCode] })
}

/** Proxies that are believed who a request comes from. */
const proxies = new BlockList()
for (const one of (process.env.THAW_TRUSTED_PROXIES ?? '').split(/[\s,]+/).filter(Boolean)) {
  const [address = '', bits] = one.split('/')
  const family = isIP(address) === 6 ? 'ipv6' : 'ipv4'
  if (bits === undefined) proxies.addAddress(address, family)
  else proxies.addSubnet(address, Number(bits), family)
}
const isProxy = (address: string) =>
  isIP(address) !== 0 && proxies.check(address, isIP(address) === 6 ? 'ipv6' : 'ipv4')

/**
 * The address that a request comes from: the one that is connected, or, behind trusted proxies, the last in
 * `X-Forwarded-For` that is none of them.
 */
export function clientAddress(event: H3Event): string {
  const plain = (address: string) => address.trim().replace(/^::ffff:/, '')
  const chain = (getRequestHeader(event, 'x-forwarded-for') ?? '').split(',').map(plain).filter(Boolean)
  let from = plain(event.node.req.socket.remoteAddress ?? '')
  while (isProxy(from) && chain.length > 0) from = chain.pop() ?? from
  return from
}

/**
 * Limits how often one person asks for something at one place.
 * @param points how often within `duration` s
 * @returns refuses with a sentence who comes faster
 */
export function pacer(points: number, duration: number): (placeId: string, student: Student) => Promise<void> {
  const limiter = new RateLimiterMemory({ points, duration })
  return async (placeId, student) => {
    const inPace = await limiter.consume(`${placeId} ${personKey(student)}`).then(
      () => true,
      () => false,
    )
    if (!inPace) refuse(429, 'Too much comes from here at once; it is taken in a moment.')
  }
}

/** Refuses every method but these. */
export function onlyMethods(event: H3Event, ...methods: string[]): void {
  if (methods.includes(event.method)) return
  setHeader(event, 'allow', methods.join(', '))
  refuse(405, `This address takes ${methods.join(' and ')} only.`)
}

/** A route parameter that is an id; anything else, path tricks included, is not found. */
export function idParam(event: H3Event, name: string): string {
  const value = getRouterParam(event, name, { decode: true }) ?? ''
  if (!/^[A-Za-z0-9_-]{1,64}$/.test(value)) refuse(404, 'There is nothing at this address.')
  return value
}

/** A route parameter that is a whole number from 0. */
export function indexParam(event: H3Event, name: string): number {
  const value = getRouterParam(event, name) ?? ''
  if (!/^\d{1,6}$/.test(value)) refuse(404, 'There is nothing at this address.')
  return Number(value)
}

/** The number of the last entry that whoever asks has (`?after=17`); 0 when it is not said. */
export function numberQuery(event: H3Event, name: string): number {
  const value = String(getQuery(event)[name] ?? '0')
  return /^\d{1,16}$/.test(value) ? Number(value) : refuse(400, `“${name}” is the number of the last one you have.`)
}

/** The language (BCP 47) that the query names (`?language=pt-BR`); English when it names none. */
export function languageQuery(event: H3Event): string {
  const { language = 'en' } = getQuery(event)
  return checked(() => parseAs(LanguageTag, language, 'language'))
}

/** The body's bytes, refused as soon as they are more than `most`. */
export async function limitedBody(event: H3Event, most: number): Promise<Uint8Array<ArrayBuffer>> {
  const declared = Number(getRequestHeader(event, 'content-length') ?? 0)
  if (declared > most) refuse(413, `This is larger than the ${most} bytes that are taken here.`)
  // The stream is left open, so that the refusal can be told; then the connection ends.
  const bytes = await collectBytes(
    event.node.req.iterator({ destroyOnReturn: false }) as AsyncIterable<Uint8Array>,
    most,
  )
  if (bytes) return bytes
  setHeader(event, 'connection', 'close')
  return refuse(413, `This is larger than the ${most} bytes that are taken here.`)
}

/** The body as JSON of a known shape. */
export async function bodyAs<S extends TSchema>(
  event: H3Event,
  schema: S,
  what: string,
  most = 1 << 20,
): Promise<Static<S>> {
  if (!/^application\/json\b/.test(getRequestHeader(event, 'content-type') ?? ''))
    refuse(415, 'Send this as application/json.')
  const bytes = await limitedBody(event, most)
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes))
  } catch {
    refuse(400, `This ${what} is not JSON.`)
  }
  return checked(() => parseAs(schema, data, what))
}

/** Runs a check of the core and turns its complaint into a 400. */
export function checked<T>(check: () => T): T {
  try {
    return check()
  } catch (error) {
    if (error instanceof InvalidDocument) refuse(400, error.message)
    throw error
  }
}
