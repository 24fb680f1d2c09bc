// What starting the student's player takes: from following the link at the course site until the film plays, in a browser
// that holds nothing, here and behind a slow line; beside it the same film in a page that has nothing else.
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { median } from 'd3-array'
import { launchChromium } from '../chromium.mjs'
import { buildWhenStale } from '../setup.mjs'
import { startServer } from './server.mjs'

const ROUNDS = 5
/** 1.6 Mbit/s each way, 300 ms there and back. */
const SLOW = { offline: false, latency: 300, downloadThroughput: 200_000, uploadThroughput: 200_000 }

/** Plays as soon as there is something to press. Runs in the frame. @returns ms since it was begun to be loaded */
async function untilPlaying() {
  const film = await new Promise((resolve) => {
    const look = () => {
      const play = [...document.querySelectorAll('.controls button')].find((b) => b.textContent.trim() === 'Play')
      const video = document.querySelector('video')
      if (!play || !video) return requestAnimationFrame(look)
      play.click()
      resolve(video)
    }
    look()
  })
  await new Promise((resolve) => {
    const look = () => (film.currentTime > 0 && !film.paused ? resolve() : requestAnimationFrame(look))
    look()
  })
  return performance.now()
}

async function bareUntilPlaying(url) {
  const film = document.createElement('video')
  film.src = url
  film.muted = true
  document.body.append(film)
  const began = performance.now()
  await film.play()
  await new Promise((resolve) => {
    const look = () => (film.currentTime > 0 ? resolve() : requestAnimationFrame(look))
    look()
  })
  return performance.now() - began
}

async function start(courseSite, line) {
  const browser = await launchChromium({ devices: false })
  try {
    const page = (await browser.pages())[0]
    await page.goto(`${courseSite}/`)
    await page.select('#who', await page.$eval('#who option:nth-child(2)', (o) => o.value))
    await Promise.all([page.waitForNavigation(), page.click('button')])
    const session = await page.createCDPSession()
    await session.send('Network.enable')
    if (line) await session.send('Network.emulateNetworkConditions', line)
    const sizes = new Map()
    session.on('Network.responseReceived', ({ requestId, response }) => sizes.set(requestId, { url: response.url }))
    session.on('Network.loadingFinished', ({ requestId, encodedDataLength }) =>
      Object.assign(sizes.get(requestId) ?? {}, { bytes: encodedDataLength }),
    )
    await page.goto(`${courseSite}/courses/ps201/items/place-glacier`, { waitUntil: 'domcontentloaded' })
    const frame = await (await page.waitForSelector('iframe')).contentFrame()
    const ms = await frame.evaluate(untilPlaying)
    const code = [...sizes.values()].filter(({ url, bytes }) => bytes && /\/player\/.*\.(js|css)$/.test(url))
    const film = await frame.$eval('video', (v) => v.src)
    await page.goto('about:blank')
    await page.goto(`${courseSite}/`)
    const bare = await page.evaluate(bareUntilPlaying, `${film}?bare`)
    return { ms, bare, bytes: code.reduce((sum, c) => sum + c.bytes, 0) }
  } finally {
    await browser.close()
  }
}

export async function player({ say, figure }) {
  await buildWhenStale()
  const folder = await mkdtemp(join(tmpdir(), 'thaw-bench-player-'))
  const server = await startServer(folder, { demo: true })
  try {
    for (const [name, line] of [
      ['here', null],
      ['slow', SLOW],
    ]) {
      const rounds = []
      for (let round = 0; round < ROUNDS; round++) {
        say(`the player, ${name}, ${round + 1} of ${ROUNDS} …`)
        rounds.push(await start(server.courseSite, line))
      }
      const of = (key) => median(rounds.map((r) => r[key]))
      figure({
        line: name,
        playingMs: Math.round(of('ms')),
        bareFilmMs: Math.round(of('bare')),
        codeKilobytes: Math.round(of('bytes') / 1000),
      })
    }
  } finally {
    await server.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
