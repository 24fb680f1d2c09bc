/** Every route of the server, tried with what it must refuse: a plain 4xx with a sentence, and nothing changed. */
import { createHash } from 'node:crypto'
import { existsSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { beforeAll, describe, expect, inject, test } from 'vitest'
import { PART_SIZE, type PublicationKeys, type PublicationManifest } from '../core/schema/publication'
import { AUTHOR_KEY } from './serve'

const origin = inject('origin')
let author = ''

const json = (body: unknown, cookie = author): RequestInit => ({ method: 'POST', headers: { 'content-type': 'application/json', cookie }, body: JSON.stringify(body) })
async function refused(response: Promise<Response>, status: number): Promise<string> {
  const answer = await response
  const body = (await answer.json().catch(() => ({}))) as { message?: string; stack?: unknown }
  expect(answer.status, body.message).toBe(status)
  expect(body.message ?? '').toMatch(/\S/)
  expect(JSON.stringify(body)).not.toMatch(/node_modules|at .*\.mjs/)
  return body.message ?? ''
}
/** Cookies of an answer, for the next request. */
const cookies = (response: Response) => response.headers.getSetCookie().map((c) => c.split(';')[0]).join('; ')
const sha256 = (data: Uint8Array) => createHash('sha256').update(data).digest('hex')

const media = new Uint8Array(PART_SIZE + 500).fill(7)
const parts = [media.subarray(0, PART_SIZE), media.subarray(PART_SIZE)]
const manifest = (id: string, title = 'Border'): PublicationManifest => ({
  format: 'thaw-publication', version: 1, id, title, description: '', language: 'en', duration: 5, width: 2, height: 2, madeAt: '2026-11-23T00:00:00.000Z',
  files: [{ name: 'media.mp4', type: 'video/mp4', size: media.length, parts: parts.map(sha256) }],
  checkpoints: [{ id: 'cp', at: 1, question: { id: 'q', kind: 'one-right', prompt: 'p?', choices: [{ id: 'a', text: '1' }, { id: 'b', text: '2' }], hint: '', points: 1 } }],
})
const keys = (id: string): PublicationKeys => ({ format: 'thaw-keys', version: 1, publicationId: id, keys: [{ questionId: 'q', right: 'a', explanation: 'the secret' }] })
const uploads = (id: string) => `${origin}/api/publications/${id}/uploads`

async function open(id: string, title?: string): Promise<string> {
  const answer = await fetch(uploads(id), json({ manifest: manifest(id, title), keys: keys(id) }))
  expect(answer.status).toBe(200)
  return ((await answer.json()) as { upload: string }).upload
}
const put = (id: string, upload: string, index: number | string, body: Uint8Array, file = 'media.mp4') => fetch(`${uploads(id)}/${upload}/parts/${file}/${index}`, { method: 'PUT', headers: { cookie: author }, body: body as BodyInit })
const commit = (id: string, upload: string) => fetch(`${uploads(id)}/${upload}/commit`, { method: 'POST', headers: { cookie: author } })
async function publish(id: string, title?: string): Promise<void> {
  const upload = await open(id, title)
  for (const [i, part] of parts.entries()) expect((await put(id, upload, i, part)).status).toBe(200)
  expect((await commit(id, upload)).status).toBe(200)
}
const place = (id: string, publicationId: string, from = '2026-01-01T00:00:00.000Z', until: string | null = null) =>
  fetch(`${origin}/api/places/${id}`, { ...json({ id, publicationId, courseId: 'ps201', week: 3, from, until }), method: 'PUT' })

/** Signs in at the course site and opens a place the way a browser does. @returns the student's cookie for Thaw */
async function student(placeId: string, id = 's02'): Promise<string> {
  const site = cookies(await fetch(`${origin}/course-site/sign-in`, { method: 'POST', body: new URLSearchParams({ student: id }), redirect: 'manual' }))
  const html = await (await fetch(`${origin}/course-site/courses/ps201/items/${placeId}`, { headers: { cookie: site } })).text()
  const src = /src="([^"]*launch[^"]*)"/.exec(html)?.[1] ?? ''
  return cookies(await fetch(origin + src, { redirect: 'manual' }))
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
    await refused(fetch(`${origin}/api/author/session`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: '{torn' }), 400)
    await refused(fetch(`${origin}/api/author/session`, json({ key: 'x'.repeat(6000) }, '')), 413)
  })
  test.each([
    ['POST', '/api/publications/p/uploads'], ['PUT', '/api/publications/p/uploads/u/parts/media.mp4/0'], ['POST', '/api/publications/p/uploads/u/commit'], ['DELETE', '/api/publications/p/uploads/u'],
    ['PUT', '/api/places/x/live'], ['POST', '/api/places/x/live'], ['DELETE', '/api/places/x/live'], ['PUT', '/api/places/x/live/1/init'], ['PUT', '/api/places/x/live/1/0?duration=1'],
    ['GET', '/api/publications/pub-glacier/responses'], ['PUT', '/api/places/x'], ['GET', '/api/courses/ps201/roster'], ['POST', '/api/speech'], ['GET', '/api/author/session'],
  ])('%s %s is for the author alone', async (method, path) => {
    const watching = await student('place-glacier')
    for (const cookie of ['', 'thaw_author=forged', watching]) await refused(fetch(origin + path, { method, headers: { cookie, 'content-type': 'application/json' }, ...(method === 'POST' || method === 'PUT' ? { body: '{}' } : {}) }), 401)
  })
})

