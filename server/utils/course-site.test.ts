/** What the course site is told: at once, or when it answers again; never what is older after what is newer. */
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { announced } from '#core/packages/live'
import type { CourseItem } from '#core/schema/course-site'
import { openFileStore } from '../store/files'
import type { Store } from '../store/store'
import { announceItem, courseRoster, tellLive, tellUntold, untoldItems, withdrawItem } from './course-site'
import { setStore } from './storage'

const item = (title: string): CourseItem => ({
  ...{ courseId: 'c', week: 1, title, from: '2026-01-01T00:00:00.000Z', until: null },
})
const place = { ...{ id: 'pl', publicationId: 'p', sets: [], options: { download: false } }, ...item('') }

let folder: string
let store: Store
/** What the site was asked, in order, and how it answers: with a status, 0 when it does not. */
let asked: { method: string; url: string; body?: CourseItem }[]
let status: number
/** What it says in place of what it should. */
let said: ReadableStream | string | null
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'thaw-course-site-'))
  setStore((store = await openFileStore({ folder })))
  asked = []
  status = 200
  said = null
  vi.stubEnv('THAW_COURSE_SITE', 'http://site.example/')
  vi.stubEnv('THAW_COURSE_SITE_KEY', 'the-key-of-the-site')
  vi.spyOn(console, 'error').mockImplementation(() => undefined)
  vi.stubGlobal('fetch', async (url: string, { method = 'GET', body, headers }: RequestInit) => {
    expect(headers).toMatchObject({ authorization: 'Bearer the-key-of-the-site' })
    asked.push({ method, url, ...(body && { body: JSON.parse(String(body)) as CourseItem }) })
    if (status === 0) throw new TypeError('fetch failed')
    return new Response(said ?? JSON.stringify(status === 200 ? [] : { message: 'No such.' }), { status })
  })
})
afterEach(async () => {
  vi.unstubAllEnvs()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
  await store.close()
  await rm(folder, { recursive: true })
})

describe('a lecture that is held live', () => {
  const broadcast = { ...announced({ place, title: 'Ice', startsAt: '2026-01-02T08:00:00.000Z' }, 'now'), run: 1 }
  const live = { ...item('Ice'), liveAt: broadcast.startsAt }
  it('is said to be on, then over, then to be a recording', async () => {
    await tellLive(place, broadcast, 'on')
    await tellLive(place, broadcast, 'ended')
    await announceItem(place, 'Ice')
    await tellUntold()
    expect(asked.map((a) => a.body)).toEqual([{ ...live, live: 'on' }, { ...live, live: 'ended' }, item('Ice')])
  })
  it('goes on without a site that does not answer, which is told the last of it later', async () => {
    status = 0
    await tellLive(place, broadcast, 'on')
    await tellLive(place, broadcast, 'ended')
    status = 200
    asked = []
    await tellUntold()
    await tellUntold()
    expect(asked.map((a) => a.body)).toEqual([{ ...live, live: 'ended' }])
  })
  it('is not spoken of again once it is taken back', async () => {
    status = 0
    await tellLive(place, broadcast, 'on')
    status = 200
    await withdrawItem('pl')
    asked = []
    await tellUntold()
    expect(asked).toEqual([])
  })
})

describe('what the site was not told yet', () => {
  it('is told once, and not again', async () => {
    await untoldItems().write('pl', item('Ice'))
    await tellUntold()
    await tellUntold()
    expect(asked).toEqual([{ method: 'PUT', url: 'http://site.example/api/items/pl', body: item('Ice') }])
  })
  it('waits for a site that does not answer, that takes no key, and for one at all', async () => {
    await untoldItems().write('pl', item('Ice'))
    await untoldItems().write('pl2', item('Snow'))
    for (status of [0, 500, 401]) await tellUntold()
    // It is not asked for each of many things while it is away.
    expect(asked).toHaveLength(3)
    vi.stubEnv('THAW_COURSE_SITE', '')
    await tellUntold()
    expect([asked.length, (await untoldItems().ids()).length]).toEqual([3, 2])
  })
  it('is let go where the site has no such course, and the rest is told', async () => {
    await untoldItems().write('pl', item('Ice'))
    status = 400
    await tellUntold()
    expect(await untoldItems().ids()).toEqual([])
  })
  it('never comes after what is newer', async () => {
    await untoldItems().write('pl', item('Ice'))
    await Promise.all([announceItem(place, 'Ice, anew'), tellUntold()])
    await tellUntold()
    expect(asked.at(-1)?.body?.title).toBe('Ice, anew')
    await untoldItems().write('pl', item('Ice'))
    await withdrawItem('pl')
    await tellUntold()
    expect(asked.at(-1)?.method).toBe('DELETE')
  })
})

describe('what the site answers', () => {
  it('is told in its words where it refuses, and in a sentence of ours where it does not answer', async () => {
    status = 404
    await expect(courseRoster('c')).rejects.toMatchObject({ statusCode: 404, message: 'No such.' })
    status = 401
    await expect(courseRoster('c')).rejects.toMatchObject({
      statusCode: 503,
      message: expect.stringContaining('THAW_COURSE_SITE_KEY'),
    })
    status = 0
    await expect(courseRoster('c')).rejects.toMatchObject({ statusCode: 503 })
    vi.stubEnv('THAW_COURSE_SITE', '')
    await expect(courseRoster('c')).rejects.toMatchObject({
      message: expect.stringContaining('No course site is connected'),
    })
  })
  it('is read so far and no further, and what is no answer is none', async () => {
    let sent = 0
    said = new ReadableStream({
      pull(to) {
        sent += 1 << 20
        to.enqueue(new Uint8Array(1 << 20))
      },
    })
    await expect(courseRoster('c')).rejects.toMatchObject({ statusCode: 503 })
    expect(sent).toBeLessThan(10 << 20)
    said = '<html>'
    await expect(courseRoster('c')).rejects.toThrow(/roster/)
  })
})
