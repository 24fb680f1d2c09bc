// The author's first load, in a browser that holds nothing: what crosses the wire, gzipped as it is served, until the
// first page can be used, and until the first card of the term is seen after that, when more has been fetched ahead
// meanwhile; and how long each takes. The demo's films are data, and are counted apart.
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { median } from 'd3-array'
import { launchChromium } from '../chromium.mjs'
import { openDemo } from '../open-demo.mjs'
import { buildWhenStale } from '../setup.mjs'
import { startServer } from './server.mjs'

const ROUNDS = 5

async function firstLoad(origin) {
  const browser = await launchChromium({ devices: false })
  try {
    const page = (await browser.pages())[0]
    const session = await page.createCDPSession()
    await session.send('Network.enable')
    const urls = new Map()
    const loaded = []
    session.on('Network.responseReceived', ({ requestId, response }) => urls.set(requestId, response.url))
    session.on('Network.loadingFinished', ({ requestId, encodedDataLength }) =>
      loaded.push({ url: urls.get(requestId) ?? '', bytes: encodedDataLength }),
    )
    const began = performance.now()
    const seconds = () => (performance.now() - began) / 1000
    const bytes = (kind) => loaded.filter(({ url }) => kind.test(url)).reduce((sum, l) => sum + l.bytes, 0)
    await page.goto(origin)
    await page.waitForSelector('::-p-text(Start my own)')
    const first = { pageSeconds: seconds(), pageCode: bytes(/\.(js|css)$/) }
    await openDemo(page, origin)
    await page.waitForSelector('.card')
    return { ...first, seconds: seconds(), code: bytes(/\.(js|css)$/), fonts: bytes(/\.woff2$/) }
  } finally {
    await browser.close()
  }
}

export async function load({ say, figure }) {
  await buildWhenStale()
  const folder = await mkdtemp(join(tmpdir(), 'thaw-bench-load-'))
  const server = await startServer(folder, { demo: true })
  try {
    const rounds = []
    for (let round = 0; round < ROUNDS; round++) {
      say(`first load ${round + 1} of ${ROUNDS} …`)
      rounds.push(await firstLoad(server.origin))
    }
    const of = (key) => median(rounds.map((r) => r[key]))
    figure({
      firstPageSeconds: Number(of('pageSeconds').toFixed(2)),
      firstPageKilobytes: Math.round(of('pageCode') / 1000),
      firstCardSeconds: Number(of('seconds').toFixed(2)),
      codeKilobytes: Math.round(of('code') / 1000),
      fontKilobytes: Math.round(of('fonts') / 1000),
    })
  } finally {
    await server.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
