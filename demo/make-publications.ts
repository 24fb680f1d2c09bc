/**
 * Publishes the demo term's released lectures through the real interface, and keeps what the server stored, with the
 * made-up students' answers, in demo/publications. Needs a build and Chromium. `npx tsx demo/make-publications.ts`
 */
import { spawn } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { StoredEvent } from '../core/schema/attempt'
import { StoredEvents } from '../core/schema/attempt'
import { DemoTerm } from '../core/schema/demo'
import { parseAs } from '../core/schema/validate'
import { launchChromium } from '../scripts/chromium.mjs'
import { courses, students } from '../standins/course-site/people'

const root = new URL('..', import.meta.url).pathname
const out = join(root, 'demo/publications')
const PORT = 3977
const KEY = 'demo'
const term = parseAs(DemoTerm, JSON.parse(readFileSync(join(root, 'public/demo/term.json'), 'utf8')), 'demo term')
const released = term.lectures.filter((l) => l.release)

async function publishAll(data: string): Promise<void> {
  const server = spawn(process.execPath, [join(root, '.output/server/index.mjs')], { stdio: ['ignore', 'pipe', 'inherit'], env: { ...process.env, PORT: String(PORT), NITRO_PORT: String(PORT), THAW_DATA: data, THAW_AUTHOR_KEY: KEY } })
  await new Promise<void>((resolve) => server.stdout.on('data', (text: Buffer) => { if (text.toString().includes('Listening')) resolve() }))
  const browser = await launchChromium()
  try {
    const page = await browser.newPage()
    page.setDefaultTimeout(120_000)
    await page.goto(`http://localhost:${PORT}/#key=${KEY}`)
    await page.waitForSelector('::-p-text(The term)')
    for (const { lecture } of released) {
      await page.goto(`http://localhost:${PORT}/lecture/${lecture.id}?step=released`)
      await (await page.waitForSelector('::-p-aria([name="Publish again"][role="button"])'))?.click()
      await page.waitForSelector('::-p-text(Students see it)')
      await page.waitForFunction(() => document.querySelector('.el-message--success') !== null)
      console.log(`published ${lecture.title}`)
    }
  } finally {
    await browser.close()
    server.kill()
  }
}

/** A generator with a fixed seed (mulberry32), so that a second run gives the same answers. */
function random(seed: number): () => number {
  return () => {
    seed = (seed + 0x6d2b79f5) | 0
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296
  }
}

/** Answers of most of a course: stronger students are right more often. */
function answers(index: number): StoredEvent[] {
  const entry = released[index]
  const place = entry?.release?.place
  const question = entry?.questions?.checkpoints[0]
  if (!entry || !place || !question || Date.parse(place.from) > Date.parse('2026-11-23')) return []
  const next = random(1000 * (index + 1))
  const members = students.filter((s) => courses.find((c) => c.id === place.courseId)?.members.includes(s.id))
  const events: StoredEvent[] = []
  members.forEach((student, i) => {
    if (next() < 0.25) return
    const wrong = question.question.choices.filter((c) => c.id !== question.key.right)
    const strength = 0.45 + 0.5 * ((i * 7) % members.length) / members.length
    const choiceId = next() < strength ? question.key.right : (wrong[Math.floor(next() * wrong.length)]?.id ?? question.key.right)
    const at = new Date(Date.parse(place.from) + (36 + 90 * next()) * 3_600_000).toISOString()
    events.push({ seq: 0, receivedAt: at, placeId: place.id, student, event: { id: `demo-${entry.lecture.id}-${student.id}`, kind: 'answer', questionId: question.question.id, choiceId, at } })
  })
  return events.sort((a, b) => a.receivedAt.localeCompare(b.receivedAt)).map((e, i) => ({ ...e, seq: i + 1 }))
}

const data = mkdtempSync(join(tmpdir(), 'thaw-demo-data-'))
try {
  await publishAll(data)
  rmSync(out, { recursive: true, force: true })
  mkdirSync(out, { recursive: true })
  for (const room of ['pub', 'places', 'site']) if (existsSync(join(data, room))) cpSync(join(data, room), join(out, room), { recursive: true })
  released.forEach((entry, i) => {
    const folder = join(out, 'responses', entry.release?.place.publicationId ?? '')
    for (const event of parseAs(StoredEvents, answers(i), 'made-up answers')) {
      mkdirSync(folder, { recursive: true })
      writeFileSync(join(folder, String(event.seq).padStart(9, '0')), JSON.stringify(event))
    }
  })
} finally {
  rmSync(data, { recursive: true, force: true })
}
