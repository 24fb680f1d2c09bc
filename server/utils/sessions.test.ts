/** Who is asking: sessions end with the key they were opened with, tokens are for one purpose and one place. */
import { IncomingMessage, ServerResponse } from 'node:http'
import { mkdtemp, rm } from 'node:fs/promises'
import { Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createEvent, type H3Event } from 'h3'
import { jwtVerify, SignJWT } from 'jose'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { FIRST_ISSUER } from '#core/course/people'
import { openFileStore } from '../store/files'
import type { Store } from '../store/store'
import {
  forgetLaunches,
  mediaBase,
  openAuthorSession,
  requireAuthor,
  requireStudent,
  requireTicket,
  secret,
  takeLaunch,
  watchToken,
} from './sessions'
import { setStore } from './storage'

const LAUNCH_SECRET = 'shared with the course site alone'
let folder: string
let store: Store
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'thaw-sessions-'))
  setStore((store = await openFileStore({ folder })))
  vi.stubEnv('THAW_AUTHOR_KEY', 'the first key')
  vi.stubEnv('THAW_LAUNCH_SECRET', LAUNCH_SECRET)
})
afterEach(async () => {
  vi.unstubAllEnvs()
  vi.useRealTimers()
  await store.close()
  await rm(folder, { recursive: true })
})

function request(headers: Record<string, string> = {}): H3Event {
  const message = new IncomingMessage(new Socket())
  Object.assign(message.headers, headers)
  return createEvent(message, new ServerResponse(message))
}
async function signIn(key: string): Promise<H3Event> {
  const event = request()
  await openAuthorSession(event, key)
  const cookie = String(event.node.res.getHeader('set-cookie')).split(';')[0] ?? ''
  return request({ cookie })
}

describe('the author', () => {
  it('is signed out everywhere when the key is changed', async () => {
    const signedIn = await signIn('the first key')
    await expect(requireAuthor(signedIn)).resolves.toBeUndefined()
    vi.stubEnv('THAW_AUTHOR_KEY', 'another key')
    await expect(requireAuthor(signedIn)).rejects.toMatchObject({ statusCode: 401 })
    await expect(requireAuthor(await signIn('another key'))).resolves.toBeUndefined()
  })
})

