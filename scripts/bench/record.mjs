// A recording: a 1080p screen at 15 frames/s, a 480p camera at 24 and a microphone through the application itself, for minutes.
// Another program decodes what was stored; memory is looked at on the way.
import { execFileSync, spawn, spawnSync } from 'node:child_process'
import { appendFileSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { launchChromium } from '../chromium.mjs'
import { buildWhenStale, freePort, root } from '../setup.mjs'
import { memoryOf, round } from './tools.mjs'

const feeds = { screen: 15, camera: 24, sound: 0 }

export async function record({ record: minutes, say, figure }) {
  await buildWhenStale()
  const folder = mkdtempSync(join(tmpdir(), 'thaw-record-'))
  const port = await freePort()
  const server = spawn(process.execPath, [join(root, '.output/server/index.mjs')], { stdio: ['ignore', 'pipe', 'inherit'], env: { ...process.env, PORT: String(port), NITRO_PORT: String(port), THAW_DATA: join(folder, 'data'), THAW_AUTHOR_KEY: 'bench' } })
  await new Promise((resolve) => server.stdout.on('data', (text) => text.toString().includes('Listening') && resolve()))
  const browser = await launchChromium({ patient: true })
  try {
    const [page] = await browser.pages()
    page.setDefaultTimeout(120_000)
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
    await page.goto(`http://localhost:${port}/`)
    await page.waitForFunction(() => document.body.innerText.includes('The term'))
    // The demo term is looked through first, so that it is not part of what is measured.
    await page.waitForFunction(async () => {
      const open = indexedDB.open('thaw')
      const db = await new Promise((resolve) => { open.onsuccess = () => resolve(open.result) })
      const all = (name) => new Promise((resolve) => { const r = db.transaction(name).objectStore(name).getAll(); r.onsuccess = () => resolve(r.result) })
      const [takes, jobs] = [await all('takes'), await all('jobs')]
      db.close()
      return takes.length > 0 && jobs.filter((j) => j.state === 'done').length >= takes.length
    }, { polling: 1000 })
    await page.goto(`http://localhost:${port}/record?lecture=meltwater`)
    for (const name of ['Screen', 'Camera', 'Microphone']) await press('switch', name)
    await page.waitForFunction(() => [...document.querySelectorAll('.stage video')].filter((v) => v.videoWidth > 0).length === 2)
    await press('button', 'Start recording')
    await press('button', 'Begin now')
    await page.waitForSelector('[role=timer]')
    say(`recording ${minutes} min …`)
    const memory = []
    for (let s = 0; s < minutes * 60; s += 10) {
      await new Promise((resolve) => setTimeout(resolve, 10_000))
      memory.push(memoryOf(browser.process().pid))
    }
    await press('button', 'Stop')
    await press('button', 'Keep it')
    await page.waitForSelector('[aria-label="Playhead"]')
    await page.exposeFunction('keep', (name, bytes) => appendFileSync(join(folder, name), Buffer.from(bytes, 'base64')))
    const take = await page.evaluate(async () => {
      const open = indexedDB.open('thaw')
      const db = await new Promise((resolve) => { open.onsuccess = () => resolve(open.result) })
      const all = (name) => new Promise((resolve) => { const r = db.transaction(name).objectStore(name).getAll(); r.onsuccess = () => resolve(r.result) })
      const take = (await all('takes')).find((t) => t.lectureId === 'meltwater')
      for (const feed of take.feeds) {
        const rows = (await all('chunks')).filter((c) => c.fileId === feed.fileId).sort((a, b) => a.seq - b.seq)
        const whole = new Blob(rows.map((r) => r.bytes))
        for (let at = 0; at < whole.size; at += 3 << 18) {
          const bytes = new Uint8Array(await whole.slice(at, at + (3 << 18)).arrayBuffer())
          let text = ''
          for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192))
          await globalThis.keep(`${feed.kind}.mp4`, btoa(text))
        }
      }
      return take
    })
    const third = Math.max(1, Math.floor(memory.length / 3))
    const mean = (all) => all.reduce((a, b) => a + b, 0) / all.length
    const out = {}
    for (const { kind, width, height, duration, offset } of take.feeds) {
      const file = join(folder, `${kind}.mp4`)
      const packets = Number(execFileSync('ffprobe', ['-v', 'error', '-count_packets', '-select_streams', kind === 'sound' ? 'a:0' : 'v:0', '-show_entries', 'stream=nb_read_packets', '-of', 'csv=p=0', file]).toString().trim().split(',')[0])
      const { status, stderr } = spawnSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'null', '-'], { encoding: 'utf8' })
      out[kind] = { ...(feeds[kind] && { size: `${width}x${height}`, droppedPercent: round(100 * (1 - packets / (duration * feeds[kind])), 2) }), seconds: round(duration), offset, decodes: status === 0 && stderr === '' }
    }
    const ends = take.feeds.map((f) => f.offset + f.duration)
    figure({ minutes, ...out, endsWithinSeconds: round(Math.max(...ends) - Math.min(...ends), 3), megabytesFirstThird: Math.round(mean(memory.slice(0, third))), megabytesLastThird: Math.round(mean(memory.slice(-third))), note: take.note })
  } finally {
    await browser.close()
    server.kill()
    rmSync(folder, { recursive: true, force: true })
  }
}