describe('an upload', () => {
  test('is refused when the manifest does not fit', async () => {
    expect(await refused(fetch(uploads('b1'), json({})), 400)).toMatch(/publication cannot be used/)
    await refused(fetch(uploads('b1'), json({ manifest: manifest('other'), keys: keys('other') })), 400)
    await refused(fetch(uploads('b1'), json({ manifest: manifest('b1'), keys: { ...keys('b1'), keys: [] } })), 400)
    await refused(fetch(uploads('b1'), json({ manifest: { ...manifest('b1'), files: [{ ...manifest('b1').files[0], name: '../../author-key' }] }, keys: keys('b1') })), 400)
    await refused(fetch(uploads('..%2F..%2Fetc'), json({ manifest: manifest('b1'), keys: keys('b1') })), 404)
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
    expect(await refused(commit('b2', upload), 409)).toMatch(/Part 0 of media.mp4 is missing/)
  })
  test('that is given up leaves nothing behind', async () => {
    const upload = await open('b3')
    await put('b3', upload, 0, parts[0]!)
    const folder = join(inject('dataFolder'), 'pub', 'b3', 'v', upload)
    expect(existsSync(join(folder, 'media.mp4'))).toBe(true)
    expect((await fetch(`${uploads('b3')}/${upload}`, { method: 'DELETE', headers: { cookie: author } })).status).toBe(200)
    expect(existsSync(folder) ? readdirSync(folder, { recursive: true, withFileTypes: true }).filter((e) => e.isFile()) : []).toEqual([])
    await refused(commit('b3', upload), 404)
  })
  test('replaces the publication before it whole or not at all', async () => {
    await publish('b4', 'first')
    await place('place-b4', 'b4')
    const watching = await student('place-b4')
    const title = async () => ((await (await fetch(`${origin}/api/watch/place-b4`, { headers: { cookie: watching } })).json()) as { title: string }).title
    const torn = await open('b4', 'second')
    await put('b4', torn, 0, parts[0]!)
    await refused(commit('b4', torn), 409)
    expect(await title()).toBe('first')
    await publish('b4', 'third')
    expect(await title()).toBe('third')
    expect(readdirSync(join(inject('dataFolder'), 'pub', 'b4', 'live'))).toHaveLength(1)
  })
})

