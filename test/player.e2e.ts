/** The player with two pictures, chapters and link cards, as a student has them. */
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Frame, HTTPRequest } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { PART_SIZE, type PublicationManifest, type PublishedFile } from '../core/schema/publication'
import { lengthy } from './at-length'
import { byRole, person, press as pressIn, type Person } from './person'
import { placeOf, publication } from './publication'
import { AUTHOR_KEY } from './serve'
import { violations } from './violations'
import { served } from './served'

const origin = served.origin
const courseSite = served.courseSite
const folder = mkdtempSync(join(tmpdir(), 'thaw-two-'))
const SECONDS = 40
let who: Person
let player: Frame

/** A film that is coded as recordings are. */
function film(name: string, source: string, ...sound: string[]): Buffer {
  const file = join(folder, name)
  const picture = ['-f', 'lavfi', '-i', `${source}=s=320x180:r=25:d=${SECONDS}`]
  const coding = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-g', '50', '-movflags', '+faststart']
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...picture, ...sound, ...coding, '-shortest', file])
  return readFileSync(file)
}
const parts = (data: Buffer) =>
  Array.from({ length: Math.ceil(data.length / PART_SIZE) }, (_, i) =>
    data.subarray(i * PART_SIZE, (i + 1) * PART_SIZE),
  )

async function publish(): Promise<void> {
  const json = { 'content-type': 'application/json' }
  const session = await fetch(`${origin}/api/author/session`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({ key: AUTHOR_KEY }),
  })
  const cookie = session.headers
    .getSetCookie()
    .map((c) => c.split(';')[0])
    .join('; ')
  const ask = async (method: string, path: string, body: BodyInit, type = 'application/json') => {
    const answer = await fetch(`${origin}/api/${path}`, { method, headers: { cookie, 'content-type': type }, body })
    expect(answer.status, await answer.clone().text()).toBe(200)
    return (await answer.json().catch(() => ({}))) as { version: string }
  }
  const mark = join(folder, 'mark.png')
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'color=#00ff00:s=64x64', '-frames:v', '1', mark])
  const films = {
    'screen.mp4': film('screen.mp4', 'testsrc2', '-f', 'lavfi', '-i', `sine=440:d=${SECONDS}`),
    'camera.mp4': film('camera.mp4', 'smptebars'),
    'mark.png': readFileSync(mark),
  }
  const files = Object.entries(films).map(([name, data]): PublishedFile => ({
    name,
    type: name.endsWith('.png') ? 'image/png' : 'video/mp4',
    size: data.length,
    parts: parts(data).map((p) => createHash('sha256').update(p).digest('hex')),
  }))
  const made = publication('two', 'Two pictures', SECONDS, { size: 1, parts: [] }, [])
  const text = 'WEBVTT\n\n00:00.000 --> 00:39.000\nNothing but bars.\n'
  const captions = [{ language: 'en', role: 'captions', text }]
  const screen = { feed: 'screen', box: { x: 0, y: 0, width: 1, height: 1 } }
  const card = { ink: '#ffffff', ground: '#1b4b57', corner: 0.02 }
  const manifest: PublicationManifest = {
    ...made.manifest,
    width: 320,
    height: 180,
    files,
    feeds: files.slice(0, 2).map(({ name }) => ({ id: name.slice(0, -4), file: name, width: 320, height: 180 })),
    watermark: { file: 'mark.png', box: { x: 0.8, y: 0.1, width: 0.1, height: 0.1 }, opacity: 0.5 },
    layout: [
      { at: 0, slots: [screen, { feed: 'camera', box: { x: 0.75, y: 0.7, width: 0.2, height: 0.2 } }] },
      { at: 30, slots: [screen] },
    ],
    chapters: [
      { id: 'a', at: 0, title: 'Bars' },
      { id: 'b', at: 20, title: 'More bars' },
    ],
    links: [
      {
        ...card,
        id: 'l',
        from: 21,
        to: 24,
        words: 'See the end',
        target: { at: 35 },
        box: { x: 0.1, y: 0.1, width: 0.4, height: 0.15 },
      },
    ],
  }
  const { version: upload } = await ask(
    'POST',
    'publications/two/uploads',
    JSON.stringify({ ...made, manifest, captions }),
  )
  for (const [name, data] of Object.entries(films))
    for (const [i, part] of parts(data).entries())
      await ask(
        'PUT',
        `publications/two/uploads/${upload}/parts/${name}/${i}`,
        part as BodyInit,
        'application/octet-stream',
      )
  await ask('POST', `publications/two/uploads/${upload}/commit`, '{}')
  const options = { download: true }
  const place = placeOf('two', 'two', 'ps201', { week: 3, from: '2026-01-01T00:00:00.000Z', options })
  await ask('PUT', 'places/two', JSON.stringify(place))
}

