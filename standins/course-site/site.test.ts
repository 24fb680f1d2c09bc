import { mkdtemp, readdir, rm, stat } from 'node:fs/promises'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { toNodeListener } from 'h3'
import { jwtVerify, SignJWT } from 'jose'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { CourseItem } from '../../core/schema/course-site'
import { documents } from '../documents'
import { demoCourses, practiceStudents } from './people'
import { courseSite, StoredCourse } from './site'

const key = 'lets Thaw in'
const launchSecret = 'signs launches, and Thaw has it'
const cookieSecret = 'signs cookies, and nobody has it'
const item = { week: 2, title: 'Tides', from: '2026-01-01T00:00:00.000Z', until: null }
const bytes = (text: string) => new TextEncoder().encode(text)

let folder: string
let server: Server
let site: string
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'course-site-'))
  const courses = await documents(join(folder, 'courses'), StoredCourse)
  await courses.write('ps201', demoCourses.ps201!)
  const app = courseSite({
    ...{ courses, items: await documents(join(folder, 'items'), CourseItem), demo: true },
    ...{ key, launchSecret, cookieSecret, launchUrl: 'http://thaw.example/launch' },
  })
  server = createServer(toNodeListener(app))
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  site = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterEach(async () => {
  server.closeAllConnections()
  await new Promise((resolve) => server.close(resolve))
  await rm(folder, { recursive: true })
})

const ask = (method: string, path: string, body?: object, bearer = key) =>
  fetch(`${site}/api/${path}`, {
    method,
    headers: { authorization: `Bearer ${bearer}` },
    ...(body && { body: JSON.stringify(body) }),
  })
async function signIn(subject: string): Promise<string> {
  const body = new URLSearchParams({ student: subject })
  const answer = await fetch(`${site}/sign-in`, { method: 'POST', body, redirect: 'manual' })
  return answer.headers.getSetCookie()[0]?.split(';')[0] ?? ''
}
const page = async (path: string, cookie: string) => (await fetch(site + path, { headers: { cookie } })).text()

describe('a course of one’s own', () => {
  it('is made known, attended, renamed with those who attend it, and taken off with what stands on its page', async () => {
    expect((await ask('PUT', 'items/i1', { ...item, courseId: 'oc1' })).status).toBe(400)
    expect((await ask('GET', 'courses/oc1/roster')).status).toBe(404)
    await ask('PUT', 'courses/oc1', { code: 'OC 1', title: 'Oceans' })
    const roster = await (await ask('PUT', 'courses/oc1/roster', { subjects: ['p02', 'p01'] })).json()
    expect(roster).toEqual(practiceStudents.slice(0, 2))
    await ask('PUT', 'courses/oc1', { code: 'OC 1', title: 'Oceans & <b>Tides</b>' })
    expect(await (await ask('GET', 'courses/oc1/roster')).json()).toEqual(roster)
    expect((await ask('PUT', 'items/i1', { ...item, courseId: 'oc1' })).status).toBe(200)

    const cookie = await signIn('p01')
    expect(await page('/', cookie)).toContain('OC 1 Oceans &#38; &#60;b&#62;Tides')
    expect(await page('/', cookie)).not.toMatch(/Norrhaven|Glaciers/)
    expect(await page('/courses/oc1', cookie)).toContain('Tides</a>')
    expect((await fetch(`${site}/courses/oc1`, { headers: { cookie: await signIn('p03') } })).status).toBe(404)

    await ask('DELETE', 'courses/oc1')
    expect((await fetch(`${site}/courses/oc1`, { headers: { cookie } })).status).toBe(404)
    expect(await readdir(join(folder, 'items'))).toEqual([])
  })
  it('is attended by people whom the site knows, and by nobody else', async () => {
    await ask('PUT', 'courses/oc1', { code: 'OC 1', title: 'Oceans' })
    const refused = await ask('PUT', 'courses/oc1/roster', { subjects: ['p01', 'nobody'] })
    expect([refused.status, await refused.json()]).toEqual([400, { message: 'This site knows nobody called nobody.' }])
    expect(await (await ask('GET', 'courses/oc1/roster')).json()).toEqual([])
    expect((await ask('PUT', 'courses/oc1/roster', { subjects: ['p01', 'p01'] })).status).toBe(400)
    expect((await ask('PUT', 'courses/none/roster', { subjects: [] })).status).toBe(404)
  })
})

describe('a lecture that can be watched live', () => {
  const [MINUTE, DAY] = [60_000, 24 * 3_600_000]
  const at = (ago: number) => new Date(Date.now() - ago).toISOString()
  it.each<[string, Partial<CourseItem>, RegExp | null]>([
    ['to come', { liveAt: at(-MINUTE) }, /live, \w+day/],
    ['held up for a few minutes', { liveAt: at(5 * MINUTE) }, /live, \w+day/],
    ['late', { liveAt: at(20 * MINUTE) }, /was to be live on .*, and has not begun/],
    ['never held', { liveAt: at(1.1 * DAY) }, null],
    ['held now', { liveAt: at(2 * DAY), live: 'on' }, /live now/],
    ['over', { liveAt: at(2 * DAY), live: 'ended' }, /was live on/],
    ['long over, without a recording', { liveAt: at(8 * DAY), live: 'ended' }, null],
    ['a recording', {}, /Tides<\/a><\/li>/],
  ])('is said to be %s', async (_, more, says) => {
    await ask('PUT', 'items/i1', { ...item, ...more, courseId: 'ps201' })
    const html = await page('/courses/ps201', await signIn('s01'))
    if (says) expect(html).toMatch(says)
    else expect(html).not.toContain('Tides')
  })
})

describe('its secrets', () => {
  it('are each for one purpose', async () => {
    await ask('PUT', 'items/i1', { ...item, courseId: 'ps201' })
    const cookie = await signIn('s01')
    const html = await page('/courses/ps201/items/i1', cookie)
    const token = new URL(/src="([^"]+)"/.exec(html)![1]!).searchParams.get('token')!
    const { payload } = await jwtVerify(token, bytes(launchSecret), { audience: 'thaw' })
    expect(payload).toMatchObject({ sub: 's01', place: 'i1', name: 'Aino Varglund' })
    await expect(jwtVerify(token, bytes(cookieSecret))).rejects.toThrow()

    const forged = await new SignJWT()
      .setProtectedHeader({ alg: 'HS256' })
      .setSubject('s01')
      .setAudience('course-site')
      .setExpirationTime('1h')
      .sign(bytes(launchSecret))
    expect(await page('/', `course_site=${forged}`)).toContain('Sign in')
    expect(await page('/', `course_site=${token}`)).toContain('Sign in')
    for (const bearer of [launchSecret, cookieSecret, '', key.slice(0, -1)])
      expect((await ask('GET', 'people', undefined, bearer)).status).toBe(401)
  })
})

describe('what it keeps', () => {
  it('is read by nobody else on the machine', async () => {
    expect((await stat(join(folder, 'courses', 'ps201.json'))).mode & 0o077).toBe(0)
    expect((await stat(join(folder, 'courses'))).mode & 0o077).toBe(0)
  })
})
