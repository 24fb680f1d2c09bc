// How the desk plays a result: 720p, two feeds, three layers, a cut every ten seconds. Frames that are painted, how far each
// is from the sound that is heard at that moment, and whether the sound ever breaks, by listening to the page. As it was
// recorded, the sound is a file of its own; as it was brought in, it is in the film of the screen. Each beside the same files
// in a bare page.
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { launchChromium } from '../chromium.mjs'
import { openDemo } from '../open-demo.mjs'
import { buildWhenStale } from '../setup.mjs'
import { startServer } from './server.mjs'
import { ffmpeg, made, round } from './tools.mjs'

const LENGTH = 180
const CUTS = 15
/** How long each is watched or listened to, s. */
const SECONDS = 60

/** A film of two slides a minute with something that always moves, as its pictures or as a speaker's. */
const makePicture = (colour) => (path) =>
  ffmpeg(
    ...['-f', 'lavfi', '-i', `testsrc2=s=1280x720:r=30:d=${LENGTH}`],
    ...['-f', 'lavfi', '-i', `color=${colour}:s=1280x600:r=30:d=${LENGTH}`],
    ...['-filter_complex', '[0:v][1:v]overlay=y=120'],
    ...['-c:v', 'libx264', '-preset', 'veryfast', '-g', '60', '-b:v', '1500k', '-pix_fmt', 'yuv420p', path],
  )
/** A tone without a pause: whatever is missing of it is the player's. */
const makeSound = (path) =>
  ffmpeg(...['-f', 'lavfi', '-i', `sine=440:r=48000:d=${LENGTH}`, '-c:a', 'aac', '-b:a', '128k', path])

const makeFilm = (picture, sound) => (path) => ffmpeg('-i', picture, '-i', sound, '-c', 'copy', path)

/**
 * Puts the films in the stead of a demo lecture's, with an edit of its own. Where there are two, the first has the sound.
 * Runs in the page.
 */
async function layOut(length, cuts) {
  const open = indexedDB.open('thaw-demo')
  const db = await new Promise((resolve, reject) => {
    open.onsuccess = () => resolve(open.result)
    open.onerror = () => reject(open.error)
  })
  const files = [...document.querySelector('#films').files]
  const bytes = await Promise.all(files.map((file) => file.arrayBuffer()))
  const transaction = db.transaction(['takes', 'documents', 'files', 'chunks', 'analyses'], 'readwrite')
  const of = (table) => transaction.objectStore(table)
  const ask = (request) =>
    new Promise((resolve, reject) => {
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error)
    })
  const take = (await ask(of('takes').getAll())).find((t) => t.lectureId === 'glacier')
  take.duration = length
  take.feeds = ['screen', 'camera', 'sound'].map((kind, i) => ({
    ...{ id: kind, kind, label: kind, fileId: `film-${i % files.length}`, offset: 0, duration: length },
    ...(kind === 'sound' ? { width: 0, height: 0, frameRate: 0 } : { width: 1280, height: 720, frameRate: 30 }),
  }))
  for (const [i, file] of files.entries()) {
    of('files').put({ id: `film-${i}`, type: file.type })
    of('chunks').put({ fileId: `film-${i}`, seq: 0, bytes: new Blob([bytes[i]]) })
  }
  of('takes').put(take)
  const row = (await ask(of('documents').getAll())).find((r) => r.id === 'glacier-edit')
  const box = { x: 0.1, y: 0.1, width: 0.3, height: 0.1 }
  const over = (id, what) => ({ id, from: 1, to: length - 1, order: Number(id), what })
  Object.assign(row.document, {
    ...{ duration: length, layout: 'inset', inserts: [] },
    removed: Array.from({ length: cuts }, (_, i) => ({
      id: `r${i}`,
      from: 8 + (i * (length - 10)) / cuts,
      to: 11.3 + (i * (length - 10)) / cuts,
    })),
    stretches: [
      over('0', { kind: 'text', box, text: 'Near the bed', ink: '#ffffff', ground: '#1b4b57' }),
      over('1', { kind: 'text', box: { ...box, y: 0.3 }, text: 'At the top', ink: '#ffffff', ground: '#1b4b57' }),
      over('2', { kind: 'mask', box: { ...box, y: 0.6 }, how: 'blur' }),
    ],
  })
  of('documents').put(row)
  await new Promise((resolve, reject) => {
    transaction.oncomplete = resolve
    transaction.onabort = () => reject(transaction.error)
  })
  db.close()
}

