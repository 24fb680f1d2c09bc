// The term of a whole curriculum: 3,500 lectures of 45 minutes, with their edits, captions and questions. How long until
// the first card is seen, until a change made in another tab is, and what it costs in memory.
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { median } from 'd3-array'
import { launchChromium } from '../chromium.mjs'
import { openDemo } from '../open-demo.mjs'
import { buildWhenStale } from '../setup.mjs'
import { startServer } from './server.mjs'

const COURSES = 70
const EACH = 50
const ROUNDS = 5

/** Lays the lectures into the page's database, as the application keeps them; their cards are the application's to make. */
async function layOut(courses, each) {
  const open = indexedDB.open('thaw-demo')
  const db = await new Promise((resolve, reject) => {
    open.onsuccess = () => resolve(open.result)
    open.onerror = () => reject(open.error)
  })
  const instant = '2026-11-02T09:00:00.000Z'
  const words = 'Near the bed the ice is held back and at the surface it moves fastest'.split(' ')
  const cues = Array.from({ length: 450 }, (_, i) => ({
    id: `c${i}`,
    from: 6 * i,
    to: 6 * i + 5,
    text: words.join(' '),
    words: words.map((text, k) => ({ text, from: 6 * i + k / 3, to: 6 * i + (k + 1) / 3, confidence: 0.8 })),
  }))
  const removed = Array.from({ length: 20 }, (_, i) => ({ id: `r${i}`, from: 130 * i, to: 130 * i + 3 }))
  for (let c = 0; c < courses; c++) {
    const courseId = `curriculum-${c}`
    const transaction = db.transaction(
      ['terms', 'settings', 'courses', 'lectures', 'takes', 'analyses', 'documents'],
      'readwrite',
    )
    const table = (name) => transaction.objectStore(name)
    table('terms').put({
      ...{ id: 'curriculum', name: 'Curriculum', firstDay: '2026-10-26', lastDay: '2027-01-17' },
      ...{ holidays: [], timeZone: 'Etc/UTC' },
    })
    table('settings').put({ key: 'term', value: 'curriculum' })
    table('courses').put({ id: courseId, code: `C ${c}`, title: 'A course', termId: 'curriculum' })
    for (let n = 0; n < each; n++) {
      const id = `${courseId}-${n}`
      const lecture = { id, courseId, week: 1 + (n % 12), title: `Lecture ${n}`, description: '', createdAt: instant }
      table('lectures').put(lecture)
      const feeds = []
      table('takes').put({
        id: `t-${id}`,
        lectureId: id,
        state: 'whole',
        startedAt: instant,
        duration: 2700,
        feeds,
        pauses: [],
        note: '',
      })
      // It was looked through when it was recorded.
      table('analyses').put({ takeId: `t-${id}`, thumbnails: true, slides: [] })
      const document = (kind, what) =>
        table('documents').put({ id: `${id}-${kind}`, lectureId: id, kind, document: what, applied: 0, conflicts: [] })
      const sound = { noise: 'keep', loudness: null, truePeak: -1 }
      const edit = {
        duration: 2700,
        frameRate: 24,
        removed,
        inserts: [],
        stretches: [],
        layout: 'inset',
        fade: 0,
        sound,
      }
      document('edit', { format: 'thaw-edit', version: 3, ...edit })
      const track = { language: 'en', state: 'checked', source: 'recogniser', cues }
      document('captions', { format: 'thaw-captions', version: 1, ...track })
    }
    await new Promise((resolve, reject) => {
      transaction.oncomplete = resolve
      transaction.onabort = () => reject(transaction.error)
    })
  }
  db.close()
}

/** How many rows a table of the page's database has. */
async function count(table) {
  const open = indexedDB.open('thaw-demo')
  const db = await new Promise((resolve) => (open.onsuccess = () => resolve(open.result)))
  const request = db.transaction(table).objectStore(table).count()
  const n = await new Promise((resolve) => (request.onsuccess = () => resolve(request.result)))
  db.close()
  return n
}

/** @param {{ say: (text: string) => void, figure: (values: object) => void }} options */
export async function term({ say, figure }) {
  await buildWhenStale()
  const folder = await mkdtemp(join(tmpdir(), 'thaw-term-'))
  const server = await startServer(join(folder, 'data'), { demo: true })
  const browser = await launchChromium({ profile: join(folder, 'profile') })
  try {
    const page = (await browser.pages())[0]
    await openDemo(page, server.origin)
    await page.waitForSelector('.card', { timeout: 60_000 })
    say(`laying out ${COURSES * EACH} lectures …`)
    await page.evaluate(layOut, COURSES, EACH)
    say('making their cards …')
    await page.reload()
    const began = performance.now()
    for (;;) {
      const [lectures, cards] = [await page.evaluate(count, 'lectures'), await page.evaluate(count, 'cards')]
      if (cards === lectures) break
      await new Promise((resolve) => setTimeout(resolve, 500))
    }
    const making = (performance.now() - began) / 1000

    await page.evaluateOnNewDocument(() => {
      new MutationObserver((_, observer) => {
        if (!document.querySelector('.card')) return
        // Seen once it is painted.
        requestAnimationFrame(() => setTimeout(() => (window.firstCard ??= performance.now())))
        observer.disconnect()
      }).observe(document, { childList: true, subtree: true })
    })
    const firsts = []
    for (let i = 0; i < ROUNDS; i++) {
      await page.goto(server.origin)
      await page.waitForFunction(() => window.firstCard !== undefined, { timeout: 300_000 })
      firsts.push(await page.evaluate(() => window.firstCard))
    }
    say(`first cards after ${firsts.map(Math.round).join(', ')} ms`)
    const session = await page.createCDPSession()
    await session.send('HeapProfiler.collectGarbage')
    const { JSHeapUsedSize: heap } = await page.metrics()

    const other = await browser.newPage()
    const address = await page.$eval('.card', (card) => card.href)
    const [, lecture] = /lecture[=/]([\w-]+)/.exec(address)
    await other.goto(`${server.origin}/record?lecture=${lecture}`)
    await other.locator('::-p-aria([name="Particulars"][role="button"])').click()
    const field = await other.waitForSelector('::-p-aria([name="Title"][role="textbox"])')
    const changes = []
    for (let i = 0; i < ROUNDS; i++) {
      const title = `Changed ${i}`
      const seen = page.waitForFunction(
        (text) => {
          const there = [...document.querySelectorAll('.card .title')].some((t) => t.textContent === text)
          return there && Date.now()
        },
        { polling: 'mutation', timeout: 60_000 },
        title,
      )
      const at = await field.evaluate((input, text) => {
        input.value = text
        input.dispatchEvent(new Event('input', { bubbles: true }))
        input.dispatchEvent(new Event('change', { bubbles: true }))
        return Date.now()
      }, title)
      changes.push((await (await seen).jsonValue()) - at)
      // A person takes a breath between two.
      await new Promise((resolve) => setTimeout(resolve, 1000))
    }
    figure({
      lectures: COURSES * EACH,
      cardsMadeSeconds: Math.round(making),
      firstCardMs: Math.round(median(firsts)),
      changeShownMs: Math.round(median(changes)),
      heapMegabytes: Math.round(heap / 1e6),
    })
  } finally {
    await browser.close()
    await server.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
