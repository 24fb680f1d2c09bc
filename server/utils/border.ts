/** The server's border: every parameter and body is checked here, once, and refused with a plain 4xx and a sentence. */
import type { Static, TSchema } from '@sinclair/typebox'
import type { H3Event } from 'h3'
import { InvalidDocument, parseAs } from '#core/schema/validate'

export function refuse(statusCode: number, message: string): never {
  throw createError({ statusCode, message, statusMessage: { 400: 'Bad Request', 401: 'Unauthorized', 403: 'Forbidden', 404: 'Not Found', 409: 'Conflict', 413: 'Payload Too Large', 415: 'Unsupported Media Type', 416: 'Range Not Satisfiable', 503: 'Service Unavailable' }[statusCode] })
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

/** The body's bytes, refused as soon as they are more than `most`. */
export async function limitedBody(event: H3Event, most: number): Promise<Uint8Array<ArrayBuffer>> {
  const declared = Number(getRequestHeader(event, 'content-length') ?? 0)
  if (declared > most) refuse(413, `This is larger than the ${most} bytes that are taken here.`)
  const parts: Buffer[] = []
  let size = 0
  for await (const part of event.node.req as AsyncIterable<Buffer>) {
    size += part.byteLength
    if (size > most) refuse(413, `This is larger than the ${most} bytes that are taken here.`)
    parts.push(part)
  }
  const bytes = new Uint8Array(size)
  let at = 0
  for (const part of parts) {
    bytes.set(part, at)
    at += part.byteLength
  }
  return bytes
}

/** The body as JSON of a known shape. */
export async function bodyAs<S extends TSchema>(event: H3Event, schema: S, what: string, most = 1 << 20): Promise<Static<S>> {
  if (!/^application\/json\b/.test(getRequestHeader(event, 'content-type') ?? '')) refuse(415, 'Send this as application/json.')
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