/**
 * Notes, while it plays, each painted frame's distance from the sound, or the loudness of every 5 ms: elements that are
 * listened to go by the clock of Web Audio, which is not the desk's. Runs in the page.
 */
async function listen(toSound) {
  const found = { frames: {}, apart: [], levels: [], began: performance.now() }
  window.found = found
  const media = () => [...document.querySelectorAll('.desk audio, .picture video')]
  const leads = () => media().find((s) => !s.paused && !s.muted && s.volume > 0)
  for (const video of document.querySelectorAll('.picture video')) {
    const painted = (_, { mediaTime, expectedDisplayTime }) => {
      video.requestVideoFrameCallback(painted)
      // One that gets ready for the next jump is not seen yet.
      const name = video.getAttribute('aria-label')
      if (!name) return
      found.frames[name] = (found.frames[name] ?? 0) + 1
      const sound = leads()
      if (sound && !sound.seeking && !video.seeking)
        found.apart.push({
          at: performance.now() - found.began,
          by: mediaTime - (sound.currentTime + (expectedDisplayTime - performance.now()) / 1000),
        })
    }
    video.requestVideoFrameCallback(painted)
  }
  if (!toSound) return
  const context = new AudioContext({ sampleRate: 48_000 })
  const code = `registerProcessor('level', class extends AudioWorkletProcessor {
    sum = 0; n = 0
    process([input]) {
      const data = input[0]
      for (let i = 0; i < 128; i++) {
        this.sum += data ? data[i] ** 2 : 0
        if (++this.n === 240) { this.port.postMessage(Math.sqrt(this.sum / 240)); this.sum = 0; this.n = 0 }
      }
      return true
    }
  })`
  await context.audioWorklet.addModule(URL.createObjectURL(new Blob([code], { type: 'text/javascript' })))
  const level = new AudioWorkletNode(context, 'level')
  level.port.onmessage = ({ data }) => found.levels.push(data)
  // As loud as each is played, and nothing of what gets ready unheard.
  for (const element of media()) context.createMediaElementSource(element).connect(level)
  await context.resume()
}

/** For how long there was sound, and where it was missing. @param all levels of 5 ms each */
function heard(all) {
  // What was heard before the tone reached the meter does not count.
  const levels = all.slice(all.findIndex((l) => l > 0.02))
  const breaks = []
  levels.forEach((l, i) => {
    if (l > 0.02) return
    if (i > 0 && levels[i - 1] <= 0.02) breaks.at(-1).milliseconds += 5
    else breaks.push({ at: round(i * 0.005, 2), milliseconds: 5 })
  })
  return { heardSeconds: round(levels.length * 0.005, 1), breaks }
}

const share = (list, test) => (list.length === 0 ? NaN : list.filter(test).length / list.length)
const quantile = (sorted, p) => sorted[Math.min(sorted.length - 1, Math.floor(p * sorted.length))]

export async function desk({ folder, say, figure }) {
  await buildWhenStale()
  const [screen, camera, sound] = [
    await made(folder, 'desk-screen.mp4', makePicture('0xf6f7f3'), say),
    await made(folder, 'desk-camera.mp4', makePicture('0x1b4b57'), say),
    await made(folder, 'desk-sound.m4a', makeSound, say),
  ]
  const film = await made(folder, 'desk-film.mp4', makeFilm(screen, sound), say)
  for (const [files, where] of [
    [[screen, camera, sound], 'recorded'],
    [[film, camera], 'in the film'],
  ])
    for (const [open, page] of [
      [openDesk, 'the desk'],
      [openBare, 'a bare page'],
    ])
      for (const toSound of [false, true])
        await play(files, open, toSound, { say, figure: (values) => figure({ sound: where, page, ...values }) })
}

