/** What is put in and laid over: by hand at the desk, and the same at the desk as in the published film. */
import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { EditDocument } from '../../core/schema/edit'
import { recorded } from '../../core/time/units'
import { shapePoints } from '../../core/picture/strokes'
import { atLength, lengthy } from '../at-length'
import { person, sees, type Person } from '../person'
import { published, publishedStills } from '../published'
import { AUTHOR_KEY } from '../serve'
import { store, stored, storedDocument } from '../stored'
import { unzipped } from '../unzipped'
import { atRest } from '../at-rest'
import { served } from '../served'

const origin = served.origin
const TITLE = 'How ice flows'
const folder = mkdtempSync(join(tmpdir(), 'thaw-put-in-'))
let who: Person

beforeAll(async () => {
  who = await person({ devices: false })
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.see('The term')
  const made = ['-y', '-v', 'error', '-f', 'lavfi', '-i']
  execFileSync('ffmpeg', [
    ...made,
    'testsrc=size=640x480:rate=1,hue=s=0.5',
    '-frames:v',
    '1',
    join(folder, 'chart.png'),
  ])
  execFileSync('ffmpeg', [
    ...[...made, 'testsrc2=size=320x240:rate=25:duration=3', '-f', 'lavfi', '-i', 'sine=frequency=500:duration=3'],
    ...['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-c:a', 'aac', join(folder, 'clip.mp4')],
  ])
})
afterAll(async () => {
  await who.leave()
  rmSync(folder, { recursive: true, force: true })
})

const desk = async (step: string) => {
  await who.go(`${origin}/lecture/flow?step=${step}`)
  await who.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
}
const times = async () => {
  const text = await who.page.$eval('.times', (e) => (e as HTMLElement).innerText)
  const [, m1, s1, m2, s2] = /(\d+):([\d.]+) of (\d+):([\d.]+)/.exec(text) ?? []
  return { at: 60 * Number(m1) + Number(s1), length: 60 * Number(m2) + Number(s2) }
}
const edit = async () => (await storedDocument(who.page, 'flow', 'edit'))!.document

test('a card, a picture and a video are put in where the playhead stands, and stay', async () => {
  await desk('tidied')
  const before = await times()
  await who.click('tab', 'Put in')
  for (let i = 0; i < 5; i++) await who.click('button', 'One frame on')
  await who.type('Title on the card', 'Two ways')
  await who.click('button', 'Put in a card')
  await who.find('button', 'Drop “Two ways”')
  await who.find('image', 'Two ways')
  for (const [file, name] of [
    ['chart.png', 'chart'],
    ['clip.mp4', 'clip'],
  ] as const) {
    const input = await who.page.$('input[type=file][accept^=image]')
    await (input as ElementHandle<HTMLInputElement>).uploadFile(join(folder, file))
    await who.find('button', `Drop “${name}”`)
  }
  expect((await times()).length - before.length).toBeCloseTo(4 + 5 + 3, 1)
  await expect
    .poll(async () => (await edit()).inserts.map((i) => i.what.kind).sort())
    .toEqual(['card', 'picture', 'video'])
  await desk('tidied')
  expect((await times()).length - before.length).toBeCloseTo(12, 1)
  expect((await stored<{ lectureIds: string[] }>(who.page, 'assets')).map((a) => a.lectureIds)).toEqual([
    ['flow'],
    ['flow'],
  ])
})

