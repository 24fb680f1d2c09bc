/** What one goes along the time line by, and what is laid over and saved by hand; what is saved is judged by ffmpeg. */
import { execFileSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import type { ElementHandle, KeyInput } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { editTimeMap } from '#core/edit/edit'
import type { EditDocument } from '#core/schema/edit'
import { toResult } from '#core/time/time-map'
import { recorded } from '#core/time/units'
import { lengthy } from '../at-length'
import { person, type Person } from '../person'
import { AUTHOR_KEY } from '../serve'
import { store, stored, storedDocument } from '../stored'
import { unzipped } from '../unzipped'
import { served } from '../served'

const origin = served.origin
const folder = mkdtempSync(join(tmpdir(), 'thaw-by-hand-'))
let who: Person

beforeAll(async () => {
  who = await person({ devices: false })
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.see('The term')
  const lavfi = ['-f', 'lavfi', '-i']
  ffmpeg(
    ...[...lavfi, 'testsrc2=size=320x240:rate=25:duration=4', ...lavfi, 'sine=frequency=3000:duration=4'],
    ...['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-c:a', 'aac', join(folder, 'clip.mp4')],
  )
  ffmpeg(...lavfi, 'color=c=0x00ff00:size=64x64', '-frames:v', '1', join(folder, 'crest.png'))
  const client = await who.page.createCDPSession()
  await client.send('Browser.setDownloadBehavior', { behavior: 'allow', downloadPath: folder })
})
afterAll(async () => {
  await who.leave()
  rmSync(folder, { recursive: true, force: true })
})

const ffmpeg = (...args: string[]) => void execFileSync('ffmpeg', ['-y', '-v', 'error', ...args])
const probe = (file: string, what: string): string[] =>
  execFileSync('ffprobe', ['-v', 'error', '-show_entries', what, '-of', 'csv=p=0', file], { encoding: 'utf8' })
    .trim()
    .split('\n')
    .map((line) => line.replace(/,+$/, ''))
/** The mean colour of a part of a film's picture (`w:h:x:y`, px) at an instant, s. */
const colourAt = (file: string, at: number, crop: string): number[] => [
  ...execFileSync('ffmpeg', [
    ...['-v', 'error', '-ss', String(at), '-i', file, '-frames:v', '1'],
    ...['-vf', `crop=${crop},scale=1:1:flags=area`, '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-'],
  ]),
]
/** How loud a film is about a frequency, Hz, for a second from an instant on, dB. */
function loudnessAt(file: string, at: number, frequency: number): number {
  const samples = execFileSync('ffmpeg', [
    ...['-v', 'error', '-ss', String(at), '-t', '1', '-i', file],
    ...['-af', `bandpass=f=${frequency}:width_type=h:w=60`, '-ac', '1', '-f', 'f32le', '-'],
  ])
  const values = new Float32Array(samples.buffer.slice(samples.byteOffset, samples.byteOffset + samples.length))
  return 10 * Math.log10(values.reduce((sum, x) => sum + x * x, 0) / values.length)
}

async function desk(lecture = 'flow', step = 'tidied'): Promise<void> {
  await who.go(`${origin}/lecture/${lecture}?step=${step}`)
  await who.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
  await who.page.waitForSelector('[aria-label="Play"]:not([disabled])')
  await who.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
}
/** The playhead, s of the result. */
const at = async () => {
  const text = await who.page.$eval('.times', (e) => (e as HTMLElement).innerText)
  const [, m, s] = /(\d+):([\d.]+) of/.exec(text) ?? []
  return 60 * Number(m) + Number(s)
}
const edit = async (lecture = 'flow'): Promise<EditDocument> =>
  (await storedDocument(who.page, lecture, 'edit'))!.document
const box = async (selector: string) => {
  const found = await (await who.page.waitForSelector(selector))?.boundingBox()
  if (!found) throw new Error(`${selector} is not to be seen`)
  return found
}
const press = async (...keys: KeyInput[]) => {
  for (const key of keys) await who.page.keyboard.press(key)
}
async function bring(field: string, name: string): Promise<void> {
  const input = (await who.page.waitForSelector(`input[aria-label="${field}"]`)) as ElementHandle<HTMLInputElement>
  await input.uploadFile(join(folder, name))
}
async function saved(name: string): Promise<string> {
  await who.see(`Saved “${name}”`, 120_000)
  await expect.poll(() => readdirSync(folder).includes(name), { timeout: 20_000 }).toBe(true)
  return join(folder, name)
}
describe('the time line', () => {
  test('is gone along by cuts, silences, slides, captions, chapters and marks', async () => {
    await desk()
    const { takes, found, slides } = {
      takes: (await stored<{ id: string; lectureId: string; markers?: number[] }>(who.page, 'takes')).filter(
        (t) => t.lectureId === 'flow',
      ),
      found: await stored<{ takeId: string; sound: { silences: { to: number }[] } }>(who.page, 'analyses'),
      slides: await stored<{ takeId: string; kind: string; at: number }>(who.page, 'stills'),
    }
    const [take] = takes
    expect(takes).toHaveLength(1)
    // The recording has no marks; a person would have set them while it was made.
    await store(who.page, 'takes', { ...take!, markers: [11.25] })
    await press('Home', 'ArrowRight', 'ArrowRight', 's')
    await expect.poll(async () => (await edit()).splits?.length).toBe(1)
    await press('Home', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowRight')
    await who.click('tab', 'Chapters')
    await who.click('button', 'Chapter at the playhead')
    await expect
      .poll(async () => (await storedDocument(who.page, 'flow', 'chapters'))?.document.chapters.length)
      .toBe(1)
    await desk()
    const cues = (await storedDocument(who.page, 'flow', 'captions'))!.document.cues
    const map = editTimeMap(await edit())
    /** The first of some instants of the recording that is seen after the start, s of the result. */
    const firstAfter = (times: readonly number[]) =>
      Math.min(
        ...times.flatMap((t) => {
          const { kind, at } = toResult(map, recorded(t))
          return kind === 'kept' && at > 0.05 ? [at] : []
        }),
      )
    const expected = {
      cut: Math.min(
        ...[...map.removed.flatMap((r) => [r.from, r.to]), ...((await edit()).splits ?? []).map((c) => c.at)]
          .map((t) => toResult(map, t).at)
          .filter((t) => t > 0.05),
      ),
      silence: firstAfter(found.find((a) => a.takeId === take!.id)!.sound.silences.map((s) => s.to)),
      slide: firstAfter(slides.filter((s) => s.takeId === take!.id && s.kind === 'slide').map((s) => s.at)),
      caption: firstAfter(cues.map((c) => c.from)),
      chapter: 4,
      mark: firstAfter([11.25]),
    }
    for (const [kind, time] of Object.entries(expected)) {
      await who.choose('Jump by', kind)
      await who.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
      await press('Home', ']')
      await expect.poll(at, { message: kind }).toBeCloseTo(time, 1)
      await press('End', '[')
      await expect.poll(at, { message: `${kind}, back` }).toBeGreaterThanOrEqual(time - 0.05)
    }
    // One frame on, and back again.
    await press('Home', '.', '.', '.')
    await expect.poll(at).toBeCloseTo(3 / ((await edit()).frameRate || 30), 2)
    await press(',', ',', ',')
    await expect.poll(at).toBe(0)
  })

  test('has lanes that fold, and stay so', async () => {
    const height = async () => (await box('.lane.sound')).height
    const open = await height()
    await who.click('button', 'Sound: fold the lane')
    await expect.poll(height).toBeLessThan(open / 3)
    await desk()
    expect(await height()).toBeLessThan(open / 3)
    await who.click('button', 'Sound: open the lane')
    await expect.poll(height).toBe(open)
  })

  test('zooms by the wheel and by two fingers, and what is under them stays there', async () => {
    const width = async () => (await box('.track')).width
    /** Where on the track a place of the window is, as a share of all of it. */
    const shareAt = async (x: number) => {
      const track = await box('.track')
      return (x - track.x) / track.width
    }
    const lane = await box('.lane.sound')
    const [x, y] = [Math.min(700, lane.x + 0.6 * lane.width), lane.y + lane.height / 2]
    const [whole, share] = [await width(), await shareAt(x)]
    await who.page.mouse.move(x, y)
    await who.page.keyboard.down('Control')
    for (let i = 0; i < 3; i++) await who.page.mouse.wheel({ deltaY: -100 })
    await who.page.keyboard.up('Control')
    await expect.poll(width).toBeGreaterThan(3 * whole)
    expect(await shareAt(x)).toBeCloseTo(share, 2)

    const before = await width()
    const client = await who.page.createCDPSession()
    const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', apart: number) =>
      client.send('Input.dispatchTouchEvent', {
        type,
        touchPoints: apart
          ? [
              { x: x - apart, y, id: 1 },
              { x: x + apart, y, id: 2 },
            ]
          : [],
      })
    await touch('touchStart', 40)
    for (const apart of [50, 60, 70, 80]) await touch('touchMove', apart)
    await touch('touchEnd', 0)
    await expect.poll(width).toBeGreaterThan(1.8 * before)
    expect(await shareAt(x)).toBeCloseTo(share, 2)
    await client.detach()
  })

  test('follows the playhead while it plays, unless it is told not to', async () => {
    const scrolled = () => who.page.$eval('.viewport', (v) => v.scrollLeft)
    await press('Home')
    await who.page.$eval('.viewport', (v) => (v.scrollLeft = 300))
    await expect.poll(scrolled).toBe(300)
    // Also where one is already.
    await press('Home')
    await expect.poll(scrolled).toBe(0)
    for (let i = 0; i < 3; i++) await who.click('button', 'Zoom in')
    await expect.poll(scrolled).toBe(0)
    await who.click('button', 'Play')
    await expect.poll(scrolled, { timeout: 30_000 }).toBeGreaterThan(50)
    await who.click('button', 'Pause')
    await who.click('button', 'Follow the playhead')
    await press('Home')
    await expect.poll(scrolled).toBe(0)
    const [view, track] = [await box('.viewport'), await box('.track')]
    /** How long what is seen of the line lasts, s. */
    const seconds = ((view.width - 100) / track.width) * 21
    await who.click('button', 'Play')
    await expect.poll(at, { timeout: 30_000 }).toBeGreaterThan(seconds + 0.5)
    await who.click('button', 'Pause')
    expect(await scrolled()).toBe(0)
    await who.click('button', 'Follow the playhead')
    expect(who.errors).toEqual([])
  })
})

test('a proposal is listened to from a second before it', async () => {
  const said = 'ice ice flows um slowly'.split(' ')
  const row = (await storedDocument(who.page, 'flow', 'captions'))!
  const words = said.map((text, i) => ({ text, from: 6 + i / 2, to: 6.4 + i / 2, confidence: 0.9 }))
  await store(who.page, 'documents', {
    ...row,
    document: { ...row.document, cues: [{ id: 'c', from: 6, to: 8.5, text: said.join(' '), words }] },
  })
  await desk()
  await who.page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('[role=tab]')].find((t) => /^Proposed/.test(t.innerText))?.click(),
  )
  await who.see('“ice” is said twice.')
  await (await who.page.waitForSelector('::-p-xpath(//button[contains(., "“ice” is said twice")])'))?.click()
  await who.find('button', 'Pause')
  const from = toResult(editTimeMap(await edit()), recorded(5)).at
  expect(await at()).toBeGreaterThan(from - 0.1)
  expect(await at()).toBeLessThan(from + 1.5)
  await who.click('button', 'Pause')
  // Left alone, the captions are the lecture's own again.
  await store(who.page, 'documents', { ...row })
})

