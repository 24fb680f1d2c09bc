/** Every route of the server, tried with what it must refuse: a plain 4xx with a sentence, and nothing changed. */
import { spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { once } from 'node:events'
import { existsSync, readdirSync, statSync } from 'node:fs'
import { mkdtemp, readFile, rm } from 'node:fs/promises'
import { request } from 'node:http'
import { connect } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { beforeAll, describe, expect, test } from 'vitest'
import { onlySetId } from '../core/packages/upgrade'
import { withChange, type WatchChange, type WatchView } from '../core/packages/watch-view'
import type { StoredAuditEntry } from '../core/schema/audit'
import { PART_SIZE, type PublishedVersions, type SetUpload } from '../core/schema/publication'
import { richOf } from '../core/text/rich-text'
import { freePort, root } from '../scripts/setup.mjs'
import { letPass } from './at-rest'
import { AUTHOR_KEY } from './serve'
import { checkpoint, placeOf, publication, setOf } from './publication'
import { served } from './served'

const origin = served.origin
const courseSite = served.courseSite
let author = ''

const json = (body: unknown, cookie = author): RequestInit => ({
  method: 'POST',
  headers: { 'content-type': 'application/json', cookie },
  body: JSON.stringify(body),
})
async function refused(response: Promise<Response>, status: number): Promise<string> {
  const answer = await response
  const body = (await answer.json().catch(() => ({}))) as { message?: string; stack?: unknown }
  expect(answer.status, body.message).toBe(status)
  expect(body.message ?? '').toMatch(/\S/)
  expect(JSON.stringify(body)).not.toMatch(/node_modules|at .*\.mjs/)
  return body.message ?? ''
}
/** Cookies of an answer, for the next request. */
const cookies = (response: Response) =>
  response.headers
    .getSetCookie()
    .map((c) => c.split(';')[0])
    .join('; ')
const sha256 = (data: Uint8Array) => createHash('sha256').update(data).digest('hex')

const media = new Uint8Array(PART_SIZE + 500).fill(7)
const parts = [media.subarray(0, PART_SIZE), media.subarray(PART_SIZE)]
const asked = (id: string, right = 'a'): SetUpload => {
  const { set, keys } = setOf(id, onlySetId(id), [checkpoint('cp', 1, 'q')], right)
  return { set, keys: { ...keys, keys: keys.keys.map((key) => ({ ...key, explanation: richOf('the secret') })) } }
}
const made = (id: string, title = 'Border') => ({
  ...publication(id, title, 5, { size: media.length, parts: parts.map(sha256) }, []),
  sets: [asked(id)],
})
const uploads = (id: string) => `${origin}/api/publications/${id}/uploads`

async function open(id: string, title?: string): Promise<string> {
  const answer = await fetch(uploads(id), json(made(id, title)))
  expect(answer.status).toBe(200)
  return ((await answer.json()) as PublishedVersions).version
}
const put = (id: string, upload: string, index: number | string, body: Uint8Array, file = 'screen.mp4') =>
  fetch(`${uploads(id)}/${upload}/parts/${file}/${index}`, {
    method: 'PUT',
    headers: { cookie: author },
    body: body as BodyInit,
  })
const commit = (id: string, upload: string) =>
  fetch(`${uploads(id)}/${upload}/commit`, { method: 'POST', headers: { cookie: author } })
const publishedVersion = async (id: string): Promise<string> =>
  (
    JSON.parse(await readFile(join(served.dataFolder, 'documents', 'publications', `${id}.json`), 'utf8')) as {
      current: string
    }
  ).current
async function publish(id: string, title?: string): Promise<void> {
  const upload = await open(id, title)
  for (const [i, part] of parts.entries()) expect((await put(id, upload, i, part)).status).toBe(200)
  expect((await commit(id, upload)).status).toBe(200)
}
const place = (id: string, publicationId: string, from = '2026-01-01T00:00:00.000Z', until: string | null = null) =>
  fetch(`${origin}/api/places/${id}`, {
    ...json(placeOf(id, publicationId, 'ps201', { week: 3, from, until })),
    method: 'PUT',
  })

/** Where the course site's page sends a student's browser; empty when it shows no such lecture. */
async function launchAddress(placeId: string, id = 's02'): Promise<string> {
  const site = cookies(
    await fetch(`${courseSite}/sign-in`, {
      method: 'POST',
      body: new URLSearchParams({ student: id }),
      redirect: 'manual',
    }),
  )
  const html = await (await fetch(`${courseSite}/courses/ps201/items/${placeId}`, { headers: { cookie: site } })).text()
  return /src="([^"]*launch[^"]*)"/.exec(html)?.[1] ?? ''
}
/** Signs in at the course site and opens a place the way a browser does. @returns the player's token */
async function student(placeId: string, id = 's02'): Promise<string> {
  const answer = await fetch(await launchAddress(placeId, id), { redirect: 'manual' })
  expect(answer.headers.getSetCookie()).toEqual([])
  return new URLSearchParams(new URL(answer.headers.get('location') ?? '/', origin).hash.slice(1)).get('token') ?? ''
}
const bearer = (token: string) => ({ headers: { authorization: `Bearer ${token}` } })
/** What the player is told of a place, and the address of its film. */
async function view(placeId: string, token: string) {
  const told = (await (await fetch(`${origin}/api/watch/${placeId}`, bearer(token))).json()) as {
    title: string
    kind: string
    state?: string
    version: string
    feeds?: { url: string }[]
    playlist?: string | null
  }
  return { ...told, media: told.feeds?.[0]?.url ?? '' }
}

beforeAll(async () => {
  author = cookies(await fetch(`${origin}/api/author/session`, json({ key: AUTHOR_KEY }, '')))
  expect(author).toContain('thaw_author')
})

describe('the author’s session', () => {
  test('opens only with the key', async () => {
    await refused(fetch(`${origin}/api/author/session`, json({ key: 'guess' }, '')), 401)
    await refused(fetch(`${origin}/api/author/session`, json({}, '')), 400)
    await refused(fetch(`${origin}/api/author/session`, { method: 'POST', body: 'key=x' }), 415)
    await refused(
      fetch(`${origin}/api/author/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: '{torn',
      }),
      400,
    )
    await refused(fetch(`${origin}/api/author/session`, json({ key: 'x'.repeat(6000) }, '')), 413)
  })
  test('cannot be had by trying keys', async () => {
    // From an address of its own, so that others on this machine are not held up.
    const guess = (key: string) =>
      new Promise<number>((resolve, reject) => {
        const asked = request(
          `${origin.replace('localhost', '127.0.0.1')}/api/author/session`,
          { method: 'POST', localAddress: '127.0.0.7', headers: { 'content-type': 'application/json' } },
          (answer) => {
            answer.resume()
            resolve(answer.statusCode ?? 0)
          },
        )
        asked.once('error', reject)
        asked.end(JSON.stringify({ key }))
      })
    const tries = []
    for (let i = 0; i < 12; i++) tries.push(await guess(`guess ${i}`))
    expect(tries.filter((status) => status === 401)).toHaveLength(10)
    expect(tries.at(-1)).toBe(429)
    // The right one is let in all the same: behind a proxy everybody comes from one address.
    expect(await guess(AUTHOR_KEY)).toBe(200)
    expect((await fetch(`${origin}/api/author/session`, json({ key: AUTHOR_KEY }, ''))).status).toBe(200)
  })
  test('are not used by another site’s page', async () => {
    const from = (headers: Record<string, string>) =>
      fetch(`${origin}/api/courses/nowhere`, { method: 'DELETE', headers: { cookie: author, ...headers } })
    const { host } = new URL(origin)
    const others: Record<string, string>[] = [
      ...[{ 'sec-fetch-site': 'cross-site' }, { 'sec-fetch-site': 'same-site' }],
      ...[{ origin: 'null' }, { origin: 'https://evil.example' }, { origin: `http://${host}0` }],
    ]
    for (const headers of others) expect(await refused(from(headers), 403)).toMatch(/another site’s page/)
    const own: Record<string, string>[] = [{}, { 'sec-fetch-site': 'same-origin' }, { origin }]
    for (const headers of own) expect((await from(headers)).status).not.toBe(403)
  })
  test('go over a secured connection alone where there is one', async () => {
    const cookie = async (headers: Record<string, string>) => {
      const asked = json({ key: AUTHOR_KEY }, '')
      const answer = await fetch(`${origin}/api/author/session`, {
        ...asked,
        headers: { ...asked.headers, ...headers },
      })
      return answer.headers.get('set-cookie') ?? ''
    }
    expect(await cookie({ 'x-forwarded-proto': 'https' })).toMatch(/; Secure/i)
    expect(await cookie({})).toMatch(/HttpOnly/)
    expect(await cookie({})).not.toMatch(/; Secure/i)
  })
})

describe('every route', () => {
  /** Parts of addresses by the names that the routes give them. */
  const known: Record<string, string> = {
    ...{ place: 'place-glacier', course: 'ps201', file: 'screen.mp4', name: 'screen.mp4', hash: 'a'.repeat(64) },
    ...{ index: '0', n: '0', number: '1', run: '1' },
  }
  const folder = join(import.meta.dirname, '../server/api')
  const routes = readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('.ts') && !file.endsWith('.test.ts') && !file.includes('[...]'))
    .sort()
    .map((file) => {
      const [, name = '', method = 'get'] = /^(.*?)(?:\.(get|put|post|delete))?\.ts$/.exec(file) ?? []
      const path = name.replace(/(^|\/)index$/, '').replace(/\[(\w+)\]/g, (_, param: string) => known[param] ?? 'x1')
      return { file, method: method.toUpperCase(), path: `/api/${path}` }
    })
  /** What is open to all, and why. */
  const open = new Map([
    ['about.get.ts', 'says whether there is a demo, before anybody signs in'],
    ['author/session.get.ts', 'says whether one is signed in, which every page asks'],
    ['author/session.post.ts', 'here the key is given'],
    ['speech/index.get.ts', 'says which languages are recognised here, which is no secret'],
  ])
  test('is known by its file, and those that are open are there', () => {
    expect(routes.length).toBeGreaterThan(40)
    expect(routes.map(({ file }) => file)).toEqual(expect.arrayContaining([...open.keys()]))
  })
  const isForStudents = ({ file }: { file: string }) => file.startsWith('watch/')
  test.each(routes.filter((route) => !open.has(route.file)))(
    '$method $path refuses who has no right to it',
    async (route) => {
      const token = await student('place-balance')
      const body = route.method === 'POST' || route.method === 'PUT' ? { body: '{}' } : {}
      const forged = ['', 'thaw_author=forged', `thaw_author=${token}`].map((cookie) => ({ cookie }))
      // A student of another place is no author; the author, by that alone, no student.
      const rights: Record<string, string>[] = isForStudents(route)
        ? [...forged, { cookie: author }, { authorization: 'Bearer forged' }, { authorization: `Bearer ${token}` }]
        : [...forged, { authorization: `Bearer ${token}` }]
      for (const headers of rights)
        await refused(
          fetch(origin + route.path, {
            method: route.method,
            headers: { 'content-type': 'application/json', ...headers },
            redirect: 'manual',
            ...body,
          }),
          401,
        )
    },
  )
})

describe('an upload', () => {
  test('is refused when the manifest does not fit', async () => {
    expect(await refused(fetch(uploads('b1'), json({})), 400)).toMatch(/publication cannot be used/)
    await refused(fetch(uploads('b1'), json(made('other'))), 400)
    const keyless = { ...asked('b1'), keys: { ...asked('b1').keys, keys: [] } }
    await refused(fetch(uploads('b1'), json({ ...made('b1'), sets: [keyless] })), 400)
    await refused(
      fetch(
        uploads('b1'),
        json({
          ...made('b1'),
          manifest: { ...made('b1').manifest, files: [{ ...made('b1').manifest.files[0], name: '../../author-key' }] },
        }),
      ),
      400,
    )
    await refused(fetch(uploads('..%2F..%2Fetc'), json(made('b1'))), 404)
  })
  test('takes only parts of the right size and hash, at places the manifest names', async () => {
    const upload = await open('b2')
    await refused(put('b2', upload, 0, parts[1]!), 400)
    await refused(put('b2', upload, 1, new Uint8Array(500)), 400)
    await refused(put('b2', upload, 2, parts[1]!), 404)
    await refused(put('b2', upload, 'x', parts[1]!), 404)
    await refused(put('b2', upload, 0, parts[1]!, '..%2F..%2Fauthor-key'), 404)
    await refused(put('b2', upload, 0, new Uint8Array(PART_SIZE + 1)), 413)
    await refused(put('b2', 'no-such-upload', 0, parts[0]!), 404)
    expect(await refused(commit('b2', upload), 409)).toMatch(/Part 0 of screen.mp4 is missing/)
  })
  test('that is given up leaves nothing behind', async () => {
    const upload = await open('b3')
    await put('b3', upload, 0, parts[0]!)
    const folder = join(served.dataFolder, 'parts', 'media', upload)
    expect(existsSync(join(folder, 'screen.mp4'))).toBe(true)
    expect((await fetch(`${uploads('b3')}/${upload}`, { method: 'DELETE', headers: { cookie: author } })).status).toBe(
      200,
    )
    expect(existsSync(folder)).toBe(false)
    await refused(commit('b3', upload), 404)
  })
  test('replaces the publication before it whole or not at all', async () => {
    await publish('b4', 'first')
    await place('place-b4', 'b4')
    const watching = await student('place-b4')
    const title = async () => (await view('place-b4', watching)).title
    const torn = await open('b4', 'second')
    await put('b4', torn, 0, parts[0]!)
    await refused(commit('b4', torn), 409)
    expect(await title()).toBe('first')
    await publish('b4', 'third')
    expect(await title()).toBe('third')
  })
  test('that is committed twice at once is published once, and cannot be given up then', async () => {
    const upload = await open('b4', 'fourth')
    for (const [i, part] of parts.entries()) await put('b4', upload, i, part)
    const [one, two, gone] = await Promise.all([
      commit('b4', upload),
      commit('b4', upload),
      fetch(`${uploads('b4')}/${upload}`, { method: 'DELETE', headers: { cookie: author } }),
    ])
    expect([one.status, two.status, gone.status]).toEqual([200, 200, 409])
    const token = await student('place-b4')
    const { title, media: url } = await view('place-b4', token)
    expect(title).toBe('fourth')
    expect(sha256(new Uint8Array(await (await fetch(origin + url)).arrayBuffer()))).toBe(sha256(media))
  })
})

describe('a place', () => {
  test('needs a publication, a course that there is, and a window that makes sense', async () => {
    await publish('b5')
    await refused(place('pl5', 'nothing'), 409)
    await refused(place('pl5', 'b5', '2026-02-01T00:00:00.000Z', '2026-01-01T00:00:00.000Z'), 400)
    await refused(
      fetch(`${origin}/api/places/pl5`, {
        ...json(placeOf('other', 'b5', 'ps201')),
        method: 'PUT',
      }),
      400,
    )
    await refused(fetch(`${origin}/api/places/pl5`, { ...json({ id: 'pl5' }), method: 'PUT' }), 400)
  })
  test('outside its window is on no course page and shows nothing', async () => {
    await place('pl6', 'b5')
    const watching = await student('pl6')
    const seen = await view('pl6', watching)
    expect((await fetch(origin + seen.media)).status).toBe(200)
    // A day that there is not opens nothing.
    await refused(place('pl6', 'b5', '2099-13-01T00:00:00.000Z'), 400)
    await refused(place('pl6', 'b5', '2026-01-01T00:00:00.000Z', '2026-02-31T00:00:00.000Z'), 400)
    for (const [from, until] of [
      ['2099-01-01T00:00:00.000Z', null],
      ['2020-01-01T00:00:00.000Z', '2020-02-01T00:00:00.000Z'],
    ] as const) {
      expect((await place('pl6', 'b5', from, until)).status).toBe(200)
      await refused(fetch(`${origin}/api/watch/pl6`, bearer(watching)), 403)
      await refused(fetch(origin + seen.media), 403)
      const site = cookies(
        await fetch(`${courseSite}/sign-in`, {
          method: 'POST',
          body: new URLSearchParams({ student: 's02' }),
          redirect: 'manual',
        }),
      )
      expect(await (await fetch(`${courseSite}/courses/ps201`, { headers: { cookie: site } })).text()).not.toContain(
        'pl6',
      )
      expect((await fetch(`${courseSite}/courses/ps201/items/pl6`, { headers: { cookie: site } })).status).toBe(404)
    }
  })
})

describe('watching', () => {
  test('is only for who came through the course site', async () => {
    await refused(fetch(`${origin}/api/watch/place-glacier`), 401)
    await refused(fetch(`${origin}/api/watch/place-glacier`, { headers: { cookie: author } }), 401)
    await refused(fetch(`${origin}/api/watch/place-glacier`, bearer('forged')), 401)
    const token = await student('place-glacier')
    await refused(fetch(`${origin}/api/watch/place-balance`, bearer(token)), 401)
    const { media: url } = await view('place-glacier', token)
    await refused(fetch(origin + url.replaceAll('place-glacier', 'place-balance')), 401)
    await refused(fetch(origin + url.replace(/\/media\/[^/]+/, `/media/${token}`)), 401)
    await refused(fetch(`${origin}/api/watch/place-glacier`, bearer(/\/media\/([^/]+)/.exec(url)?.[1] ?? '')), 401)
    await refused(fetch(`${origin}/api/watch/launch?token=forged`), 401)
    await refused(fetch(`${origin}/api/watch/launch`), 401)
    await refused(fetch(`${origin}/api/watch/..%2F..%2Fsecrets`), 404)
  })
  test('opens once for each time that one comes from the course page', async () => {
    const address = await launchAddress('place-glacier')
    const opened = await Promise.all(Array.from({ length: 8 }, () => fetch(address, { redirect: 'manual' })))
    expect(opened.map((o) => o.status).sort()).toEqual([302, ...Array.from({ length: 7 }, () => 401)])
    expect(opened.find((o) => o.status === 302)?.headers.get('location')).toMatch(
      /^\/player\/index.html#place=place-glacier&token=/,
    )
  })
  test('goes on as long as one watches: the token is renewed, and addresses of media stay as they are', async () => {
    const token = await student('place-glacier')
    const renewed = (await (
      await fetch(`${origin}/api/watch/place-glacier/session`, { method: 'POST', ...bearer(token) })
    ).json()) as { token: string }
    expect((await view('place-glacier', renewed.token)).media).toBe((await view('place-glacier', token)).media)
    await refused(fetch(`${origin}/api/watch/place-balance/session`, { method: 'POST', ...bearer(token) }), 401)
  })
  test('goes on with the version one began with, and never mixes two', async () => {
    await publish('b12', 'first')
    await place('pl12', 'b12')
    const token = await student('pl12')
    const first = await view('pl12', token)
    const { etag } = Object.fromEntries((await fetch(origin + first.media, { method: 'HEAD' })).headers) as {
      etag: string
    }
    await publish('b12', 'second')
    const second = await view('pl12', token)
    expect([second.title, second.version === first.version, second.media === first.media]).toEqual([
      'second',
      false,
      false,
    ])
    const part = (url: string, held: string) =>
      fetch(origin + url, { headers: { range: 'bytes=10-19', 'if-range': held } })
    expect([(await part(first.media, etag)).status, (await part(second.media, etag)).status]).toEqual([206, 200])
    expect((await fetch(origin + first.media, { headers: { 'if-none-match': etag } })).status).toBe(304)
  })
  test('gives ranges of the media, and 416 for none', async () => {
    await place('pl7', 'b5')
    const url = origin + (await view('pl7', await student('pl7'))).media
    const whole = new Uint8Array(await (await fetch(url)).arrayBuffer())
    expect(sha256(whole)).toBe(sha256(media))
    const head = await fetch(url, { method: 'HEAD' })
    expect([
      head.status,
      head.headers.get('content-type'),
      head.headers.get('content-length'),
      await head.text(),
    ]).toEqual([200, 'video/mp4', String(media.length), ''])
    await refused(fetch(url, { method: 'POST' }), 405)
    for (const [range, size] of [
      ['bytes=0-0', 1],
      [`bytes=${PART_SIZE - 2}-${PART_SIZE + 1}`, 4],
      ['bytes=-10', 10],
      [`bytes=${PART_SIZE}-`, 500],
    ] as const) {
      const answer = await fetch(url, { headers: { range } })
      expect([answer.status, (await answer.arrayBuffer()).byteLength]).toEqual([206, size])
    }
    await refused(fetch(url, { headers: { range: `bytes=${media.length}-` } }), 416)
    for (const range of ['lines=1-2', 'bytes=0-1,5-6'])
      expect((await fetch(url, { headers: { range } })).status).toBe(200)
    for (const name of ['keys.json', '..%2Fkeys.json', 'manifest.json'])
      await refused(fetch(url.replace('screen.mp4', name)), 404)
  })
})

describe('a lecture that is held', () => {
  const where = (id: string, publicationId = id) =>
    placeOf(id, publicationId, 'ps201', { week: 3, from: '2026-01-01T00:00:00.000Z' })
  const announce = (id: string, body: object = {}) =>
    fetch(`${origin}/api/places/${id}/live`, {
      ...json({ place: where(id), title: 'Held', startsAt: '2026-11-26T10:00:00.000Z', ...body }),
      method: 'PUT',
    })
  const turn = (id: string, to: string) => fetch(`${origin}/api/places/${id}/live`, json({ to }))
  const send = (
    id: string,
    run: number | string,
    name: number | string,
    body: Uint8Array = new Uint8Array(90),
    duration: number | string = 1.5,
  ) =>
    fetch(`${origin}/api/places/${id}/live/${run}/${name}?duration=${duration}`, {
      method: 'PUT',
      headers: { cookie: author },
      body: body as BodyInit,
    })

  test('is announced once, in a course that there is, and not when it is published already', async () => {
    await refused(announce('lv0', { place: where('other') }), 400)
    await refused(announce('lv0', { startsAt: 'soon' }), 400)
    await refused(announce('lv0', { place: where('lv0', 'pub-glacier') }), 409)
    await refused(turn('lv0', 'on'), 404)
    await refused(send('lv0', 1, 0), 404)
    await refused(fetch(`${origin}/api/places/lv0/live`, { method: 'DELETE', headers: { cookie: author } }), 404)
  })
  test('takes what belongs to the run under way, and nothing else', async () => {
    expect((await announce('lv1')).status).toBe(200)
    await refused(turn('lv1', 'off'), 400)
    await refused(send('lv1', 0, 0), 400)
    await refused(send('lv1', 1, 0), 409)
    expect(await (await turn('lv1', 'on')).json()).toEqual({ run: 1 })
    expect((await send('lv1', 1, 'init')).status).toBe(200)
    await refused(send('lv1', 2, 0), 409)
    await refused(send('lv1', 1, 'x'), 404)
    await refused(send('lv1', 1, 0, undefined, 'long'), 400)
    await refused(send('lv1', 1, 0, undefined, 0), 400)
    await refused(send('lv1', 1, 'init', new Uint8Array((1 << 16) + 1)), 413)
    expect(await (await send('lv1', 1, 0)).json()).toEqual({ watching: 0 })
    await turn('lv1', 'paused')
    await refused(send('lv1', 1, 1), 409)
  })
  test('is watched by who came through the course site, from its page before it begins until its recording is there', async () => {
    expect((await announce('lv2')).status).toBe(200)
    const token = await student('lv2')
    expect(await view('lv2', token)).toMatchObject({ kind: 'live', state: 'announced', playlist: null })
    await turn('lv2', 'on')
    const init = new Uint8Array(70).fill(1)
    const first = new Uint8Array(90).fill(2)
    await send('lv2', 1, 'init', init)
    await send('lv2', 1, 0, first)
    await send('lv2', 1, 0, new Uint8Array(90).fill(3))
    const { playlist } = await view('lv2', token)
    const beside = (name: string) => fetch(new URL(name, origin + String(playlist)))
    await refused(fetch(origin + String(playlist).replace('lv2', 'lv1')), 401)
    const text = await (await beside('index.m3u8')).text()
    expect(text.match(/^#EXT-X-MAP.*|^1\/.*/gm)).toEqual(['#EXT-X-MAP:URI="1/init"', '1/0'])
    expect(new Uint8Array(await (await beside('1/init')).arrayBuffer())).toEqual(init)
    expect(new Uint8Array(await (await beside('1/0')).arrayBuffer())).toEqual(first)
    await refused(beside('1/1'), 404)
    await refused(beside('1/..%2F..%2Fbroadcast'), 404)
    await turn('lv2', 'ended')
    expect(await (await beside('index.m3u8')).text()).toContain('#EXT-X-ENDLIST')
    await publish('b10', 'Held')
    expect((await place('lv2', 'b10')).status).toBe(200)
    expect(await view('lv2', token)).toMatchObject({ kind: 'recording' })
    await refused(beside('1/0'), 404)
    expect(existsSync(join(served.dataFolder, 'parts', 'live', 'lv2'))).toBe(false)
  })
  test('that is taken back is nowhere any more', async () => {
    await announce('lv3', { place: where('lv3', 'b11') })
    const token = await student('lv3')
    expect(
      (await fetch(`${origin}/api/places/lv3/live`, { method: 'DELETE', headers: { cookie: author } })).status,
    ).toBe(200)
    await refused(fetch(`${origin}/api/watch/lv3`, bearer(token)), 404)
    expect(await launchAddress('lv3')).toBe('')
  })
  test('cannot be announced over a recording, nor take one away with it', async () => {
    await publish('b13', 'Recorded')
    await place('lv4', 'b13')
    await refused(announce('lv4', { place: where('lv4', 'another') }), 409)
    await refused(fetch(`${origin}/api/places/lv4/live`, { method: 'DELETE', headers: { cookie: author } }), 404)
    expect(await view('lv4', await student('lv4'))).toMatchObject({ kind: 'recording', title: 'Recorded' })
  })
})

describe('the player', () => {
  test('is small, served compressed, and may stand inside another site', async () => {
    const html = await fetch(`${origin}/player/index.html`)
    for (const header of [
      'x-frame-options',
      'cross-origin-embedder-policy',
      'cross-origin-opener-policy',
      'cross-origin-resource-policy',
    ])
      expect(html.headers.get(header)).toBeNull()
    const page = await html.text()
    const files = [...page.matchAll(/(?:src|href)="(\/player\/[^"]+)"/g)].map(([, path]) => path ?? '')
    expect(files.length).toBeGreaterThanOrEqual(2)
    let size = gzipSync(page).length
    for (const path of files) {
      const answer = await fetch(origin + path, { headers: { 'accept-encoding': 'gzip' } })
      const data = Buffer.from(await answer.arrayBuffer())
      // Of a file that fits a packet nothing is won.
      if (data.length > 1400) expect(answer.headers.get('content-encoding'), path).toBe('gzip')
      size += gzipSync(data).length
    }
    expect(size).toBeLessThan(60_000)
  })
})

describe('answers', () => {
  const send = (token: string, events: unknown) =>
    fetch(`${origin}/api/watch/pl8/responses`, {
      ...json({ events }, ''),
      headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` },
    })
  const refusedOf = async (answer: Promise<Response>) =>
    ((await (await answer).json()) as { refused: { id: string; why: string }[] }).refused
  const event = (id: string, choiceId: string, kind = 'answer') => ({
    id,
    kind,
    questionId: 'q',
    choiceId,
    at: '2026-11-23T10:00:00.000Z',
  })
  const pulled = async (after = 0) =>
    (await (
      await fetch(`${origin}/api/places/pl8/responses?after=${after}`, { headers: { cookie: author } })
    ).json()) as {
      events: { seq: number; student: { subject: string }; event: { id: string } }[]
      sets: { keys: { right: string }[] }[]
    }
  const stored = async () => (await pulled()).events

  test('that make no sense are refused', async () => {
    await publish('b8')
    await place('pl8', 'b8')
    const cookie = await student('pl8')
    expect(
      await refusedOf(
        send(cookie, [
          event('e', 'z'),
          { ...event('f', 'a'), questionId: 'other' },
          { ...event('g', 'a'), points: 100 },
          7,
        ]),
      ),
    ).toEqual([
      { id: 'e', why: 'This question has no such choice.' },
      { id: 'f', why: 'This lecture has no such question.' },
      { id: 'g', why: expect.stringContaining('“points”') as string },
      { id: '3', why: expect.stringContaining('must be object') as string },
    ])
    await refused(send(cookie, []), 400)
    await refused(send(cookie, 'x'.repeat(1 << 18)), 413)
    await refused(send('', [event('e', 'a')]), 401)
    expect(await stored()).toEqual([])
  })
  test('that are nonsense cost no more than reading them', async () => {
    const cookie = await student('pl8')
    const began = performance.now()
    await refused(
      send(
        cookie,
        Array.from({ length: 43_000 }, () => ({})),
      ),
      400,
    )
    await refused(
      fetch(uploads('b8'), { ...json({}), body: `{"manifest":{"files":[${'{},'.repeat(2_600_000)}{}]}}` }),
      400,
    )
    // A hundred times what it takes; it took a minute.
    expect(performance.now() - began).toBeLessThan(20_000)
  })
  test('count once, and the first one counts, whatever is sent again', async () => {
    const cookie = await student('pl8')
    const before = await (await fetch(`${origin}/api/watch/pl8`, bearer(cookie))).text()
    expect(before).not.toContain('the secret')
    const selected = await (await send(cookie, [event('e0', 'b', 'select')])).text()
    expect(selected).not.toMatch(/the secret|rightChoiceId/)
    await Promise.all([
      send(cookie, [event('e1', 'b')]),
      send(cookie, [event('e1', 'b')]),
      send(cookie, [event('e1', 'b')]),
    ])
    const after = (await (await send(cookie, [event('e2', 'a')])).json()) as {
      view: { checkpoints: { questions: { report: { answer: object } }[] }[] }
    }
    expect(after.view.checkpoints[0]?.questions[0]?.report).toMatchObject({
      kind: 'answered',
      answer: { kind: 'one-right', choice: 'b' },
      feedback: { share: 0, explanation: richOf('the secret') },
      solution: { explanation: [] },
    })
    expect((await stored()).filter((s) => s.event.id === 'e1')).toHaveLength(1)
  })
  test('are answered with what they changed, and with what changed elsewhere since', async () => {
    const moments = [checkpoint('cp', 1, 'q'), checkpoint('cp2', 3, 'r')]
    const { set, keys } = setOf('b-told', onlySetId('b-told'), moments, 'a')
    await publish('b-told')
    await place('pl-told', 'b-told')
    const version = await publishedVersion('b-told')
    const published = await fetch(`${origin}/api/publications/b-told/sets`, json({ version, sets: [{ set, keys }] }))
    expect(published.status).toBe(200)
    const token = await student('pl-told')
    const view = async () => (await (await fetch(`${origin}/api/watch/pl-told`, bearer(token))).json()) as WatchView
    const answer = async (id: string, questionId: string, told?: unknown) => {
      const answered = await fetch(`${origin}/api/watch/pl-told/responses`, {
        ...json({ events: [{ ...event(id, 'a'), questionId }], told }, ''),
        headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` },
      })
      return { status: answered.status, ...((await answered.json()) as { view?: WatchView; change?: WatchChange }) }
    }
    const told = ({ checkpoints }: WatchChange) => checkpoints.flatMap((c) => c.questions.map((q) => q.open.id))
    const before = await view()
    const one = await answer('t1', 'q', before.told)
    expect(told(one.change!)).toEqual(['q'])
    expect(JSON.stringify(one).length).toBeLessThan(JSON.stringify(before).length)
    const after = withChange(before, one.change!)
    expect(after).toEqual(await view())
    // Another device is told of the first one's answer, too, and that all is handed in with its own.
    const two = await answer('t2', 'r', before.told)
    expect(told(two.change!)).toEqual(['q', 'r'])
    expect(withChange(before, two.change!)).toEqual(await view())
    // The same once more tells of nothing but the other's, and then of nothing.
    const again = await answer('t1', 'q', after.told)
    expect(told(again.change!)).toEqual(['r'])
    expect(withChange(after, again.change!)).toEqual(await view())
    expect((await answer('t1', 'q', again.change!.told)).change).toMatchObject({ sets: [], checkpoints: [] })
    // Without marks, or with those of something else, all of it is told.
    const others = [undefined, '', 'x', `${before.told} more`, before.told.replace(/^\S+/, 'other')]
    for (const marks of others) expect((await answer('t1', 'q', marks)).view).toEqual(await view())
    expect((await answer('t1', 'q', 7)).status).toBe(400)
  })
  test('are asked by what was published last; whoever began with an earlier set goes on with that', async () => {
    const version = await publishedVersion('b8')
    const token = await student('pl8', 's07')
    const began = (await (await fetch(`${origin}/api/watch/pl8`, bearer(token))).json()) as WatchView
    const sets = (right: string) =>
      fetch(`${origin}/api/publications/b8/sets`, json({ version, sets: [asked('b8', right)] }))
    const [one, two] = await Promise.all([sets('b'), sets('b')])
    expect(await one.json()).toEqual(await two.json())
    await refused(fetch(`${origin}/api/publications/b8/sets`, json({ version: 'gone', sets: [] })), 409)
    await refused(fetch(`${origin}/api/publications/b8/sets`, json({ version, sets: [asked('other')] })), 400)
    const now = (await (await fetch(`${origin}/api/watch/pl8`, bearer(token))).json()) as WatchView
    expect([now.version === began.version, now.checkpoints[0]?.set === began.checkpoints[0]?.set]).toEqual([
      true,
      false,
    ])
    const answer = await fetch(
      `${origin}/api/watch/pl8/responses?version=${began.version}&sets=${began.checkpoints[0]?.set}`,
      {
        ...json({ events: [{ ...event('seen', 'a'), version: began.checkpoints[0]?.set }] }, ''),
        headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` },
      },
    )
    const { view: after } = (await answer.json()) as { view: WatchView }
    expect(after.checkpoints[0]).toMatchObject({
      set: began.checkpoints[0]?.set,
      questions: [{ report: { feedback: { share: 1 } } }],
    })
    expect((await sets('a')).status).toBe(200)
  })
  test('stay when the lecture is taken off its course page, and can be fetched', async () => {
    const before = await stored()
    expect(before.length).toBeGreaterThan(0)
    const off = () => fetch(`${origin}/api/places/pl8`, { method: 'DELETE', headers: { cookie: author } })
    expect([(await off()).status, (await off()).status]).toEqual([200, 200])
    expect(await launchAddress('pl8')).toBe('')
    expect(await stored()).toEqual(before)
    expect((await place('pl8', 'b8')).status).toBe(200)
    expect(await launchAddress('pl8')).not.toBe('')
  })
  test('of one student are nobody else’s', async () => {
    const other = await (await fetch(`${origin}/api/watch/pl8`, bearer(await student('pl8', 's09')))).text()
    expect(other).toContain('"unanswered"')
    expect(other).not.toContain('the secret')
  })
  test('are pulled from a number on', async () => {
    await send(await student('pl8', 's05'), [event('later', 'a')])
    const { events, sets } = await pulled()
    expect((await pulled(events.at(-2)?.seq)).events).toEqual([events.at(-1)])
    expect(sets.map((s) => s.keys[0]?.right)).toEqual(['a', 'a'])
    await refused(fetch(`${origin}/api/places/pl8/responses?after=-1`, { headers: { cookie: author } }), 400)
  })
  test('come no faster than a hand gives them, and none is lost by that', async () => {
    const cookie = await student('pl8', 's11')
    const states: number[] = []
    for (let i = 0; i < 80; i++) states.push((await send(cookie, [event(`c${i}`, i % 2 ? 'a' : 'b', 'select')])).status)
    expect(states.filter((s) => s === 200).length).toBeGreaterThan(50)
    expect(states.at(-1)).toBe(429)
    expect(await stored()).not.toContainEqual(
      expect.objectContaining({ student: expect.objectContaining({ subject: 's11' }) as unknown }),
    )
  })
})

describe('the recogniser', () => {
  const speech = (body: Uint8Array) =>
    fetch(`${origin}/api/speech`, { method: 'POST', headers: { cookie: author }, body: body as BodyInit })
  test('refuses what is no sound it can take', async () => {
    await refused(speech(new TextEncoder().encode('hello '.repeat(100))), 400)
    await refused(speech(new Uint8Array(0)), 400)
  })
})

describe('addresses', () => {
  test.each([
    ['GET', '/api/nothing'],
    ['POST', '/api/watch/launch'],
    ['DELETE', '/api/speech'],
    ['GET', '/api/watch/place-glacier/files/screen.mp4'],
    ['GET', '/api/courses/nowhere'],
    ['PATCH', '/api/places/x'],
  ])('%s %s is nothing, and says so', async (method, path) => {
    const answer = await fetch(origin + path, { method, headers: { cookie: author } })
    expect([404, 405]).toContain(answer.status)
    expect(answer.headers.get('content-type')).toContain('json')
  })
  test('say what browsers are to refuse', async () => {
    const app = await fetch(origin)
    const player = await fetch(`${origin}/player/index.html`)
    for (const { headers } of [app, player, await fetch(`${origin}/api/nothing`)])
      expect([
        headers.get('x-content-type-options'),
        headers.get('referrer-policy'),
        headers.get('x-powered-by'),
      ]).toEqual(['nosniff', 'no-referrer', null])
    expect(app.headers.get('content-security-policy')).toContain("frame-ancestors 'none'")
    expect(player.headers.get('content-security-policy')).toMatch(/script-src 'self';/)
    // By the course site, and by no other.
    expect(player.headers.get('content-security-policy')).toContain(
      `frame-ancestors 'self' ${new URL(courseSite).origin}`,
    )
    const nonces = [...(await app.text()).matchAll(/<script[^>]* nonce="([^"]+)"/g)].map(([, n]) => n)
    expect(new Set(nonces).size).toBe(1)
    expect(app.headers.get('content-security-policy')).toContain(`'nonce-${nonces[0]}'`)
  })
  test('give away no key of the demo', async () => {
    const term = await (await fetch(`${origin}/demo/term.json`)).text()
    expect(term).toContain('What a glacier is')
    expect(term).not.toMatch(/"right"|"explanation"/)
  })
  test('of a course that there is not say so', async () => {
    expect(await refused(fetch(`${origin}/api/courses/ps999/roster`, { headers: { cookie: author } }), 404)).toMatch(
      /no such course/,
    )
    await publish('b14')
    expect(
      await refused(
        fetch(`${origin}/api/places/pl14`, {
          ...json(placeOf('pl14', 'b14', 'ps999')),
          method: 'PUT',
        }),
        400,
      ),
    ).toMatch(/no such course/)
  })
  test('take any id, also one that tools like to hide', async () => {
    await publish('node_modules', 'Hidden')
    await place('node_modules', 'node_modules')
    expect((await view('node_modules', await student('node_modules'))).title).toBe('Hidden')
  })
})

describe('what the server keeps', () => {
  test('is read by nobody else on the machine', () => {
    const kept = readdirSync(served.dataFolder, { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile())
      .map((e) => join(e.parentPath, e.name))
    expect(kept.length).toBeGreaterThan(20)
    expect(kept.filter((path) => (statSync(path).mode & 0o077) !== 0)).toEqual([])
  })
})

describe('the course site', () => {
  test('lets in only its students, to their own courses, and Thaw only with the secret', async () => {
    expect(
      (
        await fetch(`${courseSite}/sign-in`, {
          method: 'POST',
          body: new URLSearchParams({ student: '../s01' }),
          redirect: 'manual',
        })
      ).status,
    ).toBe(400)
    const site = cookies(
      await fetch(`${courseSite}/sign-in`, {
        method: 'POST',
        body: new URLSearchParams({ student: 's02' }),
        redirect: 'manual',
      }),
    )
    expect((await fetch(`${courseSite}/courses/ps340`, { headers: { cookie: site } })).status).toBe(404)
    expect((await fetch(`${courseSite}/api/items/x`, { method: 'PUT', body: '{}' })).status).toBe(401)
    expect((await fetch(`${courseSite}/api/courses/ps201/roster`)).status).toBe(401)
  })
  test('reads no more of anybody than a form holds, and is not upset by odd ones', async () => {
    expect(
      (await fetch(`${courseSite}/sign-in`, { method: 'POST', body: 'x'.repeat(1 << 20), redirect: 'manual' })).status,
    ).toBe(413)
    for (const [type, body] of [
      ['application/json', '{"student":'],
      ['application/json', '[1]'],
      ['text/plain', '\u0000'],
      ['multipart/form-data; boundary=x', '--x'],
    ] as const)
      expect(
        (
          await fetch(`${courseSite}/sign-in`, {
            method: 'POST',
            headers: { 'content-type': type },
            body,
            redirect: 'manual',
          })
        ).status,
      ).toBe(400)
  })
  test('shows a title with markup as text', async () => {
    await publish('b9', '<script>alert(1)</script>')
    await place('pl9', 'b9')
    const site = cookies(
      await fetch(`${courseSite}/sign-in`, {
        method: 'POST',
        body: new URLSearchParams({ student: 's02' }),
        redirect: 'manual',
      }),
    )
    const html = await (await fetch(`${courseSite}/courses/ps201`, { headers: { cookie: site } })).text()
    expect(html).not.toContain('<script>alert')
    expect(html).toContain('&#60;script&#62;alert')
  })
})

describe('the activity log', () => {
  const activity = async (after = 0) =>
    (
      (await (await fetch(`${origin}/api/author/activity?after=${after}`, { headers: { cookie: author } })).json()) as {
        entries: StoredAuditEntry[]
      }
    ).entries
  test('has what was done, once it is done, and what is read again and again once', async () => {
    const seen = (await activity()).at(-1)?.seq ?? 0
    await publish('log1', 'Logged')
    expect((await place('pl-log1', 'log1')).status).toBe(200)
    const version = await publishedVersion('log1')
    const { set, keys } = asked('log1')
    const sets = [{ set: { ...set, policy: { ...set.policy, changes: !set.policy.changes } }, keys }]
    await refused(fetch(`${origin}/api/publications/log1/sets`, json({ version: 'gone', sets })), 409)
    expect((await fetch(`${origin}/api/publications/log1/sets`, json({ version, sets }))).status).toBe(200)
    const results = () => fetch(`${origin}/api/places/pl-log1/responses?after=0`, { headers: { cookie: author } })
    for (let i = 0; i < 3; i++) expect((await results()).status).toBe(200)
    const away = { method: 'DELETE', headers: { cookie: author } }
    expect((await fetch(`${origin}/api/places/pl-log1`, away)).status).toBe(200)
    const now = await activity(seen)
    expect(now.map(({ action, says }) => `${action} ${says}`)).toEqual([
      'published “Logged”',
      'placed “Logged”, from 2026-01-01T00:00:00.000Z',
      'published-questions “Logged”',
      `changed-rules “${set.title || set.id}” in “Logged”`,
      'read-results Answers of “Logged”',
      'withdrawn “Logged”',
    ])
    expect(now.every((e) => /^(127\.0\.0\.1|::1)$/.test(e.from))).toBe(true)
  })
  test('has who signed in and wrong keys, of these no more than ten an hour', async () => {
    for (let i = 0; i < 3; i++) await fetch(`${origin}/api/author/session`, json({ key: `wrong-${i}` }, ''))
    const said = (await activity()).map((e) => e.action)
    expect(said).toContain('signed-in')
    expect(said.filter((a) => a === 'wrong-key').length).toBeGreaterThan(0)
    expect(said.filter((a) => a === 'wrong-key').length).toBeLessThanOrEqual(10)
  })
})

describe('what the server says on its log', () => {
  test('is nothing of uploads that were given up on the way', async () => {
    const data = await mkdtemp(join(tmpdir(), 'thaw-aborted-'))
    const port = await freePort()
    const key = 'a-key-for-this-log'
    const server = spawn(process.execPath, [join(root, '.output', 'server', 'index.mjs')], {
      env: { ...process.env, PORT: String(port), NITRO_PORT: String(port), THAW_DATA: data, THAW_AUTHOR_KEY: key },
    })
    let said = ''
    server.stderr.on('data', (text) => (said += String(text)))
    try {
      await new Promise<void>((resolve) => {
        server.stdout.on('data', (text) => String(text).includes('Listening') && resolve())
      })
      const at = `http://localhost:${port}/api`
      const headers = { 'content-type': 'application/json' }
      const signedIn = await fetch(`${at}/author/session`, { method: 'POST', headers, body: JSON.stringify({ key }) })
      const cookie = signedIn.headers.getSetCookie().map((c) => c.split(';')[0])[0] ?? ''
      for (const path of ['publications/p/uploads', 'speech']) {
        const half = connect(port, 'localhost')
        const head = `POST /api/${path} HTTP/1.1\r\nhost: localhost:${port}\r\ncookie: ${cookie}\r\n`
        half.write(`${head}content-type: application/json\r\ncontent-length: 1000\r\n\r\n{"manifest":`)
        await letPass(0.3)
        half.destroy()
      }
      await letPass(0.5)
      expect((await fetch(`${at}/about`)).status).toBe(200)
      expect(said).toBe('')
    } finally {
      server.kill('SIGKILL')
      await rm(data, { recursive: true, force: true })
    }
  })
})