test('a stretch of another lecture is put in as students see it there', { timeout: 120_000 }, async () => {
  await desk('tidied')
  const before = await times()
  await who.click('tab', 'Put in')
  await who.choose('Where it is put in', 'at the end')
  await who.click('button', 'Of another lecture …')
  await who.choose('Lecture', 'PS 201 What a glacier is')
  // Both ends are typed in the time of that result.
  await who.page.waitForSelector('.el-dialog .row img')
  const [from, to] = await who.page.$$('.el-dialog .row input')
  for (const [field, time] of [
    [from!, '0:02'],
    [to!, '0:05'],
  ] as const) {
    await field.click({ count: 3 })
    await field.type(time)
    await who.page.keyboard.press('Tab')
  }
  await who.click('button', 'Put it in')
  await who.page.waitForFunction(() => !document.querySelector('.el-dialog'), { timeout: 60_000 })
  const last = async () => (await edit()).inserts.at(-1)?.what
  await expect.poll(async () => (await last())?.kind).toBe('video')
  expect((await times()).length - before.length).toBeCloseTo(3, 1)
  const assets = await stored<{ hash: string; name: string; width: number; sound: boolean }>(who.page, 'assets')
  expect(assets.find((a) => a.name === 'What-a-glacier-is.mp4')).toMatchObject({ width: 1280, sound: true })
  await who.page.keyboard.down('Control')
  await who.page.keyboard.press('z')
  await who.page.keyboard.up('Control')
  await expect.poll(async () => (await times()).length).toBeCloseTo(before.length, 1)
  expect(who.errors).toEqual([])
})

test('a title and a closing card come from the particulars', async () => {
  await who.click('tab', 'Put in')
  await who.click('button', 'Closing card with rights')
  await who.see('do not say yet who holds the rights')
  await who.click('button', 'Particulars')
  await (await who.page.waitForSelector('details.fold summary'))?.click()
  await who.type('Owner', 'Norrhaven Polar College')
  await who.choose('Licence', 'CC BY-SA 4.0')
  await who.click('button', 'Done')
  await who.page.waitForFunction(() => !document.querySelector('.el-overlay-dialog'))
  await who.click('button', 'Closing card with rights')
  await who.click('button', 'Title card')
  await expect
    .poll(async () => {
      const { inserts } = await edit()
      const cards = inserts.flatMap((i) => (i.what.kind === 'card' ? [[i.at, i.what.title, i.what.text]] : []))
      return [cards[0], cards.at(-1)]
    })
    .toEqual([
      [0, TITLE, 'PS 201 Glaciers and Meltwater'],
      [
        expect.any(Number),
        '',
        expect.stringMatching(/^© 20\d\d Norrhaven Polar College\nCC BY-SA 4\.0 · creativecommons/),
      ],
    ])
  expect((await edit()).inserts.at(-1)?.at).toBe((await edit()).duration)
})

test('slides of a PDF file are chosen and put in, one after the other', async () => {
  const page = await who.browser.newPage()
  await page.setContent(
    '<style>@page{margin:0}body{margin:0}section{height:719px;font:60px sans-serif;break-after:page}</style>' +
      '<section style="background:#fed">One</section><section>Two</section><section>Three</section>',
  )
  const path = join(folder, 'deck.pdf')
  writeFileSync(path, await page.pdf({ width: '1280px', height: '720px', printBackground: true }))
  await page.close()
  await who.page.bringToFront()
  const input = await who.page.$('input[type=file][accept*=pdf]')
  await (input as ElementHandle<HTMLInputElement>).uploadFile(path)
  await who.click('button', 'Page 1')
  await who.click('button', 'Page 3')
  const before = (await edit()).inserts.length
  await who.click('button', 'Put in 2 slides')
  await expect.poll(async () => (await edit()).inserts.length).toBe(before + 2)
  const slides = (await stored<{ name: string; width: number; height: number }>(who.page, 'assets')).filter((a) =>
    a.name.startsWith('deck'),
  )
  expect(slides.map((s) => [s.name, s.width, s.height]).sort()).toEqual([
    ['deck, page 1.png', 1920, 1080],
    ['deck, page 3.png', 1920, 1080],
  ])
  // They would be in the way of what is played below.
  for (const _ of slides) {
    await who.page.evaluate(() => (document.activeElement as HTMLElement).blur())
    await who.page.keyboard.down('Control')
    await who.page.keyboard.press('z')
    await who.page.keyboard.up('Control')
  }
  await expect.poll(async () => (await edit()).inserts.length).toBe(before)
  writeFileSync(path, 'This is no PDF file.')
  await (input as ElementHandle<HTMLInputElement>).uploadFile(path)
  await who.see('“deck.pdf” cannot be read as a PDF file.')
  await who.page.keyboard.press('Escape')
})