describe('a student', () => {
  const launch = async (more: (jwt: SignJWT) => SignJWT = (jwt) => jwt) =>
    more(
      new SignJWT({ place: 'pl', name: 'Aino' })
        .setProtectedHeader({ alg: 'HS256' })
        .setJti('once-and-for-all')
        .setSubject('s01')
        .setAudience('thaw')
        .setIssuedAt()
        .setExpirationTime('5m'),
    ).sign(new TextEncoder().encode(LAUNCH_SECRET))
  const bearer = (token: string) => request({ authorization: `Bearer ${token}` })

  it('comes with a token that works once, and is remembered as long as it would hold', async () => {
    const token = await launch()
    expect((await takeLaunch(token)).student).toEqual({
      issuer: FIRST_ISSUER,
      subject: 's01',
      name: 'Aino',
    })
    await expect(takeLaunch(token)).rejects.toMatchObject({ statusCode: 401 })
    await forgetLaunches()
    await expect(takeLaunch(token)).rejects.toMatchObject({ statusCode: 401 })
    vi.useFakeTimers({ now: Date.now() + 6 * 60_000, toFake: ['Date'] })
    await forgetLaunches()
    expect(await store.documents('launches', {} as never).ids()).toEqual([])
    await expect(takeLaunch(token)).rejects.toMatchObject({ statusCode: 401 })
  })
  it('is told by site and subject of up to 255 characters each, and needs no name', async () => {
    const [issuer, subject] = [`https://${'a'.repeat(247)}`, 'ö'.repeat(255)]
    const as = (name: unknown) => (jwt: SignJWT) => {
      const other = new SignJWT({ place: 'pl', name })
        .setProtectedHeader({ alg: 'HS256' })
        .setJti(crypto.randomUUID())
        .setAudience('thaw')
      void jwt
      return other.setIssuer(issuer).setSubject(subject).setIssuedAt().setExpirationTime('5m')
    }
    const session = await takeLaunch(await launch(as(undefined)))
    expect(session.student).toEqual({ issuer, subject })
    expect((await requireStudent(bearer(await watchToken(session)), 'pl')).student).toEqual({ issuer, subject })
    // A name is for reading: it is shortened, and one that is none is left out.
    expect((await takeLaunch(await launch(as(`A\u0007 ${'b'.repeat(300)}`)))).student.name).toHaveLength(255)
    expect((await takeLaunch(await launch(as({ rubbish: 1 })))).student.name).toBeUndefined()
    await expect(takeLaunch(await launch((jwt) => as('x')(jwt).setSubject('c'.repeat(256))))).rejects.toMatchObject({
      statusCode: 401,
    })
  })
  it('without an id of the token, or for another audience, does not come in', async () => {
    await expect(takeLaunch(await launch((jwt) => jwt.setAudience('norrhaven')))).rejects.toMatchObject({
      statusCode: 401,
    })
    await expect(takeLaunch(await launch((jwt) => jwt.setJti('')))).rejects.toMatchObject({ statusCode: 401 })
  })
  it('watches an hour and more: the token is renewed, and what plays has one address to the end', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    const session = await takeLaunch(await launch())
    const base = await mediaBase('pl', session)
    let token = await watchToken(session)
    for (let n = 0; n < 9; n++) {
      vi.setSystemTime(Date.now() + 40 * 60_000)
      token = await watchToken(await requireStudent(bearer(token), 'pl'))
      expect(await mediaBase('pl', await requireStudent(bearer(token), 'pl'))).toBe(base)
      await expect(requireTicket(base.split('/').at(-1) ?? '', 'pl')).resolves.toMatchObject({ placeId: 'pl' })
    }
    vi.setSystemTime(Date.now() + 2 * 3600_000)
    await expect(requireStudent(bearer(token), 'pl')).rejects.toMatchObject({
      statusCode: 401,
      message: expect.stringContaining('your answers are kept') as string,
    })
  })
  it('is let in by a token for its purpose and its place alone', async () => {
    const session = await takeLaunch(await launch())
    const [token, ticket] = [await watchToken(session), (await mediaBase('pl', session)).split('/').at(-1) ?? '']
    await expect(requireTicket(token, 'pl')).rejects.toMatchObject({ statusCode: 401 })
    await expect(requireStudent(bearer(ticket), 'pl')).rejects.toMatchObject({ statusCode: 401 })
    await expect(requireStudent(bearer(token), 'other')).rejects.toMatchObject({ statusCode: 401 })
    const { payload } = await jwtVerify(token, new TextEncoder().encode(await secret('session')), { audience: 'watch' })
    expect(payload).not.toHaveProperty('role')
  })
  it('is not named in addresses of media, and told from others by them all the same', async () => {
    const as = (sub: string) => (jwt: SignJWT) => jwt.setSubject(sub).setJti(crypto.randomUUID())
    const session = await takeLaunch(await launch(as('s77')))
    const named = { ...session, student: { ...session.student, name: 'Somebody Seventh' } }
    const ticketOf = async (one: typeof session) => (await mediaBase('pl', one)).split('/').at(-1) ?? ''
    const readable = Buffer.from((await ticketOf(named)).split('.')[1] ?? '', 'base64url').toString()
    expect(readable).toContain('"place":"pl"')
    expect(readable).not.toMatch(/s77|Somebody|norrhaven/i)
    const { who } = await requireTicket(await ticketOf(named), 'pl')
    expect(who).toHaveLength(16)
    expect((await requireTicket(await ticketOf({ ...named, until: named.until - 60 }), 'pl')).who).toBe(who)
    const other = await takeLaunch(await launch(as('s78')))
    expect((await requireTicket(await ticketOf(other), 'pl')).who).not.toBe(who)
  })
})