describe('on the picture', () => {
  test('what is dragged goes to the safe area, unless that is held off; what cannot be read is said', async () => {
    await desk()
    await who.click('tab', 'Lay over')
    await who.click('button', 'Text')
    const last = async () => (await edit()).stretches.at(-1)?.what as { kind: string; box: { x: number; y: number } }
    await expect.poll(async () => (await last())?.kind).toBe('text')
    const drag = async (toX: number) => {
      const [frame, text] = [await box('.picture .frame'), await box('.picture .box.active')]
      const grip = { x: text.x + text.width / 2, y: text.y + text.height / 2 }
      await who.page.mouse.move(grip.x, grip.y)
      await who.page.mouse.down()
      await who.page.mouse.move(grip.x + (toX - (text.x - frame.x) / frame.width) * frame.width, grip.y, { steps: 8 })
      const guides = await who.page.$$('.picture .guide.down')
      await who.page.mouse.up()
      return guides.length
    }
    // The safe area begins a twentieth from each edge.
    expect(await drag(0.056)).toBeGreaterThan(0)
    await expect.poll(async () => (await last()).box.x).toBeCloseTo(0.05, 4)
    await who.page.keyboard.down('Alt')
    expect(await drag(0.056)).toBe(0)
    await who.page.keyboard.up('Alt')
    await expect.poll(async () => (await last()).box.x).toBeCloseTo(0.056, 2)
    expect((await last()).box.x).not.toBeCloseTo(0.05, 4)
    const row = (await storedDocument(who.page, 'flow', 'edit'))!
    const dim = row.document.stretches.map((s) =>
      s.what.kind === 'text' ? { ...s, what: { ...s.what, ink: '#2a5a66' } } : s,
    )
    await store(who.page, 'documents', { ...row, document: { ...row.document, stretches: dim } })
    await desk()
    await who.click('tab', 'Lay over')
    await (await who.page.waitForSelector('.lane.over .item, .items.over button'))?.click()
    await who.see('Hard to read: contrast')
    await press('Delete')
    await expect.poll(async () => (await edit()).stretches.length).toBe(0)
  })

  test('a video lies over with both sounds, and a mark over all', { timeout: 200_000 }, async () => {
    await desk()
    await press('Home', ...Array<KeyInput>(10).fill('ArrowRight'))
    await who.click('tab', 'Lay over')
    await bring('Picture, slides or video to lay over', 'clip.mp4')
    await who.click('radio', 'Both')
    await who.type('The lecture’s sound lower by, dB', '20', 'spinbutton')
    const video = async () => (await edit()).stretches.at(-1)
    await expect.poll(async () => (await video())?.what).toMatchObject({ kind: 'video', sound: true, under: -20 })
    await bring('Picture for the mark', 'crest.png')
    await expect.poll(async () => (await edit()).watermark?.opacity).toBe(0.6)
    await who.page.$eval('[aria-label="Opacity of the mark in per cent"]', (e) => (e as HTMLElement).focus())
    await press('End')
    await expect.poll(async () => (await edit()).watermark?.opacity).toBe(1)
    // At the desk the video is heard as it is, and the lecture a tenth as loud.
    const volumes = () =>
      who.page.$$eval('.picture video, .picture audio', (all) =>
        (all as HTMLMediaElement[]).flatMap((m) => (m.muted ? [] : [Math.round(100 * m.volume) / 100])).sort(),
      )
    await press('ArrowRight')
    await expect.poll(volumes).toEqual([0.1, 1])

    await who.click('button', 'Save as a file')
    await who.choose('Form of the file', 'WebM film')
    await who.click('radio', 'Captions inside, to be switched on and off')
    await who.click('button', 'Save')
    const film = await saved('How-ice-flows.webm')
    expect(probe(film, 'stream=codec_type').sort()).toEqual(['audio', 'subtitle', 'video'])
    // Debian's ffmpeg does not know yet what Matroska calls WebVTT (RFC 9559, 27).
    expect(readFileSync(film).includes('S_TEXT/WEBVTT')).toBe(true)
    // The video's tone is heard where it lies, and nowhere else; the mark is there throughout.
    const from = toResult(editTimeMap(await edit()), (await video())!.from).at
    expect(loudnessAt(film, from + 1, 3000) - loudnessAt(film, from - 3, 3000)).toBeGreaterThan(20)
    for (const time of [2, from + 2]) {
      const [red, green, blue] = colourAt(film, time, 'iw/50:ih/50:iw*0.9:ih*0.08')
      expect([red! < 60, green! > 200, blue! < 60], `the mark at ${time} s`).toEqual([true, true, true])
    }
    expect(who.errors).toEqual([])
  })

  lengthy('a colour is behind the speaker, at the desk and in the film', { timeout: 280_000 }, async () => {
    await desk()
    await who.click('tab', 'Layout')
    await who.click('radio', 'Camera')
    await expect.poll(async () => (await edit()).layout).toBe('camera')
    const films = () =>
      who.page.$$eval('.picture video[aria-label]', (all) =>
        all.map((v) => `${v.ariaLabel} ${(v as HTMLVideoElement).src}`).join('\n'),
      )
    const before = await films()
    await who.click('radio', 'A colour')
    await expect.poll(async () => (await edit()).background?.how.kind).toBe('colour')
    await who.click('button', 'Replace the background')
    await expect.poll(films, { timeout: 200_000 }).not.toBe(before)
    await who.click('button', 'Save as a file')
    await who.click('radio', 'No captions')
    await who.click('button', 'Save')
    const film = await saved('How-ice-flows.mp4')
    // A corner of the camera's picture, which its speaker does not reach.
    const wanted = [0xdf, 0xe6, 0xe4]
    for (const time of [2, 8]) {
      const corner = colourAt(film, time, 'iw/40:ih/40:iw*0.01:ih*0.02')
      expect(Math.max(...corner.map((c, i) => Math.abs(c - wanted[i]!))), `behind, ${corner.join()}`).toBeLessThan(14)
    }
    expect(who.errors).toEqual([])
  })
})

