/**
 * Who is asking. The author holds a key that the start command prints, and gets a cookie for it. A student comes with a
 * launch token that the course site signed (JWT, RFC 7519) and that works once; the player then carries a bearer token
 * of its own (RFC 6750), as it stands inside another site's page, where browsers refuse cookies. What a media element
 * asks for cannot carry one, so that its address holds a ticket.
 */
import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto'
import { jwtVerify, SignJWT, type JWTPayload } from 'jose'
import { RateLimiterMemory } from 'rate-limiter-flexible'
import { getCookie, getRequestHeader, getRequestProtocol, setCookie, type H3Event } from 'h3'
import { Type } from '@sinclair/typebox'
import { FIRST_ISSUER } from '#core/course/people'
import type { Student } from '#core/schema/attempt'
import { Student as StudentSchema } from '#core/schema/attempt'
import { Instant } from '#core/schema/parts'
import { InvalidDocument, parseAs } from '#core/schema/validate'
import { clientAddress, refuse } from './border'
import { useStore } from './storage'

type Purpose = 'session' | 'author'

export const secrets = () => useStore().documents('secrets', Type.Object({ secret: Type.String({ minLength: 16 }) }))
const launches = () => useStore().documents('launches', Type.Object({ until: Instant }))

/** Secrets are made once and kept with the data; each has a purpose of its own. */
export async function secret(purpose: Purpose): Promise<string> {
  const fromSetting = purpose === 'author' ? process.env.THAW_AUTHOR_KEY : undefined
  if (fromSetting) return fromSetting
  const known = await secrets().read(purpose)
  if (known) return known.secret
  return useStore().exclusive('secrets', async () => {
    const kept = await secrets().read(purpose)
    if (kept) return kept.secret
    const made = randomBytes(18).toString('base64url')
    await secrets().write(purpose, { secret: made })
    return made
  })
}

const sessionKey = async () => new TextEncoder().encode(await secret('session'))

/** The claims of a token that is genuine, meant for `audience` and not over; null otherwise. */
async function claims(
  token: string,
  key: Uint8Array,
  audience: string,
  maxTokenAge?: string,
): Promise<JWTPayload | null> {
  try {
    const { payload } = await jwtVerify(token, key, {
      algorithms: ['HS256'],
      audience,
      ...(maxTokenAge && { maxTokenAge }),
    })
    return payload
  } catch (error) {
    // An expired or forged token is the same as none; anything else is a fault of the server.
    if (error instanceof Error && 'code' in error && String(error.code).startsWith('ERR_J')) return null
    throw error
  }
}

/**
 * Says nothing of when it is made: the same session has the same ticket, so that an address does not change while it is
 * played.
 */
const sign = async (audience: string, payload: JWTPayload, until: string | number): Promise<string> =>
  new SignJWT(payload)
    .setProtectedHeader({ alg: 'HS256' })
    .setAudience(audience)
    .setExpirationTime(until)
    .sign(await sessionKey())

const AUTHOR_COOKIE = 'thaw_author'

/** Names the author key in a session without telling it: another key ends all sessions. */
const keyMark = async () =>
  createHash('sha256')
    .update(`author ${await secret('author')}`)
    .digest('base64url')
    .slice(0, 22)

/** Wrong keys that are told to be wrong: from one address, and in all, as addresses are cheap. */
const guesses = new RateLimiterMemory({ points: 10, duration: 60 })
const allGuesses = new RateLimiterMemory({ points: 100, duration: 60 })

/** Opens an author's session when the key is right. The right one opens it however many wrong ones were tried. */
export async function openAuthorSession(event: H3Event, key: string): Promise<void> {
  const digest = (text: string) => createHash('sha256').update(text).digest()
  if (!timingSafeEqual(digest(key), digest(await secret('author')))) {
    const counted = await Promise.allSettled([guesses.consume(clientAddress(event)), allGuesses.consume('all')])
    if (counted.some((c) => c.status === 'rejected'))
      refuse(429, 'Too many wrong keys were tried. Wait a minute and try again.')
    refuse(401, 'That is not the author key. It stands in the terminal where Thaw was started.')
  }
  setCookie(event, AUTHOR_COOKIE, await sign('author', { key: await keyMark() }, '30d'), {
    httpOnly: true,
    secure: getRequestProtocol(event, { xForwardedProto: true }) === 'https',
    sameSite: 'strict',
    path: '/api',
    maxAge: 30 * 86_400,
  })
}

/** Refuses everyone but the author. */
export async function requireAuthor(event: H3Event): Promise<void> {
  const token = getCookie(event, AUTHOR_COOKIE)
  if (!token) refuse(401, 'Only the author may do this. Sign in with the author key.')
  if ((await claims(token, await sessionKey(), 'author'))?.key !== (await keyMark()))
    refuse(401, 'The author’s session has ended. Sign in with the author key again.')
}

