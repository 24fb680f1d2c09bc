// The caption list of a two-hour lecture: 2,000 cues with their words, on the demo's recording. How long until it opens,
// from a key to its paint, to split and to join a cue, and how it plays.
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { median } from 'd3-array'
import { launchChromium } from '../chromium.mjs'
import { openDemo } from '../open-demo.mjs'
import { buildWhenStale } from '../setup.mjs'
import { startServer } from './server.mjs'

const CUES = 2000
const KEYS = 60
const ROUNDS = 5
const sorted = (values) => [...values].sort((a, b) => a - b)

/** Puts the cues where the application keeps them. Runs in the page. */
async function layOut(count) {
  const open = indexedDB.open('thaw-demo')
  const db = await new Promise((resolve, reject) => {
    open.onsuccess = () => resolve(open.result)
    open.onerror = () => reject(open.error)
  })
  const words = 'near the bed the ice is held back and at the surface it'.split(' ')
  // What is played has them as a lecture has; all the others stand behind it.
  const SPOKEN = 10
  const begins = (i) => (i < SPOKEN ? 3 * i : 3 * SPOKEN + (10 * (i - SPOKEN)) / count)
  const cues = Array.from({ length: count }, (_, i) => {
    const [from, to] = [begins(i), begins(i + 1)]
    const heard = words.map((text, k) => ({
      text,
      from: from + ((to - from) * k) / 14,
      to: from + ((to - from) * (k + 1)) / 14,
      confidence: k === 3 ? 0.2 : 0.9,
    }))
    return { id: `c${i}`, from, to: from + 0.95 * (to - from), text: words.join(' '), words: heard }
  })
  const transaction = db.transaction('documents', 'readwrite')
  transaction.objectStore('documents').put({
    id: 'glacier-captions',
    lectureId: 'glacier',
    kind: 'captions',
    document: { format: 'thaw-captions', version: 1, language: 'en', state: 'draft', source: 'recogniser', cues },
    applied: 0,
    conflicts: [],
  })
  await new Promise((resolve, reject) => {
    transaction.oncomplete = resolve
    transaction.onabort = () => reject(transaction.error)
  })
  db.close()
}

/** Helpers of the page: waits, and the time from an act to the paint of what it did, ms. */
function equip() {
  const frame = () => new Promise((resolve) => requestAnimationFrame(resolve))
  const painted = async () => {
    await frame()
    await new Promise((resolve) => {
      const channel = new MessageChannel()
      channel.port1.onmessage = resolve
      channel.port2.postMessage(0)
    })
  }
  window.bench = {
    painted,
    async until(selector) {
      while (!document.querySelector(selector)) await frame()
    },
    async took(act, selector) {
      const began = performance.now()
      act()
      await window.bench.until(selector)
      await painted()
      return performance.now() - began
    },
    button: (name) => [...document.querySelectorAll('.cues button')].find((b) => b.innerText.trim() === name),
  }
}

/**
 * What this machine does with the same films, at the same sizes, and with a field that is typed into, in a page that has
 * nothing else. Runs in the page, whose application it ends. Gives frames a second.
 */
async function bareFrames() {
  const films = [...document.querySelectorAll('.picture video[aria-label], audio.on')].map((element) => {
    const bare = document.createElement(element.localName)
    const { width, height } = element.getBoundingClientRect()
    Object.assign(bare, { src: element.src, muted: element.localName === 'video' })
    Object.assign(bare.style, { width: `${width}px`, height: `${height}px`, objectFit: 'fill' })
    return bare
  })
  const field = document.createElement('textarea')
  document.body.replaceChildren(...films, field)
  await Promise.all(films.map((film) => film.play()))
  const began = performance.now()
  let frames = 0
  while (performance.now() - began < 5000) {
    await new Promise((resolve) => requestAnimationFrame(resolve))
    frames++
  }
  films.forEach((film) => film.pause())
  field.focus()
  window.bench.keys = []
  field.addEventListener('keydown', async (e) => {
    await window.bench.painted()
    window.bench.keys.push(performance.now() - e.timeStamp)
  })
  return frames / 5
}

