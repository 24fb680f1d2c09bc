// The recording room, driven as a person does, for benchmarks: a server and a browser of its own, and the files of what
// was recorded.
import { execFileSync, spawnSync } from 'node:child_process'
import { appendFileSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { launchChromium } from '../chromium.mjs'
import { openDemo } from '../open-demo.mjs'
import { buildWhenStale } from '../setup.mjs'
import { startServer } from './server.mjs'
import { memoryOf, round } from './tools.mjs'

/** Runs in the page: all rows of the database's tables. */
const rowsOf = async (...names) => {
  const open = indexedDB.open('thaw-demo')
  const db = await new Promise((resolve) => {
    open.onsuccess = () => resolve(open.result)
  })
  const all = await Promise.all(
    names.map(
      (name) =>
        new Promise((resolve) => {
          const r = db.transaction(name).objectStore(name).getAll()
          r.onsuccess = () => resolve(r.result)
        }),
    ),
  )
  db.close()
  return all
}
const inPage = `globalThis.rowsOf = ${rowsOf.toString()}`

/** Opens the room with the switches of these inputs on. Close it when done. */
export async function openRoom(...inputs) {
  await buildWhenStale()
  const folder = mkdtempSync(join(tmpdir(), 'thaw-record-'))
  const server = await startServer(join(folder, 'data'), { demo: true })
  const browser = await launchChromium({ patient: true })
  const close = async () => {
    await browser.close()
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  }
  try {
    const [page] = await browser.pages()
    page.setDefaultTimeout(120_000)
    await page.evaluateOnNewDocument(inPage)
    const press = async (role, name) => {
      const found = await page.waitForSelector(`::-p-aria([name="${name}"][role="${role}"])`)
      // A styled switch hides its input; what is drawn around it is clicked.
      const drawn = await found.evaluateHandle((e) => {
        let at = e
        while (at.getBoundingClientRect().width < 6 && at.parentElement) at = at.parentElement
        return at
      })
      await drawn.click()
    }
    await openDemo(page, `${server.origin}/`)
    await page.waitForFunction(() => document.body.innerText.includes('The term'))
    // The demo term is looked through first, so that it is not part of what is measured.
    await page.waitForFunction(
      async () => {
        const [takes, jobs] = await globalThis.rowsOf('takes', 'jobs')
        return takes.length > 0 && jobs.filter((j) => j.state === 'done').length >= takes.length
      },
      { polling: 1000 },
    )
    await page.goto(`${server.origin}/record?lecture=meltwater`)
    for (const name of inputs) await press('switch', name)
    await page.waitForFunction(
      () => [...document.querySelectorAll('.stage video')].filter((v) => v.videoWidth > 0).length === 2,
    )
    await page.exposeFunction('keep', (name, bytes) => appendFileSync(join(folder, name), Buffer.from(bytes, 'base64')))
    return { page, press, close, folder, pid: browser.process().pid }
  } catch (error) {
    await close()
    throw error
  }
}

/**
 * Records for so many minutes and keeps it; `each` is called every ten seconds. Gives the browser's memory (MB) at
 * those instants.
 */
export async function recordFor({ page, press, pid }, minutes, each = async () => undefined) {
  await press('button', 'Start recording')
  await press('button', 'Begin now')
  await page.waitForSelector('[role=timer]')
  const memory = []
  const start = Date.now()
  while (Date.now() - start < minutes * 60_000) {
    await new Promise((resolve) => setTimeout(resolve, 10_000 - ((Date.now() - start) % 10_000)))
    await each()
    memory.push(memoryOf(pid))
  }
  await press('button', 'Stop')
  await press('button', 'Keep it')
  await page.waitForSelector('[aria-label="Playhead"]')
  return memory
}

/** The take that was kept, each feed with its file (path) on the disk of this machine. */
export async function keptTake({ page, folder }) {
  const take = await page.evaluate(async () => {
    const [takes, chunks] = await globalThis.rowsOf('takes', 'chunks')
    const take = takes.find((t) => t.lectureId === 'meltwater')
    for (const [i, feed] of take.feeds.entries()) {
      const whole = new Blob(
        chunks
          .filter((c) => c.fileId === feed.fileId)
          .sort((a, b) => a.seq - b.seq)
          .map((r) => r.bytes),
      )
      for (let at = 0; at < whole.size; at += 3 << 18) {
        const bytes = new Uint8Array(await whole.slice(at, at + (3 << 18)).arrayBuffer())
        let text = ''
        for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192))
        await globalThis.keep(`${i}.mp4`, btoa(text))
      }
    }
    return take
  })
  return { ...take, feeds: take.feeds.map((feed, i) => ({ ...feed, file: join(folder, `${i}.mp4`) })) }
}

/** What another program finds in a feed's file: whole frames (or blocks of sound), and whether all of them decode. */
export function judge({ kind, file, duration }) {
  const packets = Number(
    execFileSync('ffprobe', [
      '-v',
      'error',
      '-count_packets',
      '-select_streams',
      kind === 'sound' ? 'a:0' : 'v:0',
      '-show_entries',
      'stream=nb_read_packets',
      '-of',
      'csv=p=0',
      file,
    ])
      .toString()
      .trim()
      .split(',')[0],
  )
  const { status, stderr } = spawnSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'null', '-'], { encoding: 'utf8' })
  return { packets, perSecond: packets / duration, decodes: status === 0 && stderr === '' }
}

/** How far apart the feeds of a take end (s), and the memory (MB) in the first and the last third of a recording. */
export function summary(take, memory) {
  const ends = take.feeds.map((f) => f.offset + f.duration)
  const third = Math.max(1, Math.floor(memory.length / 3))
  const mean = (all) => Math.round(all.reduce((a, b) => a + b, 0) / all.length)
  return {
    endsWithinSeconds: round(Math.max(...ends) - Math.min(...ends), 3),
    megabytesFirstThird: mean(memory.slice(0, third)),
    megabytesLastThird: mean(memory.slice(-third)),
    note: take.note,
  }
}