test('what is drawn on the picture is kept as it was drawn, and is there at once when that is wanted', async () => {
  await who.click('tab', 'Lay over')
  await who.click('button', 'Draw')
  await who.page.waitForSelector('.frame .draw:not(.idle)')
  const { x, y, width, height } = (await (await who.page.$('.picture .frame'))!.boundingBox())!
  const line = async (from: number, to: number, down: number) => {
    await who.page.mouse.move(x + from * width, y + down * height)
    await who.page.mouse.down()
    await who.page.mouse.move(x + to * width, y + down * height, { steps: 10 })
    await who.page.mouse.up()
  }
  await line(0.2, 0.6, 0.3)
  await who.click('button', 'Arrow')
  await line(0.2, 0.6, 0.5)
  const strokes = async () => {
    const what = (await edit()).stretches.find((s) => s.what.kind === 'strokes')?.what
    return what?.kind === 'strokes' ? what.strokes : []
  }
  await expect
    .poll(async () => (await strokes()).map((s) => [s.straight, s.points.length > 4]))
    .toEqual([
      [undefined, true],
      [true, true],
    ])
  const [pen, arrow] = await strokes()
  expect(pen!.points[0]!.x).toBeCloseTo(0.2, 1)
  expect(pen!.points.at(-1)!.x).toBeCloseTo(0.6, 1)
  expect(arrow!.points[0]!.at).toBeGreaterThan(pen!.points.at(-1)!.at)
  // Whoever draws sees all of it, although it comes after the playhead.
  expect(await who.page.$$('.picture .draw .strokes path')).toHaveLength(2)
  await who.click('radio', 'All of it at once')
  await expect.poll(async () => (await strokes()).flatMap((s) => s.points).every((p) => p.at === 0)).toBe(true)
  await who.page.waitForFunction(() => document.querySelectorAll('.frame .strokes path').length === 2)
  await who.click('button', 'Eraser')
  await who.page.mouse.click(x + 0.4 * width, y + 0.3 * height)
  await expect.poll(async () => (await strokes()).length).toBe(1)
  await who.click('tab', 'Put in')
})

test('what is no picture is refused in words, and nothing is kept of it', async () => {
  await who.click('tab', 'Put in')
  execFileSync('ffmpeg', ['-y', '-v', 'error', '-f', 'lavfi', '-i', 'sine=duration=1', join(folder, 'tone.wav')])
  const input = await who.page.$('input[type=file][accept^=image]')
  await (input as ElementHandle<HTMLInputElement>).uploadFile(join(folder, 'tone.wav'))
  await who.see('There is no picture in “tone.wav”')
  expect(await stored(who.page, 'assets')).toHaveLength(5)
})

test('it plays through what is put in, and the recording goes on after it, in time', async () => {
  await who.page.keyboard.press('Home')
  await who.page.evaluate(() => (document.activeElement as HTMLElement).blur())
  await who.choose('Speed', '2 ×')
  await who.click('button', 'Play')
  await who.page.waitForSelector('canvas[role=img]', { visible: true })
  // They begin some frames after the start; the clock goes on through all of them.
  await who.page.waitForFunction(
    () => {
      const [, s] = /0:([\d.]+) of/.exec((document.querySelector('.times') as HTMLElement).innerText) ?? []
      return Number(s) > 17
    },
    { polling: 50, timeout: 60_000 },
  )
  await who.click('button', 'Pause')
  const sound = await who.page.$eval('audio.on', (a) => (a as HTMLAudioElement).currentTime)
  const heard = await who.page.$eval(
    '.controls',
    (c) => /recorded (\d+):([\d.]+)/.exec((c as HTMLElement).innerText)?.slice(1) ?? [],
  )
  expect(Math.abs(sound - (60 * Number(heard[0]) + Number(heard[1])))).toBeLessThan(0.2)
})