beforeAll(async () => {
  await publish()
  who = await person({ devices: false })
  await who.go(`${courseSite}/`)
  await who.page.select('#who', 's05')
  await who.click('button', 'Sign in')
  await who.click('link', 'PS 201 Glaciers and Meltwater')
  await who.click('link', 'Two pictures')
  const frame = await (await who.page.waitForSelector('iframe'))?.contentFrame()
  if (!frame) throw new Error('the player did not open')
  player = frame
  await player.waitForFunction(() => {
    const videos = [...document.querySelectorAll('video')]
    return videos.length === 2 && videos.every((v) => v.readyState >= 2)
  })
})
afterAll(async () => {
  await who.leave()
  rmSync(folder, { recursive: true, force: true })
})

const press = (role: string, name: string) => pressIn(player, role, name)
const choose = async (name: string, value: string) => (await byRole(player, 'combobox', name)).select(value)
/** How far apart the two pictures were over some seconds, s: of a look at each frame, all but the worst twentieth. */
const apart = (seconds: number) =>
  player.evaluate(async (lasts) => {
    const [first, second] = document.querySelectorAll('video')
    const found: number[] = []
    for (const end = performance.now() + 1000 * lasts; performance.now() < end;) {
      await new Promise((resolve) => requestAnimationFrame(resolve))
      if (first && second) found.push(Math.abs(first.currentTime - second.currentTime) / first.playbackRate)
    }
    return found.sort((a, b) => a - b)[Math.floor(0.95 * found.length)] ?? Infinity
  }, seconds)
const seekTo = (to: number) =>
  player.evaluate((seconds) => {
    const line = document.querySelector<HTMLInputElement>('[aria-label="Position"]')
    if (!line) throw new Error('there is no line to seek on')
    line.value = String(seconds)
    line.dispatchEvent(new Event('input'))
  }, to)
/** Which pictures are seen, and how wide each is as a share of the frame. */
const shown = () =>
  player.$$eval('.frame video', (videos) =>
    videos
      .filter((v) => getComputedStyle(v).visibility !== 'hidden')
      .map((v) => Math.round((100 * v.clientWidth) / (v.parentElement?.clientWidth ?? 1))),
  )

lengthy('two pictures play together at every speed and after a jump, and stop together', async () => {
  await press('button', 'Play')
  await player.waitForFunction(() => [...document.querySelectorAll('video')].every((v) => v.currentTime > 1))
  expect(await apart(2)).toBeLessThan(0.04)
  await choose('Speed', '2')
  await expect.poll(() => apart(2)).toBeLessThan(0.04)
  await choose('Speed', '1')
  await seekTo(2)
  await player.waitForFunction(() =>
    [...document.querySelectorAll('video')].every((v) => !v.seeking && v.readyState > 2),
  )
  await expect.poll(() => apart(2)).toBeLessThan(0.04)
  await press('button', 'Pause')
  await player.waitForFunction(() => {
    const [first, second] = document.querySelectorAll('video')
    return first?.paused && second?.paused && Math.abs(first.currentTime - second.currentTime) < 0.04
  })
  // The second is heard by nobody.
  expect(await player.$$eval('video', (all) => all.map((v) => v.muted))).toEqual([false, true])
})

test('the mark is shown over the large picture, and lets through what is pressed', async () => {
  const seen = await player.waitForFunction(() => {
    const mark = document.querySelector<HTMLImageElement>('.frame .watermark')
    if (!mark?.complete || mark.naturalWidth === 0) return null
    const [box, frame] = [mark.getBoundingClientRect(), mark.closest('.frame')!.getBoundingClientRect()]
    const at = [(box.x - frame.x) / frame.width, (box.y - frame.y) / frame.height, box.width / frame.width]
    const hit = document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2)
    return { at: at.map((v) => Math.round(100 * v) / 100), opacity: getComputedStyle(mark).opacity, hit: hit?.tagName }
  })
  expect(await seen.jsonValue()).toEqual({ at: [0.8, 0.1, 0.1], opacity: '0.5', hit: 'VIDEO' })
})

test('they stand as they were laid out, or as the student wants, and what is hidden stays hidden', async () => {
  expect(await shown()).toEqual([100, 20])
  await choose('Pictures', 'beside')
  expect((await shown()).map((w) => w < 80 && w > 20)).toEqual([true, true])
  await choose('Pictures', 'camera')
  expect(await shown()).toEqual([100])
  await seekTo(33)
  await player.waitForFunction(() => (document.querySelector('video')?.currentTime ?? 0) > 32)
  await player.waitForFunction(
    () => [...document.querySelectorAll('video')].map((v) => v.style.visibility !== 'hidden').join() === 'true,false',
  )
  await choose('Pictures', '')
})