async function openDesk(page, origin, films) {
  await openDemo(page, origin)
  await page.waitForSelector('.card')
  await page.waitForFunction(
    () => document.querySelectorAll('.still[style]').length >= 7 && !document.querySelector('header .count'),
    { timeout: 120_000 },
  )
  await page.evaluate(() => {
    document.body.insertAdjacentHTML('beforeend', '<input id="films" type="file" multiple>')
  })
  await (await page.$('#films')).uploadFile(...films)
  await page.evaluate(layOut, LENGTH, CUTS)
  await page.goto(`${origin}/lecture/glacier?step=tidied`)
  await page.waitForSelector('.lane.sound canvas')
  await page.waitForFunction(() => document.querySelectorAll('.picture video').length >= 2)
  await new Promise((resolve) => setTimeout(resolve, 4000))
  await page.evaluate(() => document.activeElement.blur())
  await page.keyboard.press('Space')
}

/** The same files played from their beginning on, without cuts, layers or a desk: what the browser and the machine do. */
async function openBare(page, origin, films) {
  // Any document of the origin, as what listens needs a secure one.
  await page.goto(`${origin}/api/nothing`)
  await page.setContent(`<main class="desk picture" style="position:relative;width:600px;height:338px">
    <input id="films" type="file" multiple>
    <video aria-label="screen" style="position:absolute;inset:0;width:100%"></video>
    <video aria-label="camera" style="position:absolute;right:0;bottom:0;width:30%" muted></video><audio></audio></main>`)
  await (await page.$('#films')).uploadFile(...films)
  await page.evaluate(async () => {
    const elements = document.querySelectorAll('video, audio')
    const files = [...document.querySelector('#films').files]
    files.forEach((file, i) => (elements[i].src = URL.createObjectURL(file)))
    if (files.length === 2) elements[2].remove()
    await Promise.all([...elements].slice(0, files.length).map((element) => element.play()))
  })
}

async function play(films, open, toSound, { say, figure }) {
  const data = await mkdtemp(join(tmpdir(), 'thaw-bench-desk-'))
  const server = await startServer(data, { demo: true })
  const browser = await launchChromium({ devices: false })
  try {
    const page = (await browser.pages())[0]
    await page.setViewport({ width: 1280, height: 800 })
    await page.setBypassCSP(true)
    await open(page, server.origin, films)
    await new Promise((resolve) => setTimeout(resolve, 1500))
    say('playing …')
    await page.evaluate(listen, toSound)
    await new Promise((resolve) => setTimeout(resolve, 1000 * SECONDS))
    const found = await page.evaluate(() => ({
      ...window.found,
      seconds: (performance.now() - window.found.began) / 1000,
    }))
    if (toSound) {
      figure({ seconds: round(found.seconds), ...heard(found.levels) })
      return
    }
    const off = found.apart.map((a) => 1000 * a.by)
    const sorted = off.map(Math.abs).sort((a, b) => a - b)
    figure({
      seconds: round(found.seconds),
      framesPerSecond: Object.fromEntries(
        Object.entries(found.frames).map(([name, n]) => [name, round(n / found.seconds, 1)]),
      ),
      pictureToSoundMilliseconds: {
        median: round(
          quantile(
            off.sort((a, b) => a - b),
            0.5,
          ),
          0,
        ),
        p95: round(quantile(sorted, 0.95), 0),
        most: round(sorted.at(-1), 0),
        within60: round(
          share(sorted, (x) => x <= 60),
          4,
        ),
      },
      // Each a frame that is further off: when, s, and by how much, ms.
      further: found.apart
        .filter((a) => Math.abs(a.by) > 0.06)
        .map((a) => [round(a.at / 1000, 1), round(1000 * a.by, 0)])
        .slice(0, 40),
    })
  } finally {
    await browser.close()
    await server.stop()
    await rm(data, { recursive: true, force: true })
  }
}