// What is in such a folder is checked each time in the engine’s tests.
lengthy(
  'the result is saved for streaming, with chapters and captions in the folder',
  { timeout: 200_000 },
  async () => {
    await desk()
    await who.click('button', 'Save as a file')
    await who.choose('Form of the file', 'Folder for streaming (HLS), zipped')
    await who.click('button', 'Save')
    const files = unzipped(await saved('How-ice-flows.zip'))
    for (const [path, bytes] of files) {
      mkdirSync(join(folder, 'hls', dirname(path)), { recursive: true })
      writeFileSync(join(folder, 'hls', path), bytes)
    }
    const paths = [...files.keys()]
    expect(paths).toEqual(expect.arrayContaining([expect.stringMatching(/captions-en\.vtt$/)]))
    expect(paths).toEqual(expect.arrayContaining([expect.stringMatching(/chapters.*\.vtt$/)]))
    const main = paths.find((p) => files.get(p)!.toString('latin1').includes('#EXT-X-STREAM-INF')) ?? ''
    expect(main).toMatch(/\.m3u8$/)
    expect(probe(join(folder, 'hls', main), 'stream=codec_type').sort()).toEqual(
      expect.arrayContaining(['audio', 'video']),
    )
    ffmpeg('-i', join(folder, 'hls', main), '-fps_mode', 'passthrough', '-f', 'null', '-')
  },
)

