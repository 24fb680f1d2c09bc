// Finding and replacing over a course: fifty lectures of an hour, each with a thousand cues and its history. How long until
// what would change is seen, until it is changed, and for how long the page answers nothing meanwhile.
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { launchChromium } from '../chromium.mjs'
import { openDemo } from '../open-demo.mjs'
import { buildWhenStale } from '../setup.mjs'
import { startServer } from './server.mjs'

const LECTURES = 50
const CUES = 1000

/** In the page: lays lectures beside one of the demo, with its captions again and again. @returns how many words it has */
async function layBeside(of, lectures, cues) {
  const ask = (request) =>
    new Promise((resolve, reject) => {
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error)
    })
  const db = await ask(indexedDB.open('thaw-demo'))
  const transaction = db.transaction(['lectures', 'documents'], 'readwrite')
  const [lecture, captions, edit] = await Promise.all([
    ask(transaction.objectStore('lectures').get(of)),
    ask(transaction.objectStore('documents').get(`${of}-captions`)),
    ask(transaction.objectStore('documents').get(`${of}-edit`)),
  ])
  const some = captions.document.cues
  const long = Array.from({ length: cues }, (_, i) => {
    const cue = some[i % some.length]
    const later = Math.floor(i / some.length) * (some.at(-1).to + 1)
    return {
      ...{ ...cue, id: `c${i}`, from: cue.from + later, to: cue.to + later },
      ...(cue.words && { words: cue.words.map((w) => ({ ...w, from: w.from + later, to: w.to + later })) }),
    }
  })
  for (let n = 0; n < lectures; n++) {
    const id = `beside-${n}`
    transaction.objectStore('lectures').put({ ...lecture, id, title: `Beside ${n}` })
    for (const [row, document] of [
      [captions, { ...captions.document, cues: long }],
      [edit, edit.document],
    ])
      transaction.objectStore('documents').put({ ...row, id: `${id}-${row.kind}`, lectureId: id, document, applied: 0 })
  }
  await new Promise((resolve, reject) => {
    transaction.oncomplete = resolve
    transaction.onabort = () => reject(transaction.error)
  })
  db.close()
}

/** @param {{ say: (text: string) => void, figure: (values: object) => void }} options */
export async function replacing({ say, figure }) {
  await buildWhenStale()
  const folder = await mkdtemp(join(tmpdir(), 'thaw-replacing-'))
  const server = await startServer(join(folder, 'data'), { demo: true })
  const browser = await launchChromium({ profile: join(folder, 'profile'), devices: false })
  try {
    const page = (await browser.pages())[0]
    page.setDefaultTimeout(120_000)
    await openDemo(page, server.origin)
    await page.waitForSelector('.card')
    say(`laying out ${LECTURES} lectures of ${CUES} cues …`)
    await page.evaluate(layBeside, 'balance', LECTURES, CUES)
    await page.goto(`${server.origin}/lecture/balance?step=captioned`)
    await page.waitForSelector('.cues .words')
    const press = (name, role = 'button') => page.locator(`::-p-aria([name="${name}"][role="${role}"])`).click()
    await press('Find and replace')
    await press('All of PS 201', 'radio')
    await page.evaluate(() => {
      window.tasks = []
      new PerformanceObserver((list) => window.tasks.push(...list.getEntries().map((e) => e.duration))).observe({
        type: 'longtask',
      })
    })
    const seen = async (pattern, since) => {
      await page.waitForFunction((p) => new RegExp(p).test(document.body.innerText), { polling: 50 }, pattern)
      return Math.round(performance.now() - since)
    }
    const longest = () => page.evaluate(() => Math.round(Math.max(0, ...window.tasks.splice(0))))
    const opened = performance.now()
    const find = await page.$('::-p-aria([name="Find"][role="textbox"])')
    await find.type('glacier')
    const first = await seen('Found \\d+ times in \\d{2} lectures', opened)
    await page.keyboard.press('x')
    await seen('Not found', performance.now())
    await page.keyboard.press('Backspace')
    const again = await seen('Found \\d+ times in \\d{2} lectures', performance.now())
    const whileFinding = await longest()
    await (await page.$('::-p-aria([name="Replace by"][role="textbox"])')).type('ice stream')
    await new Promise((resolve) => setTimeout(resolve, 3000))
    await longest()
    const button = await page.waitForSelector('.el-dialog__footer .el-button--primary:not(.is-disabled)')
    const began = performance.now()
    await button.click()
    const replaced = await seen('Replaced \\d+ times in \\d{2} lectures', began)
    figure({
      ...{
        lectures: LECTURES,
        cuesEach: CUES,
        firstFoundMs: first,
        foundAgainMs: again,
        longestTaskWhileFindingMs: whileFinding,
      },
      ...{ replacingMs: replaced, longestTaskWhileReplacingMs: await longest() },
    })
  } finally {
    await browser.close()
    await server.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
