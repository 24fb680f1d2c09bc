// What opening the results of a large class takes: 500 students, 40 questions, 3 attempts, as they were pulled before;
// beside it how long the browser alone takes to read the same rows.
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { launchChromium } from '../chromium.mjs'
import { openDemo } from '../open-demo.mjs'
import { buildWhenStale } from '../setup.mjs'
import { startServer } from './server.mjs'

const CLASS = { students: 500, questions: 40, attempts: 3 }
const ROUNDS = 7

/** Puts a class's answers into the demo's lecture. Runs in the page. @returns ms that reading them alone takes */
async function fill({ students, questions, attempts }) {
  const ask = (request) =>
    new Promise((resolve, reject) => {
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error)
    })
  const db = await ask(indexedDB.open('thaw-demo'))
  const all = (table) => ask(db.transaction(table).objectStore(table).getAll())
  const place = (await all('places')).find((p) => p.id === 'place-glacier')
  const at = '2026-11-20T10:00:00.000Z'
  const text = (words) => (words ? [{ kind: 'paragraph', spans: [{ text: words }] }] : [])
  const ids = Array.from({ length: questions }, (_, i) => `q${i}`)
  const choices = ['a', 'b', 'c', 'd'].map((id) => ({ id, text: text(id) }))
  const common = { kind: 'one-right', points: 1, hint: [], shuffled: false, choices }
  const set = {
    ...{ publicationId: place.place.publicationId, version: 'large', id: 'large', title: 'Large', publishedAt: at },
    policy: {
      ...{ welcome: [], readBefore: false, changes: false, putOff: true, ahead: true },
      attempts: { most: attempts, counts: 'best' },
      ...{ feedback: 'answered', score: 'answered', solutions: 'answered' },
    },
    checkpoints: [
      { id: 'cp', at: 10, questions: ids.map((id) => ({ ...common, id, prompt: text(`What is ${id}?`) })) },
    ],
    keys: ids.map((questionId) => ({ questionId, kind: 'one-right', right: 'a', explanation: [], lookAt: null })),
  }
  const tables = ['sentBack', 'watching', 'sets', 'places']
  const transaction = db.transaction(tables, 'readwrite', { durability: 'relaxed' })
  transaction.objectStore('sets').put(set)
  transaction.objectStore('places').put({ ...place, asked: [set.version] })
  for (let s = 0; s < students; s++) {
    const student = { issuer: 'https://courses.norrhaven.example', subject: `l${s}`, name: `Student ${s}` }
    const events = []
    const add = (event) => events.push({ seq: 1000 * s + events.length + 1, receivedAt: at, event: { ...event, at } })
    for (let attempt = 1; attempt <= attempts; attempt++) {
      if (attempt > 1) add({ id: `b${attempt}`, kind: 'begin', version: set.version, attempt })
      ids.forEach((questionId, i) =>
        add({
          ...{ id: `a${attempt}-${i}`, kind: 'answer', version: set.version, attempt, questionId, took: 8.5 },
          answer: { kind: 'one-right', choice: 'abcd'[(7 * s + i * attempt) % 4] },
        }),
      )
    }
    const row = { placeId: place.id, who: student.subject, student, seq: events.at(-1).seq, events }
    transaction.objectStore('sentBack').put(row)
    const played = [
      [0, 10 + (s % 30)],
      [5, 9],
    ]
    transaction.objectStore('watching').put({
      ...{ placeId: place.id, seq: s + 1, session: `${s}`, student, version: 'v', from: at, until: at, played },
      reached: [[at, 10 + (s % 30)]],
    })
  }
  await new Promise((resolve, reject) => {
    transaction.oncomplete = resolve
    transaction.onabort = () => reject(transaction.error)
  })
  const times = []
  for (let n = 0; n < 5; n++) {
    const began = performance.now()
    await Promise.all(tables.slice(0, 2).map(all))
    times.push(performance.now() - began)
  }
  db.close()
  return times.sort((a, b) => a - b)[2]
}

/** Goes to the results as a link in the application does. Runs in the page. @returns ms until the class is to be seen */
async function open() {
  const began = performance.now()
  const { $router } = document.querySelector('#__nuxt').__vue_app__.config.globalProperties
  await $router.push('/lecture/glacier/results')
  const rows = () => document.querySelectorAll('[aria-labelledby=students-heading] tbody tr').length
  while (rows() < 40) await new Promise((resolve) => setTimeout(resolve, 5))
  await new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve)))
  return performance.now() - began
}

/** @param {{ say: (text: string) => void, figure: (values: object) => void }} options */
export async function results({ say, figure }) {
  await buildWhenStale()
  const folder = await mkdtemp(join(tmpdir(), 'thaw-bench-results-'))
  const server = await startServer(folder, { demo: true })
  const browser = await launchChromium({ devices: false })
  try {
    const page = (await browser.pages())[0]
    await page.setViewport({ width: 1280, height: 800 })
    await openDemo(page, server.origin)
    await page.waitForSelector('.card')
    await page.waitForFunction(() => !document.querySelector('header .count'), { timeout: 120_000 })
    say('filling a class …')
    const reading = await page.evaluate(fill, CLASS)
    const times = []
    for (let round = 0; round < ROUNDS; round++) {
      await page.goto(server.origin)
      await page.waitForSelector('.card')
      await new Promise((resolve) => setTimeout(resolve, 1500))
      times.push(await page.evaluate(open))
    }
    times.sort((a, b) => a - b)
    figure({
      ...CLASS,
      openMilliseconds: Math.round(times[Math.floor(ROUNDS / 2)]),
      slowestMilliseconds: Math.round(times.at(-1)),
      readingAloneMilliseconds: Math.round(reading),
    })
  } finally {
    await browser.close()
    await server.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