/** Someone who watches at a place. */
export interface WatchSession {
  placeId: string
  student: Student
  /** When it is over, however often it is renewed, s since the epoch. */
  until: number
}

/** When a session began, however often it was renewed, ISO 8601 UTC. */
export const beganAt = ({ until }: Pick<WatchSession, 'until'>): string =>
  new Date((until - SESSION) * 1000).toISOString()

/** How long one may watch after coming from the course page, and how long a token holds that is not renewed, s. */
const SESSION = 12 * 3600
const TOKEN = 3600

/**
 * Whom a token speaks of. A name is for reading: one that cannot be shown as it is is shortened, and one that is missing
 * keeps nobody out. @throws {InvalidDocument}
 */
function studentOf({ iss = FIRST_ISSUER, sub, name }: JWTPayload): Student {
  const shown =
    typeof name === 'string'
      ? name
          .replaceAll(/\p{Cc}+/gu, ' ')
          .trim()
          .slice(0, 255)
      : ''
  return parseAs(StudentSchema, { issuer: iss, subject: sub, ...(shown && { name: shown }) }, 'session')
}

function readSession(payload: JWTPayload | null, placeId: string): WatchSession | null {
  if (payload?.place !== placeId || typeof payload.until !== 'number') return null
  return {
    placeId,
    student: studentOf(payload),
    until: payload.until,
  }
}

/** Seconds since the epoch. */
const clock = () => Math.floor(Date.now() / 1000)

/** Takes a course site's launch token, which works once. @returns the session that it opens */
export async function takeLaunch(token: string): Promise<WatchSession> {
  const over = 'This link has been used, or has run out. Go back to the course page and open the lecture again.'
  const launchSecret = process.env.THAW_LAUNCH_SECRET
  if (!launchSecret)
    return refuse(401, 'No course site is connected to this server, so that no lecture opens from one.')
  const payload = await claims(token, new TextEncoder().encode(launchSecret), 'thaw', '5m')
  const placeId = String(payload?.place ?? '')
  const jti = String(payload?.jti ?? '')
  if (!payload?.exp || !/^[A-Za-z0-9_-]{1,64}$/.test(placeId) || !/^[A-Za-z0-9_-]{8,64}$/.test(jti)) refuse(401, over)
  try {
    const student = studentOf(payload)
    if (!(await launches().create(jti, { until: new Date(payload.exp * 1000).toISOString() }))) refuse(401, over)
    return { placeId, student, until: clock() + SESSION }
  } catch (error) {
    if (error instanceof InvalidDocument) refuse(401, over)
    throw error
  }
}

/** Forgets launch tokens that have run out anyway. */
export async function forgetLaunches(): Promise<void> {
  for (const jti of await launches().ids())
    if (!(Date.parse((await launches().read(jti))?.until ?? '') > Date.now())) await launches().remove(jti)
}

/** The player's bearer token. */
export const watchToken = ({ placeId, student, until }: WatchSession): Promise<string> =>
  sign(
    'watch',
    { place: placeId, iss: student.issuer, sub: student.subject, ...(student.name && { name: student.name }), until },
    Math.min(until, clock() + TOKEN),
  )

const SIGNED_OUT = 'Your session has ended. Open this lecture from its course page again; your answers are kept.'

/** Who watches at this place; refuses everyone who did not come through its course site. */
export async function requireStudent(event: H3Event, placeId: string): Promise<WatchSession> {
  const token = /^Bearer ([\w.-]+)$/.exec(getRequestHeader(event, 'authorization') ?? '')?.[1]
  if (!token) refuse(401, 'Open this lecture from its course page.')
  return readSession(await claims(token, await sessionKey(), 'watch'), placeId) ?? refuse(401, SIGNED_OUT)
}

/** What an address of media is good for. */
export interface MediaTicket extends Pick<WatchSession, 'placeId' | 'until'> {
  /** Tells one who watches at a place from another, and not who it is. */
  who: string
}

/**
 * The address below which a session's media are. It holds to the session's end, so that nothing that plays is cut off.
 * Addresses are copied, and stand in logs: nobody is named in them.
 */
export async function mediaBase(placeId: string, { student, until }: WatchSession): Promise<string> {
  const person = JSON.stringify(['media', placeId, student.issuer, student.subject])
  const who = createHmac('sha256', await sessionKey())
    .update(person)
    .digest('base64url')
    .slice(0, 16)
  return `/api/watch/${placeId}/media/${await sign('media', { place: placeId, who, until }, until)}`
}

/** What the ticket in an address of media is good for; refuses one that is not. */
export async function requireTicket(ticket: string, placeId: string): Promise<MediaTicket> {
  const payload = await claims(ticket, await sessionKey(), 'media')
  if (payload?.place !== placeId || typeof payload.until !== 'number') return refuse(401, SIGNED_OUT)
  // Players that were opened before an update have tickets without it.
  return { placeId, until: payload.until, who: typeof payload.who === 'string' ? payload.who : '' }
}