lengthy('what is behind the speaker is replaced at the desk, once it is made', { timeout: 180_000 }, async () => {
  await desk('tidied')
  await who.click('tab', 'Layout')
  await who.click('radio', 'A colour')
  const camera = '.frame video[aria-label="Hall camera"]'
  /** The colour at the top left of the camera's picture. */
  const corner = () =>
    who.page.$eval(camera, (video) => {
      const g = new OffscreenCanvas(64, 48).getContext('2d')!
      g.drawImage(video as HTMLVideoElement, 0, 0, 64, 48)
      return [...g.getImageData(2, 2, 1, 1).data.subarray(0, 3)]
    })
  const near = (found: number[], wanted: number[]) => found.every((x, i) => Math.abs(x - wanted[i]!) < 12)
  const COLOUR = [0xdf, 0xe6, 0xe4]
  expect(near(await corner(), COLOUR)).toBe(false)
  await who.click('button', 'Replace the background')
  await who.page.waitForFunction(() => !document.body.innerText.includes('Replace the background'), {
    timeout: 120_000,
  })
  await who.page.waitForFunction(() => !document.querySelector('[aria-label="Replacing the background"]'), {
    timeout: 120_000,
  })
  await expect.poll(async () => near(await corner(), COLOUR), { timeout: 20_000 }).toBe(true)
  expect(await stored<{ takeId: string }>(who.page, 'backdrops')).toHaveLength(1)
  // What was recorded is there as it was, and comes back at once.
  await who.click('radio', 'As recorded')
  await expect.poll(async () => near(await corner(), COLOUR), { timeout: 20_000 }).toBe(false)
  await who.click('radio', 'A colour')
  await expect.poll(async () => near(await corner(), COLOUR), { timeout: 20_000 }).toBe(true)
  expect(who.errors).toEqual([])
})
test('the published film shows what the desk shows', { timeout: 180_000 }, async () => {
  const [chart] = (await stored<{ hash: string; kind: string }>(who.page, 'assets')).filter((a) => a.kind === 'picture')
  const row = (await storedDocument(who.page, 'flow', 'edit'))!
  const whole = { x: 0, y: 0, width: 1, height: 1 }
  const from = recorded(10)
  const to = recorded(15)
  const over = (id: string, what: EditDocument['stretches'][number]['what'], order: number) => ({
    id,
    from,
    to,
    what,
    order,
  })
  const edited: EditDocument = {
    ...row.document,
    removed: [{ id: 'cut', from: recorded(3), to: recorded(5) }],
    layout: 'screen',
    watermark: { file: chart!.hash, box: { x: 0.02, y: 0.02, width: 0.1, height: 0.12 }, opacity: 0.5 },
    inserts: [
      {
        id: 'card',
        at: recorded(2),
        what: {
          kind: 'card',
          title: 'Two ways',
          text: 'It creeps and it slides.',
          seconds: 2,
          ink: '#f6f7f3',
          ground: '#1b4b57',
        },
      },
      { id: 'chart', at: recorded(8), what: { kind: 'picture', file: chart!.hash, seconds: 2 } },
    ],
    stretches: [
      over('solid', { kind: 'mask', box: { x: 0.05, y: 0.1, width: 0.3, height: 0.2 }, how: 'solid' }, 0),
      over('blur', { kind: 'mask', box: { x: 0.5, y: 0.4, width: 0.4, height: 0.3 }, how: 'blur' }, 1),
      over(
        'text',
        {
          kind: 'text',
          box: { x: 0.1, y: 0.7, width: 0.5, height: 0.15 },
          text: 'Look here',
          ink: '#ffffff',
          ground: '#1b4b57',
        },
        2,
      ),
      over(
        'small',
        {
          ...{ kind: 'text', box: { x: 0.62, y: 0.72, width: 0.3, height: 0.2 }, text: 'at the right', font: 'title' },
          ...{ ink: '#1e2a2f', ground: null, size: 0.07, align: 'right' },
        },
        2,
      ),
      over(
        'chart',
        { kind: 'picture', box: { x: 0.7, y: 0.1, width: 0.25, height: 0.25 }, file: chart!.hash, opacity: 0.7 },
        3,
      ),
      over(
        'drawn',
        {
          kind: 'strokes',
          strokes: [
            {
              colour: '#b23a2e',
              width: 0.02,
              opacity: 1,
              points: [
                { x: 0.1, y: 0.5, at: 0 },
                { x: 0.4, y: 0.6, at: 0.5 },
              ],
            },
            {
              colour: '#1b4b57',
              width: 0.01,
              opacity: 0.5,
              straight: true,
              points: shapePoints('ellipse', { x: 0.2, y: 0.3 }, { x: 0.45, y: 0.65 }, 16 / 9, 0.01).map((p) => ({
                ...p,
                at: 0.2,
              })),
            },
          ],
        },
        4,
      ),
      {
        id: 'camera',
        from: recorded(17),
        to: recorded(20),
        what: { kind: 'layout', layout: [{ feed: 'camera', box: whole, fit: 'cover' }] },
        order: 5,
      },
    ],
  }
  await store(who.page, 'documents', { ...row, document: edited })
  await desk('released')
  await who.click('button', 'Publish')
  await sees(who.page, 'What students get is what stands here.', 120_000)
  const film = published(served.dataFolder, TITLE)
  const camera = published(served.dataFolder, TITLE, 1)
  expect(film.duration).toBeCloseTo((await times()).length, 1)
  await desk('tidied')
  await who.page.evaluate(() => (document.activeElement as HTMLElement).blur())
  // Captions are no part of the film.
  await who.page.addStyleTag({ content: '.caption { display: none }' })
  const rate = edited.frameRate || 30
  /**
   * How alike the desk after so many seconds, of whole frames, and a film then are (SSIM); `crop` takes a part of the
   * film's picture.
   */
  const alike = async (seconds: number, file: string, crop = 'null'): Promise<number> => {
    await who.page.keyboard.press('Home')
    for (let n = 1; n <= seconds; n++) await who.page.keyboard.press('ArrowRight')
    for (let n = Math.round((seconds % 1) * rate); n > 0; n--) await who.page.keyboard.press('.')
    // Every picture has come to where the playhead stands.
    const playhead = () =>
      who.page.$eval('.times', (e) => {
        const [, minutes, rest] = /(\d+):([\d.]+) of/.exec((e as HTMLElement).innerText) ?? []
        return 60 * Number(minutes) + Number(rest)
      })
    await expect.poll(playhead).toBeCloseTo(seconds, 0)
    await atRest(who.page)
    await who.page.waitForFunction(() =>
      [...document.querySelectorAll<HTMLVideoElement>('.picture video')].every((v) => !v.seeking && v.readyState >= 2),
    )
    await atRest(who.page)
    const { x, y, width, height } = (await (await who.page.$('.picture .frame'))!.boundingBox())!
    const picture = join(folder, `desk-${seconds}.png`)
    await who.page.screenshot({ path: picture as `${string}.png` })
    const [w, h] = [2 * Math.round(width / 2), 2 * Math.round(height / 2)]
    const { stderr } = spawnSync(
      'ffmpeg',
      [
        // A picture that stands still is one long frame: what is shown then, and not what comes next.
        ...['-hide_banner', '-i', picture, '-i', file, '-frames:v', '1'],
        ...[
          '-filter_complex',
          `[0:v]crop=${width}:${height}:${x}:${y},scale=${w}:${h},format=gbrp[a];[1:v]fps=120:start_time=0,trim=start=${seconds + 0.005},trim=end_frame=1,${crop},scale=${w}:${h}:flags=area,format=gbrp[b];[a][b]ssim`,
        ],
        ...['-f', 'null', '-'],
      ],
      { encoding: 'utf8' },
    )
    return Number(/All:([\d.]+)/.exec(stderr)?.[1] ?? NaN)
  }
  // The recording; a card; the recording with a picture, a mask and words over it; a picture that is put in.
  const instants = atLength
    ? Array.from({ length: 60 }, (_, i) => Math.round(((i + 0.5) * 19 * rate) / 60) / rate)
    : [1, 3, 9, 13]
  const likeness = new Map<number, number>()
  for (const seconds of instants) likeness.set(seconds, await alike(seconds, film.file))
  expect([...likeness].filter(([, ssim]) => !(ssim > 0.95))).toEqual([])
  expect(await alike(20, camera.file, 'crop=iw:iw*9/16'), 'the camera, covering the frame').toBeGreaterThan(0.9)

  // The stills along it are composed as well: where the camera covers the frame they show it, and not the screen.
  const { file: sheet, stills } = publishedStills(served.dataFolder, TITLE)
  const still = stills.find((s) => s.from <= 20 && 20 < s.to)!
  const { x, y, width: w, height: h } = still
  const stillLike = (file: string, crop: string) => {
    const filter = `[0:v]crop=${w}:${h}:${x}:${y},format=gbrp[a];[1:v]${crop},scale=${w}:${h}:flags=area,format=gbrp[b];[a][b]ssim`
    const { stderr } = spawnSync(
      'ffmpeg',
      [
        ...['-hide_banner', '-i', sheet, '-ss', String((still.from + still.to) / 2), '-i', file],
        ...['-filter_complex', filter, '-frames:v', '1', '-f', 'null', '-'],
      ],
      { encoding: 'utf8' },
    )
    return Number(/All:([\d.]+)/.exec(stderr)?.[1] ?? NaN)
  }
  const like = { camera: stillLike(camera.file, 'crop=iw:iw*9/16'), screen: stillLike(film.file, 'null') }
  expect(like.camera, 'the still of the camera').toBeGreaterThan(like.screen + 0.3)
})

