/**
 * Publishes the demo term's released lectures through the real interface, and keeps what the server stored in
 * demo/publications, to which make-answers.ts adds what students do. Needs a build and Chromium. `npx tsx demo/make-publications.ts`
 */
import { spawn } from 'node:child_process'
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { DemoQuestions, DemoTerm } from '../core/schema/demo'
import { parseAs } from '../core/schema/validate'
import { launchChromium } from '../scripts/chromium.mjs'

const root = fileURLToPath(new URL('..', import.meta.url))
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
  for (const name of ['answers.json', 'watching.json']) writeFileSync(join(folder, name), '[]')
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

const data = mkdtempSync(join(tmpdir(), 'thaw-demo-data-'))
try {
  await publishAll(data)
  rmSync(out, { recursive: true, force: true })
  mkdirSync(out, { recursive: true })
  for (const kind of ['publications', 'versions', 'captions', 'sets', 'places', 'course-items'])
    cpSync(join(data, 'documents', kind), join(out, kind), { recursive: true })
  cpSync(join(data, 'parts', 'media'), join(out, 'media'), { recursive: true })
  writeFileSync(join(out, 'questions.json'), JSON.stringify(sets, null, 1) + '\n')
} finally {
  rmSync(data, { recursive: true, force: true })
}