test('a chapter is gone to, and a link card leads to where it says', async () => {
  await choose('Chapter', 'b')
  await player.waitForFunction(() => Math.abs((document.querySelector('video')?.currentTime ?? 0) - 20) < 0.1)
  expect(await player.$$('.frame .link')).toHaveLength(0)
  await seekTo(22)
  await press('button', 'See the end')
  await player.waitForFunction(() => Math.abs((document.querySelector('video')?.currentTime ?? 0) - 35) < 0.1)
  expect(await player.$$('.frame .link')).toHaveLength(0)
  expect(who.errors).toEqual([])
})

/** The player, opened anew by whoever is signed in. */
async function again(): Promise<void> {
  await who.page.reload()
  const frame = await (await who.page.waitForSelector('iframe'))?.contentFrame()
  if (!frame) throw new Error('the player did not open')
  player = frame
  await player.waitForSelector('.controls')
}

test('nothing moves under the pointer when the captions come', async () => {
  let comes: (() => void) | undefined
  const late = (request: HTTPRequest) => {
    if (!/captions/.test(request.url())) return void request.continue()
    comes = () => void request.continue()
  }
  await who.page.setRequestInterception(true)
  who.page.on('request', late)
  await again()
  await expect.poll(() => comes, { timeout: 20_000 }).toBeTruthy()
  const boxes = () =>
    player.$$eval('.controls > *', (all) =>
      all.map((e) => [e.textContent.trim(), Math.round(e.getBoundingClientRect().left)]),
    )
  await player.waitForFunction(() => (document.querySelector('video')?.readyState ?? 0) >= 2)
  const before = await boxes()
  comes?.()
  await player.waitForSelector('.transcript button')
  expect(await boxes()).toEqual(before)
  who.page.off('request', late)
  await who.page.setRequestInterception(false)
})

test('captions look as a student chose, also the next time', async () => {
  const look = () =>
    player.$eval('.caption', (e) => {
      const { fontSize } = getComputedStyle(e)
      const { backgroundColor, color } = getComputedStyle(e.firstElementChild!)
      return { size: parseFloat(fontSize), backgroundColor, color, top: e.classList.contains('top') }
    })
  await player.waitForSelector('.caption')
  const before = await look()
  expect(before.top).toBe(false)
  await press('button', 'How captions look')
  for (const choice of ['Largest', 'White', 'At the top']) await press('radio', choice)
  expect(await violations(player)).toEqual([])
  await who.page.keyboard.press('Escape')
  await player.waitForFunction(() => !document.querySelector('[role=dialog]'))
  const chosen = { backgroundColor: 'rgb(255, 255, 255)', color: 'rgb(0, 0, 0)', top: true }
  expect(await look()).toMatchObject(chosen)
  expect((await look()).size / before.size).toBeCloseTo(1.9, 1)
  await again()
  await player.waitForSelector('.caption')
  expect(await look()).toMatchObject(chosen)
})

test('a phone of 360 px shows all of it, and two taps on a side go back or on', async () => {
  await who.page.setViewport({ width: 360, height: 740, hasTouch: true, isMobile: true, deviceScaleFactor: 2 })
  await again()
  await player.waitForFunction(() => (document.querySelector('video')?.readyState ?? 0) >= 2)
  const { wide, small } = await player.evaluate(() => ({
    wide: document.documentElement.scrollWidth > innerWidth,
    small: [...document.querySelectorAll<HTMLElement>('.controls :is(button, select, a)')]
      .map((e) => ({ name: e.textContent, ...e.getBoundingClientRect().toJSON() }) as DOMRect & { name: string })
      .filter((r) => r.height < 44 || r.left < 0 || r.right > innerWidth)
      .map((r) => r.name),
  }))
  expect([wide, small]).toEqual([false, []])
  await seekTo(15)
  const at = () => player.$eval('video', (v) => v.currentTime)
  const picture = (await (await player.$('video'))!.boundingBox())!
  const twice = async (share: number) => {
    for (let i = 0; i < 2; i++) await who.page.touchscreen.tap(picture.x + share * picture.width, picture.y + 40)
  }
  await twice(0.9)
  await expect.poll(at).toBeCloseTo(25, 0)
  await twice(0.1)
  await expect.poll(at).toBeCloseTo(15, 0)
  expect(await player.$eval('video', (v) => v.paused)).toBe(true)
  await who.page.setViewport({ width: 1280, height: 800 })
})

lengthy('where one picture cannot be had, the other has the frame', async () => {
  await who.page.setRequestInterception(true)
  who.page.on('request', (request) => void (/camera/.test(request.url()) ? request.abort() : request.continue()))
  await again()
  await player.waitForFunction(() => (document.querySelector('video')?.readyState ?? 0) >= 2)
  await expect.poll(shown).toEqual([100])
  await press('button', 'Play')
  await player.waitForFunction((from) => (document.querySelector('video')?.currentTime ?? 0) > from + 1, {}, 15)
  await press('button', 'Pause')
  expect(who.errors).toEqual([])
})
