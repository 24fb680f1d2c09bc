// The time line of a two-hour lecture: 100 cuts, 200 things laid over, 2,000 cues, 100 link cards. How it scrolls, how
// something is dragged on it, and how it plays, beside the same films in a page that has nothing else. The lecture is
// the demo's, said to be two hours long, with its waveform, silences and pictures over and over.
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { launchChromium } from '../chromium.mjs'
import { openDemo } from '../open-demo.mjs'
import { buildWhenStale } from '../setup.mjs'
import { startServer } from './server.mjs'

const LENGTH = 7200
const COUNT = { cuts: 100, over: 200, cues: 2000, links: 100, chapters: 40 }

/** Makes the demo's lecture long and full. Runs in the page. */
async function layOut(length, count) {
  const open = indexedDB.open('thaw-demo')
  const db = await new Promise((resolve, reject) => {
    open.onsuccess = () => resolve(open.result)
    open.onerror = () => reject(open.error)
  })
  const tables = ['takes', 'documents', 'peaks', 'analyses', 'stills']
  const transaction = db.transaction(tables, 'readwrite')
  const of = (table) => transaction.objectStore(table)
  const ask = (request) =>
    new Promise((resolve, reject) => {
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error)
    })
  const take = (await ask(of('takes').getAll())).find((t) => t.lectureId === 'glacier')
  const before = take.duration
  const times = Math.ceil(length / before)
  take.duration = length
  take.feeds.forEach((f) => {
    f.duration = length
  })
  of('takes').put(take)
  const peaks = await ask(of('peaks').get(take.id))
  peaks.levels = peaks.levels.map((level) => {
    const data = new level.data.constructor(level.data.length * times)
    for (let i = 0; i < times; i++) data.set(level.data, i * level.data.length)
    return { ...level, data }
  })
  of('peaks').put(peaks)
  const analysis = await ask(of('analyses').get(take.id))
  const again = (ranges) =>
    Array.from({ length: times }, (_, i) =>
      ranges.map((r) => ({ ...r, from: r.from + i * before, to: r.to + i * before })),
    ).flat()
  analysis.sound.silences = again(analysis.sound.silences)
  of('analyses').put(analysis)
  for (const still of (await ask(of('stills').getAll())).filter((s) => s.takeId === take.id && s.kind === 'thumbnail'))
    for (let i = 1; i < times; i++) of('stills').put({ ...still, at: still.at + i * before })
  const rows = await ask(of('documents').getAll())
  const edit = rows.find((r) => r.id === 'glacier-edit')
  const spread = (n, i) => 60 + (i * (length - 120)) / n
  const box = { x: 0.1, y: 0.1, width: 0.3, height: 0.1 }
  Object.assign(edit.document, {
    duration: length,
    removed: Array.from({ length: count.cuts }, (_, i) => ({
      id: `r${i}`,
      from: spread(count.cuts, i),
      to: spread(count.cuts, i) + 4,
    })),
    stretches: Array.from({ length: count.over }, (_, i) => ({
      ...{ id: `s${i}`, from: spread(count.over, i) + 10, to: spread(count.over, i) + 40, order: i },
      what: { kind: 'text', box, text: `Text ${i}`, ink: '#ffffff', ground: '#1b4b57' },
    })),
  })
  // What is played at the beginning has three layers.
  edit.document.stretches.slice(0, 3).forEach((s, i) => Object.assign(s, { from: 1 + i, to: 34 }))
  of('documents').put(edit)
  const put = (kind, document) =>
    of('documents').put({ id: `glacier-${kind}`, lectureId: 'glacier', kind, document, applied: 0, conflicts: [] })
  put('captions', {
    ...{ format: 'thaw-captions', version: 1, language: 'en', state: 'draft', source: 'recogniser' },
    cues: Array.from({ length: count.cues }, (_, i) => ({
      ...{ id: `c${i}`, from: (i * length) / count.cues, to: ((i + 0.95) * length) / count.cues },
      text: 'near the bed the ice is held back and at the surface it slides',
    })),
  })
  put('links', {
    ...{ format: 'thaw-links', version: 1 },
    links: Array.from({ length: count.links }, (_, i) => ({
      ...{
        id: `l${i}`,
        from: spread(count.links, i),
        to: spread(count.links, i) + 8,
        words: `Link ${i}`,
        target: { at: 0 },
      },
      ...{ box, ink: '#ffffff', ground: '#1b4b57', corner: 0.02 },
    })),
  })
  put('chapters', {
    ...{ format: 'thaw-chapters', version: 1 },
    chapters: Array.from({ length: count.chapters }, (_, i) => ({
      id: `h${i}`,
      at: spread(count.chapters, i),
      title: `Chapter ${i}`,
    })),
  })
  await new Promise((resolve, reject) => {
    transaction.oncomplete = resolve
    transaction.onabort = () => reject(transaction.error)
  })
  db.close()
}

