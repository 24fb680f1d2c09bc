/**
 * Publishes the demo term's released lectures through the real interface, and keeps what the server stored, with the
 * made-up students' answers, in demo/publications. Needs a build and Chromium. `npx tsx demo/make-publications.ts`
 */
import { spawn } from 'node:child_process'
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ReceivedEvent } from '../core/schema/attempt'
import { DemoQuestions, DemoTerm } from '../core/schema/demo'
import { parseAs } from '../core/schema/validate'
import { launchChromium } from '../scripts/chromium.mjs'
import { courses, students } from '../standins/course-site/people'

const root = new URL('..', import.meta.url).pathname
const out = join(root, 'demo/publications')
const PORT = 3977
const KEY = 'demo'
const term = parseAs(DemoTerm, JSON.parse(readFileSync(join(root, 'public/demo/term.json'), 'utf8')), 'demo term')
const sets = parseAs(DemoQuestions, JSON.parse(readFileSync(join(out, 'questions.json'), 'utf8')), 'demo questions')
const released = term.lectures.filter((l) => l.release)

/** The demo as the server is given it, with its questions alone: the rest is what is being made. */
function questionsAlone(): string {
  const folder = mkdtempSync(join(tmpdir(), 'thaw-demo-questions-'))
  for (const kind of ['publications', 'versions', 'captions', 'sets', 'places', 'course-items', 'media'])
    mkdirSync(join(folder, kind))
  writeFileSync(join(folder, 'answers.json'), '[]')
  writeFileSync(join(folder, 'questions.json'), JSON.stringify(sets))
  return folder
}

async function publishAll(data: string): Promise<void> {
  const demo = questionsAlone()
  const server = spawn(process.execPath, [join(root, '.output/server/index.mjs')], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      PORT: String(PORT),
      NITRO_PORT: String(PORT),
      THAW_DATA: data,
      THAW_AUTHOR_KEY: KEY,
      THAW_DEMO_FILES: demo,
    },
  })
  await new Promise<void>((resolve) =>
    server.stdout.on('data', (text: Buffer) => {
      if (text.toString().includes('Listening')) resolve()
    }),
  )
  const browser = await launchChromium()
  try {
    const page = await browser.newPage()
    page.setDefaultTimeout(120_000)
    await page.goto(`http://localhost:${PORT}/#key=${KEY}`)
    await page.waitForSelector('::-p-text(The term)')
    for (const { lecture } of released) {
      await page.goto(`http://localhost:${PORT}/lecture/${lecture.id}?step=released`)
      const asked = sets[lecture.id]?.checkpoints.flatMap((c) => c.questions).length ?? 0
      await page.waitForSelector(`::-p-text(${asked === 1 ? '1 question' : `${asked} questions`}.)`)
      await (await page.waitForSelector('::-p-aria([name="Publish again"][role="button"])'))?.click()
      await page.waitForSelector('::-p-text(Students see it)')
      await page.waitForFunction(() => document.querySelector('.el-message--success') !== null)
      console.log(`published ${lecture.title}`)
    }
  } finally {
    await browser.close()
    server.kill()
    rmSync(demo, { recursive: true, force: true })
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
function answers(index: number, version: string): ReceivedEvent[] {
  const entry = released[index]
  const place = entry?.release?.places[0]
  const question = sets[entry?.lecture.id ?? '']?.checkpoints[0]?.questions[0]
  if (!entry || !place || !question || Date.parse(place.from) > Date.parse('2026-11-23')) return []
  const { open, key } = question
  if (open.kind !== 'one-right' || key.kind !== 'one-right') return []
  const next = random(1000 * (index + 1))
  const members = students.filter((s) => courses.find((c) => c.id === place.courseId)?.members.includes(s.subject))
  const events: ReceivedEvent[] = []
  members.forEach((student, i) => {
    if (next() < 0.25) return
    const wrong = open.choices.filter((c) => c.id !== key.right)
    const strength = 0.45 + (0.5 * ((i * 7) % members.length)) / members.length
    const choice = next() < strength ? key.right : (wrong[Math.floor(next() * wrong.length)]?.id ?? key.right)
    const at = new Date(Date.parse(place.from) + (36 + 90 * next()) * 3_600_000).toISOString()
    events.push({
      receivedAt: at,
      placeId: place.id,
      student,
      event: {
        id: `demo-${entry.lecture.id}-${student.subject}`,
        kind: 'answer',
        questionId: open.id,
        answer: { kind: 'one-right', choice },
        at,
        version,
      },
    })
  })
  return events.sort((a, b) => a.receivedAt.localeCompare(b.receivedAt))
}

const data = mkdtempSync(join(tmpdir(), 'thaw-demo-data-'))
try {
  await publishAll(data)
  rmSync(out, { recursive: true, force: true })
  mkdirSync(out, { recursive: true })
  for (const kind of ['publications', 'versions', 'captions', 'sets', 'places', 'course-items'])
    cpSync(join(data, 'documents', kind), join(out, kind), { recursive: true })
  cpSync(join(data, 'parts', 'media'), join(out, 'media'), { recursive: true })
  writeFileSync(join(out, 'questions.json'), JSON.stringify(sets, null, 1) + '\n')
  const all = released.flatMap((entry, i) => {
    const publication = JSON.parse(
      readFileSync(join(out, 'publications', `${entry.release?.publicationId}.json`), 'utf8'),
    ) as { sets: { version: string }[] }
    return answers(i, publication.sets[0]?.version ?? '')
  })
  writeFileSync(join(out, 'answers.json'), JSON.stringify(all, null, 1) + '\n')
} finally {
  rmSync(data, { recursive: true, force: true })
}