describe('a server whose log nobody reads any more', () => {
  test('goes on at rest, and ends when it is told to', async () => {
    const data = await mkdtemp(join(tmpdir(), 'thaw-unread-'))
    // Something is said to the log again and again.
    const noise = "--import data:text/javascript,setInterval(()=>console.error('noise'),100).unref()"
    const port = String(await freePort())
    const server = spawn(process.execPath, [join(root, '.output', 'server', 'index.mjs')], {
      env: { ...process.env, PORT: port, NITRO_PORT: port, THAW_DATA: data, NODE_OPTIONS: noise },
    })
    try {
      await new Promise<void>((resolve) => {
        server.stdout.on('data', (text) => String(text).includes('Listening') && resolve())
      })
      server.stdout.destroy()
      server.stderr.destroy()
      const at = `http://localhost:${port}/api/about`
      const used = async () => {
        const fields = (await readFile(`/proc/${server.pid}/stat`, 'utf8')).split(' ')
        return (Number(fields[13]) + Number(fields[14])) / 100
      }
      await letPass(0.5)
      const before = await used()
      await letPass(2)
      expect((await used()) - before).toBeLessThan(0.5)
      expect((await fetch(at)).status).toBe(200)
      const ended = once(server, 'exit')
      server.kill('SIGTERM')
      await ended
    } finally {
      server.kill('SIGKILL')
      await rm(data, { recursive: true, force: true })
    }
  })
})
