/**
 * Who is asking. The author holds a key that the start command prints; a student comes with a launch token that
 * the course site signed (JWT, RFC 7519). Both become cookies that scripts cannot read.
 */
import { randomBytes, timingSafeEqual } from 'node:crypto'
import { jwtVerify, SignJWT } from 'jose'
import type { H3Event } from 'h3'
import type { Student } from '#core/schema/attempt'
import { Student as StudentSchema } from '#core/schema/attempt'
import { parseAs } from '#core/schema/validate'
import { refuse } from './border'
import { inTurn, store } from './storage'

/** Secrets are made once and kept with the data; each has a purpose of its own. */
export function secret(purpose: 'session' | 'author' | 'course-site'): Promise<string> {
  return inTurn('secrets', async () => {
    const fromSetting = purpose === 'author' ? process.env.THAW_AUTHOR_KEY : undefined
    if (fromSetting) return fromSetting
    const key = `secrets:${purpose}`
    const kept = await store().getItem<string>(key)
    if (kept) return String(kept)
    const made = randomBytes(18).toString('base64url')
    await store().setItem(key, made)
    return made
  })
}

const bytes = async (purpose: Parameters<typeof secret>[0]) => new TextEncoder().encode(await secret(purpose))

const AUTHOR_COOKIE = 'thaw_author'

/** Opens an author's session when the key is right. */
export async function openAuthorSession(event: H3Event, key: string): Promise<void> {
  const given = Buffer.from(key)
  const right = Buffer.from(await secret('author'))
  if (given.length !== right.length || !timingSafeEqual(given, right)) refuse(401, 'That is not the author key. It stands in the terminal where Thaw was started.')
  const token = await new SignJWT({ role: 'author' }).setProtectedHeader({ alg: 'HS256' }).setIssuedAt().setExpirationTime('30d').sign(await bytes('session'))
  setCookie(event, AUTHOR_COOKIE, token, { httpOnly: true, sameSite: 'strict', path: '/api', maxAge: 30 * 86_400 })
}

/** Refuses everyone but the author. */
export async function requireAuthor(event: H3Event): Promise<void> {
  const token = getCookie(event, AUTHOR_COOKIE)
  if (!token) refuse(401, 'Only the author may do this. Sign in with the author key.')
  try {
    const { payload } = await jwtVerify(token, await bytes('session'), { algorithms: ['HS256'] })
    if (payload.role === 'author') return
  } catch {
    // An expired or forged token is the same as none.
  }
  refuse(401, 'The author’s session has ended. Sign in with the author key again.')
}

const watchCookie = (placeId: string) => `thaw_watch_${placeId}`

/** Reads a course site's launch token. @returns who comes, and to which place */
export async function readLaunch(token: string): Promise<{ placeId: string; student: Student }> {
  try {
    const { payload } = await jwtVerify(token, await bytes('course-site'), { algorithms: ['HS256'], audience: 'thaw', maxTokenAge: '5m' })
    const placeId = String(payload.place ?? '')
    if (!/^[A-Za-z0-9_-]{1,64}$/.test(placeId)) throw new Error('no place')
    return { placeId, student: parseAs(StudentSchema, { id: payload.sub, name: payload.name }, 'launch') }
  } catch {
    refuse(401, 'This link has run out. Go back to the course page and open the lecture again.')
  }
}

/** Opens a student's session for one place. */
export async function openWatchSession(event: H3Event, placeId: string, student: Student): Promise<void> {
  const token = await new SignJWT({ place: placeId, name: student.name }).setProtectedHeader({ alg: 'HS256' }).setSubject(student.id).setIssuedAt().setExpirationTime('12h').sign(await bytes('session'))
  setCookie(event, watchCookie(placeId), token, { httpOnly: true, sameSite: 'lax', path: `/api/watch/${placeId}`, maxAge: 12 * 3600 })
}

/** The student who watches at this place; refuses everyone who did not come through its course site. */
export async function requireStudent(event: H3Event, placeId: string): Promise<Student> {
  const token = getCookie(event, watchCookie(placeId))
  if (!token) refuse(401, 'Open this lecture from its course page.')
  try {
    const { payload } = await jwtVerify(token, await bytes('session'), { algorithms: ['HS256'] })
    if (payload.place === placeId) return parseAs(StudentSchema, { id: payload.sub, name: payload.name }, 'session')
  } catch {
    // Falls through: expired or forged.
  }
  refuse(401, 'Your session has ended. Open this lecture from its course page again; your answers are kept.')
}