test('a link card does not lie over what is put in, neither at the desk nor for students', async () => {
  await desk()
  await press('ArrowRight', 'Home')
  await who.click('tab', 'Put in')
  await who.click('button', 'Title card')
  await expect.poll(async () => (await edit()).inserts.map((i) => i.what.kind)).toEqual(['card'])
  const [card] = editTimeMap(await edit()).inserts
  await press('ArrowRight', 'Home')
  await expect.poll(at).toBe(0)
  await who.click('tab', 'Links')
  await who.click('button', 'Link card at the playhead')
  // It begins with the recording, and so far one goes.
  await expect.poll(at).toBeCloseTo(card!.length, 1)
  await who.page.waitForSelector('.picture .link')
  const [link] = (await storedDocument(who.page, 'flow', 'links'))!.document.links
  expect(toResult(editTimeMap(await edit()), link!.from).at).toBeCloseTo(card!.length, 1)
  await who.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
  await press('Home')
  await who.page.waitForFunction(() => !document.querySelector('.picture .box .link, .picture .box .box'))
  expect(who.errors).toEqual([])
})

test('playing goes on into a take that is sound alone and begins a moment late', async () => {
  const [take] = (
    await stored<{ lectureId: string; duration: number; feeds: { kind: string; offset: number }[] }>(who.page, 'takes')
  ).filter((t) => t.lectureId === 'flow')
  const joint = Math.round(take!.duration * 30) / 30
  const feeds = take!.feeds.filter((f) => f.kind === 'sound').map((f) => ({ ...f, offset: 0.01 }))
  await store(who.page, 'takes', { ...take!, id: 'flow-2', startedAt: '2026-11-20T09:00:00Z', at: joint, feeds })
  const row = (await storedDocument(who.page, 'flow', 'edit'))!
  const most = { id: 'most', from: recorded(1), to: recorded(joint - 1.5) }
  await store(who.page, 'documents', {
    ...row,
    document: {
      ...row.document,
      duration: recorded(joint + take!.duration),
      removed: [most],
      inserts: [],
      stretches: [],
      splits: [],
    },
  })
  await desk()
  await who.page.waitForSelector('button[aria-label^="Take 2 begins, at 0:0"]')
  await who.click('button', 'Play')
  await expect.poll(at, { timeout: 30_000 }).toBeGreaterThan(4)
  await who.click('button', 'Pause')
  // As in the published film, the last picture stands still for two seconds.
  await press('Home', 'ArrowRight', 'ArrowRight', 'ArrowRight')
  await expect.poll(at).toBe(3)
  await who.page.waitForFunction(() =>
    [...document.querySelectorAll<HTMLVideoElement>('.picture video[aria-label]')].some(
      (v) => v.readyState >= 2 && v.checkVisibility({ visibilityProperty: true }) && v.currentTime > v.duration - 0.5,
    ),
  )
  expect(who.errors).toEqual([])
})