/** Counts frames and long tasks of the page. */
function equip() {
  window.bench = {
    start() {
      const found = { frames: 0, longest: 0, began: performance.now(), on: true }
      const observer = new PerformanceObserver((list) => {
        for (const task of list.getEntries()) found.longest = Math.max(found.longest, task.duration)
      })
      observer.observe({ type: 'longtask' })
      const next = () => {
        found.frames++
        if (found.on) requestAnimationFrame(next)
      }
      requestAnimationFrame(next)
      window.bench.stop = () => {
        found.on = false
        observer.disconnect()
        return {
          framesPerSecond: Math.round(found.frames / ((performance.now() - found.began) / 1000)),
          longestTaskMilliseconds: Math.round(found.longest),
        }
      }
    },
  }
}

/** The films that play, at the same sizes, in a page that has nothing else. */
async function bareFilms() {
  const films = [...document.querySelectorAll('.picture video[aria-label], audio.on')].map((element) => {
    const bare = document.createElement(element.localName)
    const { width, height } = element.getBoundingClientRect()
    Object.assign(bare, { src: element.src, muted: element.localName === 'video' })
    Object.assign(bare.style, { width: `${width}px`, height: `${height}px`, objectFit: 'fill' })
    return bare
  })
  document.body.replaceChildren(...films)
  await Promise.all(films.map((film) => film.play()))
}

const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms))

export async function timeLine({ say, figure }) {
  await buildWhenStale()
  const folder = await mkdtemp(join(tmpdir(), 'thaw-bench-time-line-'))
  const server = await startServer(folder, { demo: true })
  const browser = await launchChromium({ devices: false })
  try {
    const page = (await browser.pages())[0]
    await page.setViewport({ width: 1280, height: 800 })
    await page.evaluateOnNewDocument(equip)
    await openDemo(page, server.origin)
    await page.waitForSelector('.card')
    await page.waitForFunction(
      () => document.querySelectorAll('.still[style]').length >= 7 && !document.querySelector('header .count'),
      { timeout: 120_000 },
    )
    await page.evaluate(layOut, LENGTH, COUNT)
    const measure = async (what, act) => {
      say(`${what} …`)
      await page.evaluate(() => window.bench.start())
      await act()
      figure({ what, ...(await page.evaluate(() => window.bench.stop())) })
    }
    await page.goto(`${server.origin}/lecture/glacier?step=tidied`)
    await page.waitForSelector('.lane.sound canvas')
    await pause(3000)
    const zoom = await page.$('[aria-label="Zoom"]')
    const box = await zoom.boundingBox()
    await measure('zooming from the whole to single frames', async () => {
      await page.mouse.move(box.x + 4, box.y + box.height / 2)
      await page.mouse.down()
      for (let i = 0; i <= 40; i++) {
        await page.mouse.move(box.x + 4 + (i * (box.width - 8)) / 40, box.y + box.height / 2)
        await pause(50)
      }
      await page.mouse.up()
    })
    for (const [name, step] of [
      ['the whole lecture', 0],
      ['some minutes', 45],
      ['single words', 70],
    ]) {
      await page.evaluate((value) => {
        const input = document.querySelector('[aria-label="Zoom"]')
        input.value = value
        input.dispatchEvent(new Event('input'))
      }, step)
      await pause(1500)
      if (step > 0)
        await measure(`scrolling, ${name}`, () =>
          page.evaluate(async () => {
            const view = document.querySelector('.viewport')
            const began = performance.now()
            while (performance.now() - began < 4000) {
              view.scrollLeft += 24
              await new Promise((resolve) => requestAnimationFrame(resolve))
            }
            view.scrollLeft = 0
          }),
        )
      await pause(1000)
      const item = await (await page.$('.items.over .item')).boundingBox()
      const y = item.y + item.height / 2
      await measure(`dragging, ${name}`, async () => {
        await page.mouse.move(item.x + item.width / 2, y)
        await page.mouse.down()
        for (let i = 0; i < 160; i++) {
          await page.mouse.move(item.x + item.width / 2 + 60 * Math.sin(i / 12), y)
          await pause(16)
        }
        await page.mouse.up()
      })
      await page.keyboard.down('Control')
      await page.keyboard.press('z')
      await page.keyboard.up('Control')
      await pause(800)
    }
    await page.evaluate(() => document.activeElement.blur())
    await page.keyboard.press('Home')
    await pause(1500)
    await page.keyboard.press('Space')
    await pause(1500)
    await measure('playing, three layers', () => pause(8000))
    await page.keyboard.press('Space')
    await page.evaluate(bareFilms)
    await pause(1500)
    await measure('the same films in a bare page', () => pause(5000))
  } finally {
    await browser.close()
    await server.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