describe('a place', () => {
  test('needs a publication, a course that there is, and a window that makes sense', async () => {
    await publish('b5')
    await refused(place('pl5', 'nothing'), 409)
    await refused(place('pl5', 'b5', '2026-02-01T00:00:00.000Z', '2026-01-01T00:00:00.000Z'), 400)
    await refused(fetch(`${origin}/api/places/pl5`, { ...json({ id: 'other', publicationId: 'b5', courseId: 'ps201', week: 1, from: '2026-01-01T00:00:00.000Z', until: null }), method: 'PUT' }), 400)
    await refused(fetch(`${origin}/api/places/pl5`, { ...json({ id: 'pl5' }), method: 'PUT' }), 400)
  })
  test('outside its window is on no course page and shows nothing', async () => {
    await place('pl6', 'b5')
    const watching = await student('pl6')
    expect((await fetch(`${origin}/api/watch/pl6`, { headers: { cookie: watching } })).status).toBe(200)
    for (const [from, until] of [['2099-01-01T00:00:00.000Z', null], ['2020-01-01T00:00:00.000Z', '2020-02-01T00:00:00.000Z']] as const) {
      expect((await place('pl6', 'b5', from, until)).status).toBe(200)
      await refused(fetch(`${origin}/api/watch/pl6`, { headers: { cookie: watching } }), 403)
      await refused(fetch(`${origin}/api/watch/pl6/files/media.mp4`, { headers: { cookie: watching } }), 403)
      const site = cookies(await fetch(`${origin}/course-site/sign-in`, { method: 'POST', body: new URLSearchParams({ student: 's02' }), redirect: 'manual' }))
      expect(await (await fetch(`${origin}/course-site/courses/ps201`, { headers: { cookie: site } })).text()).not.toContain('pl6')
      expect((await fetch(`${origin}/course-site/courses/ps201/items/pl6`, { headers: { cookie: site } })).status).toBe(404)
    }
  })
})

describe('watching', () => {
  test('is only for who came through the course site', async () => {
    await refused(fetch(`${origin}/api/watch/place-glacier`), 401)
    await refused(fetch(`${origin}/api/watch/place-glacier`, { headers: { cookie: author } }), 401)
    await refused(fetch(`${origin}/api/watch/place-glacier`, { headers: { cookie: 'thaw_watch_place-glacier=forged' } }), 401)
    const elsewhere = (await student('place-glacier')).replace('place-glacier', 'place-balance')
    await refused(fetch(`${origin}/api/watch/place-balance`, { headers: { cookie: elsewhere } }), 401)
    await refused(fetch(`${origin}/api/watch/launch?token=forged`), 401)
    await refused(fetch(`${origin}/api/watch/launch`), 401)
    await refused(fetch(`${origin}/api/watch/..%2F..%2Fsecrets`), 404)
  })
  test('gives ranges of the media, and 416 for none', async () => {
    await place('pl7', 'b5')
    const cookie = await student('pl7')
    const url = `${origin}/api/watch/pl7/files/media.mp4`
    const whole = new Uint8Array(await (await fetch(url, { headers: { cookie } })).arrayBuffer())
    expect(sha256(whole)).toBe(sha256(media))
    for (const [range, size] of [['bytes=0-0', 1], [`bytes=${PART_SIZE - 2}-${PART_SIZE + 1}`, 4], ['bytes=-10', 10], [`bytes=${PART_SIZE}-`, 500]] as const) {
      const answer = await fetch(url, { headers: { cookie, range } })
      expect([answer.status, (await answer.arrayBuffer()).byteLength]).toEqual([206, size])
    }
    await refused(fetch(url, { headers: { cookie, range: `bytes=${media.length}-` } }), 416)
    for (const name of ['keys.json', '..%2Fkeys.json', 'manifest.json']) await refused(fetch(`${origin}/api/watch/pl7/files/${name}`, { headers: { cookie } }), 404)
  })
})