// What is in them is checked each time in the engine’s tests.
lengthy(
  'the result is saved as a film with captions beside it, as sound alone, and as a picture',
  { timeout: 180_000 },
  async () => {
    const client = await who.page.createCDPSession()
    await client.send('Browser.setDownloadBehavior', { behavior: 'allow', downloadPath: folder })
    const saved = async (name: string) => {
      await who.see(`Saved “${name}”`, 120_000)
      await expect.poll(() => readdirSync(folder).includes(name), { timeout: 20_000 }).toBe(true)
      return join(folder, name)
    }
    const probe = (file: string, what: string) =>
      execFileSync('ffprobe', ['-v', 'error', '-show_entries', what, '-of', 'csv=p=0', file], { encoding: 'utf8' })
    await desk('tidied')
    const { length } = await times()
    await who.click('button', 'Save as a file')
    await who.click('button', 'Save the picture at 0:00.0')
    const picture = await saved('How-ice-flows-0-00.png')
    expect(probe(picture, 'stream=width,height').trim()).toBe('1280,720')

    await who.click('button', 'Save')
    const files = unzipped(await saved('How-ice-flows.zip'))
    expect([...files.keys()].sort()).toEqual(['How-ice-flows.mp4', 'captions-en.vtt'])
    const film = join(folder, 'film.mp4')
    writeFileSync(film, files.get('How-ice-flows.mp4')!)
    expect(Number(probe(film, 'format=duration'))).toBeCloseTo(length, 0)
    expect(probe(film, 'stream=codec_type').trim().split('\n').sort()).toEqual(['audio', 'video'])
    expect(files.get('captions-en.vtt')!.toString()).toMatch(/^WEBVTT\n/)

    await who.choose('Form of the file', 'Sound only (M4A)')
    await who.click('button', 'Save')
    const sound = await saved('How-ice-flows.m4a')
    expect(probe(sound, 'stream=codec_type').trim()).toBe('audio')
    expect(Number(probe(sound, 'format=duration'))).toBeCloseTo(length, 0)
    expect(who.errors).toEqual([])
  },
)
