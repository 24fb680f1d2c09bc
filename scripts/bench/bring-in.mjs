// Bringing a long lecture in, through the real interface: how long until its desk can be used, until a waveform is seen,
// until all of its sound is measured and its slides are found.
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { launchChromium } from '../chromium.mjs'
import { openDemo } from '../open-demo.mjs'
import { buildWhenStale } from '../setup.mjs'
import { startServer } from './server.mjs'
import { ffmpeg, made, round } from './tools.mjs'

const SLIDES = 10
const EACH = 60
const FONT = '/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf'

/** Ten minutes of slides that stand a minute each under a pointer that never rests, with a voice's kind of sound. */
function makePart(path) {
  const slide = (n) =>
    ['Glaciers move', 'Snow becomes ice', 'Meltwater runs', 'Ice keeps the past', 'Ablation']
      .map(
        (words, i) =>
          `drawtext=fontfile=${FONT}:text='${words} ${(n * 7 + i * 3) % 23}':x=${90 + 260 * (n % 3)}:y=${80 + 110 * ((i + n) % 5)}:fontsize=${54 - 8 * ((i + n) % 4)}:fontcolor=0x1e2a2f:enable='between(t,${EACH * n},${EACH * (n + 1)})'`,
      )
      .join(',')
  const slides = Array.from({ length: SLIDES }, (_, n) => slide(n)).join(',')
  const seconds = SLIDES * EACH
  ffmpeg(
    ...['-f', 'lavfi', '-i', `color=0xf6f7f3:s=1280x720:r=30:d=${seconds}`],
    ...['-f', 'lavfi', '-i', `color=0xb23a2e:s=12x12:r=30:d=${seconds}`],
    ...[
      '-f',
      'lavfi',
      '-i',
      `anoisesrc=c=pink:a=0.4:r=48000:d=${seconds}:seed=5,volume='0.2+0.8*abs(sin(t*1.7))':eval=frame`,
    ],
    '-filter_complex',
    `[0:v]${slides}[deck];[deck][1:v]overlay=x='640+500*sin(t/3)':y='360+300*cos(t/2)'`,
    ...['-c:v', 'libx264', '-preset', 'veryfast', '-g', '150', '-b:v', '600k', '-pix_fmt', 'yuv420p'],
    ...['-map', '2:a', '-c:a', 'aac', '-b:a', '128k', '-shortest', path],
  )
}

/** What is known of the only take that was brought in, by the page's database. */
export async function known() {
  const open = indexedDB.open('thaw-demo')
  const db = await new Promise((resolve) => (open.onsuccess = () => resolve(open.result)))
  const all = (table) =>
    new Promise((resolve) => {
      const request = db.transaction(table).objectStore(table).getAll()
      request.onsuccess = () => resolve(request.result)
    })
  const take = (await all('takes')).find((t) => t.source)
  const analysis = (await all('analyses')).find((a) => a.takeId === take?.id)
  const files = await all('files')
  db.close()
  return {
    copied: take !== undefined && take.feeds.every((f) => files.some((file) => file.id === f.fileId)),
    sound: analysis?.sound !== undefined,
    slides: analysis?.slides?.length ?? null,
  }
}

/** Notes in the page when what is waited for is seen, s since the file was chosen. */
function watch() {
  window.seen = {}
  let began = 0
  const drawn = () => {
    const canvas = document.querySelector('.lane.sound canvas')
    const pixels = canvas?.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data
    return pixels?.some((value) => value > 0)
  }
  const tests = {
    desk: () => document.querySelector('.desk .viewport'),
    picture: () => document.querySelector('.picture video')?.readyState >= 2,
    waveform: drawn,
  }
  const look = () => {
    for (const [name, test] of Object.entries(tests))
      if (window.seen[name] === undefined && test()) window.seen[name] = (performance.now() - began) / 1000
    if (Object.keys(tests).some((name) => window.seen[name] === undefined)) requestAnimationFrame(look)
  }
  document.addEventListener(
    'change',
    () => {
      began = performance.now()
      look()
    },
    { capture: true, once: true },
  )
}

/** A lecture of so many minutes as a file. */
export async function lectureFile(minutes, folder, say) {
  const part = await made(folder, 'lecture-part.mp4', makePart, say)
  return made(
    folder,
    `lecture-${minutes}.mp4`,
    (path) => ffmpeg('-stream_loop', String(minutes / 10 - 1), '-i', part, '-c', 'copy', path),
    say,
  )
}

/** @param {{ minutes: number, folder: string, say: (text: string) => void, figure: (values: object) => void }} options */
export async function bringIn({ minutes, folder, say, figure }) {
  await buildWhenStale()
  const file = await lectureFile(minutes, folder, say)
  const data = await mkdtemp(join(tmpdir(), 'thaw-bench-bring-in-'))
  const server = await startServer(data, { demo: true })
  const browser = await launchChromium({ devices: false })
  try {
    const page = (await browser.pages())[0]
    await openDemo(page, server.origin)
    await page.waitForSelector('.card')
    await page.waitForFunction(
      () => document.querySelectorAll('.still[style]').length >= 7 && !document.querySelector('header .count'),
      { timeout: 180_000 },
    )
    await page.click('.top .el-button--primary')
    const input = await page.waitForSelector('input[type=file]')
    say('bringing it in …')
    await page.evaluate(watch)
    await input.uploadFile(file)
    const began = performance.now()
    const since = () => (performance.now() - began) / 1000
    await page.waitForFunction('Object.keys(window.seen ?? {}).length === 3', { polling: 100, timeout: 120_000 })
    const { desk, picture, waveform } = await page.evaluate('window.seen')
    const times = {}
    for (;;) {
      const now = await page.evaluate(known)
      for (const key of ['copied', 'sound', 'slides']) if (now[key]) times[key] ??= since()
      if (times.copied && times.slides) break
      if (since() > 1200) throw new Error('the lecture was not looked through in 20 min')
      await new Promise((resolve) => setTimeout(resolve, 250))
    }
    const { slides } = await page.evaluate(known)
    figure({
      minutes,
      deskSeconds: round(desk),
      pictureSeconds: round(picture),
      waveformSeconds: round(waveform),
      copiedSeconds: round(times.copied),
      soundSeconds: round(times.sound),
      soundTimesRealTime: round((minutes * 60) / times.sound, 1),
      slidesSeconds: round(times.slides - times.sound),
      slidesTimesRealTime: round((minutes * 60) / (times.slides - times.sound), 1),
      slides,
    })
  } finally {
    await browser.close()
    await server.stop()
    await rm(data, { recursive: true, force: true })
  }
}