describe('a lecture that is held', () => {
  const where = (id: string, publicationId = 'b10') => ({ id, publicationId, courseId: 'ps201', week: 3, from: '2026-01-01T00:00:00.000Z', until: null })
  const announce = (id: string, body: object = {}) => fetch(`${origin}/api/places/${id}/live`, { ...json({ place: where(id), title: 'Held', startsAt: '2026-11-26T10:00:00.000Z', ...body }), method: 'PUT' })
  const turn = (id: string, to: string) => fetch(`${origin}/api/places/${id}/live`, json({ to }))
  const send = (id: string, run: number | string, name: number | string, body: Uint8Array = new Uint8Array(90), duration: number | string = 1.5) =>
    fetch(`${origin}/api/places/${id}/live/${run}/${name}?duration=${duration}`, { method: 'PUT', headers: { cookie: author }, body: body as BodyInit })
  const watch = (path: string, cookie: string) => fetch(`${origin}/api/watch/${path}`, { headers: { cookie } })

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
    const cookie = await student('lv2')
    const view = async () => (await (await watch('lv2', cookie)).json()) as { kind: string; state?: string; playlist?: string | null }
    expect(await view()).toMatchObject({ kind: 'live', state: 'announced', playlist: null })
    await turn('lv2', 'on')
    const init = new Uint8Array(70).fill(1)
    const first = new Uint8Array(90).fill(2)
    await send('lv2', 1, 'init', init)
    await send('lv2', 1, 0, first)
    await send('lv2', 1, 0, new Uint8Array(90).fill(3))
    const { playlist } = await view()
    await refused(fetch(origin + playlist), 401)
    await refused(watch('lv1/live/index.m3u8', cookie), 401)
    const text = await (await watch('lv2/live/index.m3u8', cookie)).text()
    expect(text.match(/^#EXT-X-MAP.*|^1\/.*/gm)).toEqual(['#EXT-X-MAP:URI="1/init"', '1/0'])
    expect(new Uint8Array(await (await watch('lv2/live/1/init', cookie)).arrayBuffer())).toEqual(init)
    expect(new Uint8Array(await (await watch('lv2/live/1/0', cookie)).arrayBuffer())).toEqual(first)
    await refused(watch('lv2/live/1/1', cookie), 404)
    await refused(watch('lv2/live/1/..%2F..%2Fbroadcast', cookie), 404)
    await turn('lv2', 'ended')
    expect(await (await watch('lv2/live/index.m3u8', cookie)).text()).toContain('#EXT-X-ENDLIST')
    await publish('b10', 'Held')
    expect((await place('lv2', 'b10')).status).toBe(200)
    expect(await view()).toMatchObject({ kind: 'recording' })
    await refused(watch('lv2/live/1/0', cookie), 404)
    expect(readdirSync(join(inject('dataFolder'), 'live'), { recursive: true, withFileTypes: true }).filter((e) => e.isFile() && e.parentPath.includes('lv2'))).toEqual([])
  })
  test('that is taken back is nowhere any more', async () => {
    await announce('lv3', { place: where('lv3', 'b11') })
    const cookie = await student('lv3')
    expect((await fetch(`${origin}/api/places/lv3/live`, { method: 'DELETE', headers: { cookie: author } })).status).toBe(200)
    await refused(watch('lv3', cookie), 404)
    expect(await student('lv3')).toBe('')
  })
})

describe('the player', () => {
  test('is small, served compressed, and may stand inside another site', async () => {
    const html = await fetch(`${origin}/player/index.html`)
    for (const header of ['x-frame-options', 'cross-origin-embedder-policy', 'cross-origin-opener-policy', 'cross-origin-resource-policy']) expect(html.headers.get(header)).toBeNull()
    const page = await html.text()
    const files = [...page.matchAll(/(?:src|href)="(\/player\/[^"]+)"/g)].map(([, path]) => path ?? '')
    expect(files.length).toBeGreaterThanOrEqual(2)
    let size = gzipSync(page).length
    for (const path of files) {
      const answer = await fetch(origin + path, { headers: { 'accept-encoding': 'gzip' } })
      expect(answer.headers.get('content-encoding'), path).toBe('gzip')
      size += gzipSync(Buffer.from(await answer.arrayBuffer())).length
    }
    expect(size).toBeLessThan(80_000)
  })
})

