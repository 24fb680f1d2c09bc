// What the desk of a long lecture takes of memory, while it is played and edited for an hour.
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { launchChromium } from '../chromium.mjs'
import { openDemo } from '../open-demo.mjs'
import { buildWhenStale } from '../setup.mjs'
import { known, lectureFile } from './bring-in.mjs'
import { startServer } from './server.mjs'
import { memoryOf, round } from './tools.mjs'

const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms))
const mean = (list) => Math.round(list.reduce((sum, x) => sum + x, 0) / list.length)

/** @param {{ minutes: number, atDesk: number, folder: string, say: (text: string) => void, figure: (values: object) => void }} options */
export async function deskHour({ minutes, atDesk, folder, say, figure }) {
  await buildWhenStale()
  const file = await lectureFile(minutes, folder, say)
  const data = await mkdtemp(join(tmpdir(), 'thaw-bench-desk-hour-'))
  const server = await startServer(data, { demo: true })
  const browser = await launchChromium({ devices: false, network: false })
  const memory = () => memoryOf(browser.process().pid)
  try {
    const page = (await browser.pages())[0]
    await page.setViewport({ width: 1280, height: 800 })
    await page.goto('about:blank')
    await pause(3000)
    const empty = memory()
    await openDemo(page, server.origin)
    await page.waitForSelector('.card')
    await page.waitForFunction(
      () => document.querySelectorAll('.still[style]').length >= 7 && !document.querySelector('header .count'),
      { timeout: 180_000 },
    )
    await page.click('.top .el-button--primary')
    const input = await page.waitForSelector('input[type=file]')
    await input.uploadFile(file)
    say('bringing it in …')
    for (;;) {
      const { copied, slides } = await page.evaluate(known)
      if (copied && slides !== null) break
      await pause(1000)
    }
    const desk = await page.evaluate(() => location.href)
    // As on another day: what looking through it left in the browser's caches goes with its process.
    await page.goto('about:blank')
    await pause(5000)
    await page.goto(desk)
    await page.waitForSelector('.lane.sound canvas')
    await pause(10_000)
    const opened = memory()
    say('playing and editing …')
    await page.evaluate(() => document.activeElement?.blur())
    const readings = []
    const began = performance.now()
    const minutesIn = () => (performance.now() - began) / 60_000
    const removed = () =>
      page.evaluate(async () => {
        const open = indexedDB.open('thaw-demo')
        const db = await new Promise((resolve) => (open.onsuccess = () => resolve(open.result)))
        const rows = await new Promise((resolve) => {
          const request = db.transaction('documents').objectStore('documents').getAll()
          request.onsuccess = () => resolve(request.result)
        })
        db.close()
        const id = location.pathname.split('/')[2]
        return rows.find((r) => r.lectureId === id && r.kind === 'edit').document.removed.length
      })
    const press = async (...keys) => {
      for (const key of keys) {
        await page.keyboard.press(key)
        await pause(120)
      }
    }
    let [rounds, cuts, undone] = [0, 0, 0]
    while (minutesIn() < atDesk) {
      // Plays for a while, takes five seconds out, looks at another place, and undoes every second cut.
      const before = await removed()
      await press('Space')
      await pause(20_000)
      await press('Space', 'i', ...Array(5).fill('ArrowRight'), 'o', 'Delete')
      await pause(800)
      // Where the playhead stands in what is taken out already, nothing more is.
      const isCut = (await removed()) > before
      if (isCut) cuts++
      if (isCut && rounds % 2 === 1) {
        await page.keyboard.down('Control')
        await press('z')
        await page.keyboard.up('Control')
        await pause(600)
        if ((await removed()) === before) undone++
      }
      // Somewhere else, nearer and farther.
      const lane = await (await page.$('.lane.sound canvas')).boundingBox()
      await page.evaluate(
        (step) => {
          const zoom = document.querySelector('[aria-label="Zoom"]')
          zoom.value = step
          zoom.dispatchEvent(new Event('input'))
        },
        [0, 30, 50, 65][rounds % 4],
      )
      await pause(500)
      await page.mouse.click(Math.min(1000, lane.x + 20 + ((rounds * 97) % 700)), lane.y + 4)
      await pause(500)
      readings.push(memory())
      rounds++
    }
    const third = Math.max(1, Math.floor(readings.length / 3))
    figure({
      lectureMinutes: minutes,
      atDeskMinutes: round(minutesIn(), 0),
      emptyMegabytes: round(empty, 0),
      openedMegabytes: round(opened - empty, 0),
      firstThirdMegabytes: mean(readings.slice(0, third)) - Math.round(empty),
      lastThirdMegabytes: mean(readings.slice(-third)) - Math.round(empty),
      mostMegabytes: Math.round(Math.max(...readings) - empty),
      ...{ rounds, cuts, undone },
    })
  } finally {
    await browser.close()
    await server.stop()
    await rm(data, { recursive: true, force: true })
  }
}