export async function captions({ say, figure }) {
  await buildWhenStale()
  const folder = await mkdtemp(join(tmpdir(), 'thaw-bench-captions-'))
  const server = await startServer(folder, { demo: true })
  const browser = await launchChromium({ devices: false })
  try {
    const page = (await browser.pages())[0]
    await page.evaluateOnNewDocument(equip)
    await openDemo(page, server.origin)
    await page.waitForSelector('.card')
    await page.waitForFunction(
      () => document.querySelectorAll('.still[style]').length >= 7 && !document.querySelector('header .count'),
      { timeout: 120_000 },
    )
    await page.evaluate(layOut, CUES)
    const opens = []
    for (let round = 0; round < ROUNDS; round++) {
      say(`opening ${round + 1} of ${ROUNDS} …`)
      await page.goto(`${server.origin}/lecture/glacier?step=tidied`)
      await page.waitForSelector('.lane.sound canvas')
      opens.push(
        await page.evaluate(() =>
          window.bench.took(() => document.querySelector('nav a[href*="step=captioned"]').click(), '.cues .words'),
        ),
      )
    }
    say('typing …')
    await page.evaluate(() => document.querySelectorAll('.cues .words')[3].click())
    await page.waitForSelector('.cues textarea')
    await page.evaluate(() => {
      window.bench.keys = []
      document.querySelector('.cues textarea').addEventListener('keydown', async (e) => {
        await window.bench.painted()
        window.bench.keys.push(performance.now() - e.timeStamp)
      })
    })
    for (let i = 0; i < KEYS; i++) await page.keyboard.press('a', { delay: 20 })
    const keys = await page.evaluate(() => window.bench.keys)
    const [splits, joins] = [[], []]
    for (let round = 0; round < ROUNDS; round++) {
      say(`splitting and joining ${round + 1} of ${ROUNDS} …`)
      await page.evaluate(() => {
        const field = document.querySelector('.cues textarea')
        field.setSelectionRange(12, 12)
      })
      const [split, joined] = [`.cues li[aria-setsize="${CUES + 1}"]`, `.cues li[aria-setsize="${CUES}"]`]
      splits.push(
        await page.evaluate((s) => window.bench.took(() => window.bench.button('Split at cursor').click(), s), split),
      )
      await new Promise((resolve) => setTimeout(resolve, 1500))
      joins.push(
        await page.evaluate((s) => window.bench.took(() => window.bench.button('Join with next').click(), s), joined),
      )
      await new Promise((resolve) => setTimeout(resolve, 1500))
    }
    say('playing …')
    await page.evaluate(() => document.activeElement?.blur())
    // What was typed is stored when its field is left; that is no part of playing.
    await new Promise((resolve) => setTimeout(resolve, 2000))
    await page.keyboard.press('Space')
    const played = await page.evaluate(async () => {
      let longest = 0
      new PerformanceObserver((list) => {
        for (const task of list.getEntries()) longest = Math.max(longest, task.duration)
      }).observe({ type: 'longtask' })
      const began = performance.now()
      let frames = 0
      while (performance.now() - began < 5000) {
        await new Promise((resolve) => requestAnimationFrame(resolve))
        frames++
      }
      return { framesPerSecond: frames / 5, longestTask: longest, plays: !document.querySelector('audio.on').paused }
    })
    if (!played.plays) throw new Error('the lecture did not play')
    say('the same films and a field in a bare page …')
    await page.keyboard.press('Space')
    const bare = await page.evaluate(bareFrames)
    for (let i = 0; i < KEYS; i++) await page.keyboard.press('a', { delay: 20 })
    const bareKeys = await page.evaluate(() => window.bench.keys)
    figure({
      cues: CUES,
      opensMilliseconds: Math.round(median(opens)),
      keyToPaintP95Milliseconds: Math.round(sorted(keys)[Math.floor(0.95 * keys.length)]),
      splitMilliseconds: Math.round(median(splits)),
      joinMilliseconds: Math.round(median(joins)),
      playingFramesPerSecond: Math.round(played.framesPerSecond),
      longestTaskMilliseconds: Math.round(played.longestTask),
      bareFramesPerSecond: Math.round(bare),
      bareKeyToPaintP95Milliseconds: Math.round(sorted(bareKeys)[Math.floor(0.95 * bareKeys.length)]),
    })
  } finally {
    await browser.close()
    await server.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