describe('answers', () => {
  const send = (cookie: string, events: unknown) => fetch(`${origin}/api/watch/pl8/responses`, json({ events }, cookie))
  const event = (id: string, choiceId: string, kind = 'answer') => ({ id, kind, questionId: 'q', choiceId, at: '2026-11-23T10:00:00.000Z' })
  const stored = async () => ((await (await fetch(`${origin}/api/publications/b8/responses`, { headers: { cookie: author } })).json()) as { student: { id: string }; event: { id: string } }[])

  test('that make no sense are refused', async () => {
    await publish('b8')
    await place('pl8', 'b8')
    const cookie = await student('pl8')
    await refused(send(cookie, [event('e', 'z')]), 400)
    await refused(send(cookie, [{ ...event('e', 'a'), questionId: 'other' }]), 400)
    await refused(send(cookie, [{ ...event('e', 'a'), points: 100 }]), 400)
    await refused(send(cookie, []), 400)
    await refused(send(cookie, 'x'.repeat(1 << 18)), 413)
    await refused(send('', [event('e', 'a')]), 401)
    expect(await stored()).toEqual([])
  })
  test('count once, and the first one counts, whatever is sent again', async () => {
    const cookie = await student('pl8')
    const before = await (await fetch(`${origin}/api/watch/pl8`, { headers: { cookie } })).text()
    expect(before).not.toContain('the secret')
    const selected = await (await send(cookie, [event('e0', 'b', 'select')])).text()
    expect(selected).not.toMatch(/the secret|rightChoiceId/)
    await Promise.all([send(cookie, [event('e1', 'b')]), send(cookie, [event('e1', 'b')]), send(cookie, [event('e1', 'b')])])
    const after = (await (await send(cookie, [event('e2', 'a')])).json()) as { checkpoints: { report: { choiceId: string; right: boolean; explanation: string } }[] }
    expect(after.checkpoints[0]?.report).toMatchObject({ kind: 'handed-in', choiceId: 'b', right: false, explanation: 'the secret' })
    expect((await stored()).filter((s) => s.event.id === 'e1')).toHaveLength(1)
  })
  test('of one student are nobody else’s', async () => {
    const other = await (await fetch(`${origin}/api/watch/pl8`, { headers: { cookie: await student('pl8', 's09') } })).text()
    expect(other).toContain('"unanswered"')
    expect(other).not.toContain('the secret')
  })
  test('are pulled from a number on', async () => {
    const all = await stored()
    const rest = (await (await fetch(`${origin}/api/publications/b8/responses?after=1`, { headers: { cookie: author } })).json()) as unknown[]
    expect(rest).toHaveLength(all.length - 1)
    await refused(fetch(`${origin}/api/publications/b8/responses?after=-1`, { headers: { cookie: author } }), 400)
  })
})

describe('the recogniser', () => {
  const speech = (body: Uint8Array) => fetch(`${origin}/api/speech`, { method: 'POST', headers: { cookie: author }, body: body as BodyInit })
  test('refuses what is no sound it can take', async () => {
    await refused(speech(new TextEncoder().encode('hello '.repeat(100))), 400)
    await refused(speech(new Uint8Array(0)), 400)
  })
})

describe('the course site', () => {
  test('lets in only its students, to their own courses, and Thaw only with the secret', async () => {
    expect((await fetch(`${origin}/course-site/sign-in`, { method: 'POST', body: new URLSearchParams({ student: '../s01' }), redirect: 'manual' })).status).toBe(400)
    const site = cookies(await fetch(`${origin}/course-site/sign-in`, { method: 'POST', body: new URLSearchParams({ student: 's02' }), redirect: 'manual' }))
    expect((await fetch(`${origin}/course-site/courses/ps340`, { headers: { cookie: site } })).status).toBe(404)
    expect((await fetch(`${origin}/course-site/api/items/x`, { method: 'PUT', body: '{}' })).status).toBe(401)
    expect((await fetch(`${origin}/course-site/api/courses/ps201/roster`)).status).toBe(401)
  })
  test('shows a title with markup as text', async () => {
    await publish('b9', '<script>alert(1)</script>')
    await place('pl9', 'b9')
    const site = cookies(await fetch(`${origin}/course-site/sign-in`, { method: 'POST', body: new URLSearchParams({ student: 's02' }), redirect: 'manual' }))
    const html = await (await fetch(`${origin}/course-site/courses/ps201`, { headers: { cookie: site } })).text()
    expect(html).not.toContain('<script>alert')
    expect(html).toContain('&#60;script&#62;alert')
  })
})
