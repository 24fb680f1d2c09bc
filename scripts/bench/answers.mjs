// 500 students over real HTTP: 1,500 answers spread over ten seconds, and what a view and an answer cost when others
// have answered 20,000 times before. The server is the built one, on a folder of its own; students are launched as the
// course site launches them.
import { createHash, randomUUID } from 'node:crypto'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { SignJWT } from 'jose'
import { buildWhenStale } from '../setup.mjs'
import { KEY, startServer as start } from './server.mjs'

const STUDENTS = 500
const EACH = 3
const SECONDS = 10
const OTHERS = 20_000

const quantile = (sorted, share) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]
const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms))

/** The server, and a way to ask it as the author. */
async function startServer(folder) {
  const { origin, launchSecret, stop } = await start(folder)
  const json = (body) => ({
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  })
  const cookie = (await fetch(`${origin}/api/author/session`, json({ key: KEY }))).headers
    .getSetCookie()[0]
    .split(';')[0]
  const author = (method, path, body) =>
    fetch(origin + path, {
      method,
      headers: { cookie, ...(!(body instanceof Uint8Array) && { 'content-type': 'application/json' }) },
      body: body instanceof Uint8Array ? body : JSON.stringify(body),
    })
  return { origin, author, launchSecret, stop }
}

const text = (words) => (words ? [{ kind: 'paragraph', spans: [{ text: words }] }] : [])
const checkpoint = (i) => ({
  id: `cp${i}`,
  at: i,
  questions: [
    {
      id: `q${i}`,
      kind: 'one-right',
      prompt: text(`${i}?`),
      choices: [
        { id: 'a', text: text('1') },
        { id: 'b', text: text('2') },
      ],
      shuffled: false,
      hint: text(''),
      points: 1,
    },
  ],
})

async function publish({ author }, id) {
  const media = new Uint8Array(1000)
  const checkpoints = Array.from({ length: 50 }, (_, i) => checkpoint(i))
  const manifest = {
    format: 'thaw-publication',
    version: 2,
    id,
    title: id,
    description: '',
    language: 'en',
    duration: 100,
    width: 2,
    height: 2,
    madeAt: '2026-11-23T00:00:00.000Z',
    files: [
      {
        name: 'screen.mp4',
        type: 'video/mp4',
        size: media.length,
        parts: [createHash('sha256').update(media).digest('hex')],
      },
    ],
    feeds: [{ id: 'screen', file: 'screen.mp4', width: 2, height: 2 }],
    layout: [{ at: 0, slots: [{ feed: 'screen', box: { x: 0, y: 0, width: 1, height: 1 } }] }],
    captions: [],
    chapters: [],
    links: [],
    kept: null,
  }
  const set = {
    format: 'thaw-published-set',
    version: 4,
    id: 'questions',
    publicationId: id,
    title: id,
    policy: {
      ...{ welcome: [], readBefore: false, changes: false, putOff: true, ahead: true },
      attempts: { most: 1, counts: 'best' },
      ...{ feedback: 'answered', score: 'answered', solutions: 'answered' },
    },
    checkpoints,
  }
  const keys = {
    format: 'thaw-keys',
    version: 2,
    publicationId: id,
    keys: checkpoints.map((_, i) => ({
      ...{ questionId: `q${i}`, kind: 'one-right', right: 'a' },
      ...{ explanation: text(''), lookAt: null },
    })),
  }
  const start = { manifest, captions: [], sets: [{ set, keys }] }
  const { version: upload } = await (await author('POST', `/api/publications/${id}/uploads`, start)).json()
  await author('PUT', `/api/publications/${id}/uploads/${upload}/parts/screen.mp4/0`, media)
  await author('POST', `/api/publications/${id}/uploads/${upload}/commit`)
  await author('PUT', `/api/places/${id}`, {
    id,
    publicationId: id,
    sets: ['questions'],
    options: { download: false },
    courseId: 'ps201',
    week: 1,
    from: '2026-01-01T00:00:00.000Z',
    until: null,
  })
}

/** @param {{ say: (text: string) => void, figure: (values: object) => void }} options */
export async function answers({ say, figure }) {
  await buildWhenStale()
  const folder = await mkdtemp(join(tmpdir(), 'thaw-answers-'))
  let server = await startServer(folder)
  try {
    await publish(server, 'class')
    await publish(server, 'quiet')
    const token = async (place, id) => {
      const launch = await new SignJWT({ place, name: id })
        .setProtectedHeader({ alg: 'HS256' })
        .setJti(randomUUID())
        .setSubject(id)
        .setAudience('thaw')
        .setIssuedAt()
        .setExpirationTime('5m')
        .sign(new TextEncoder().encode(server.launchSecret))
      const answer = await fetch(`${server.origin}/api/watch/launch?token=${launch}`, { redirect: 'manual' })
      return new URLSearchParams(answer.headers.get('location').split('#')[1]).get('token')
    }
    /** What each student's player was told last, as marks, and the bytes of the answers to what it sent. */
    const marks = new Map()
    const sizes = []
    const timed = async (place, bearer, events) => {
      const began = performance.now()
      const headers = { authorization: `Bearer ${bearer}`, ...(events && { 'content-type': 'application/json' }) }
      const answer = await fetch(`${server.origin}/api/watch/${place}${events ? '/responses' : ''}`, {
        headers,
        ...(events && { method: 'POST', body: JSON.stringify({ events, told: marks.get(bearer) }) }),
      })
      const text = await answer.text()
      const took = performance.now() - began
      if (answer.status !== 200) throw new Error(`the server answered ${answer.status}`)
      const said = JSON.parse(text)
      marks.set(bearer, (said.change ?? said.view ?? said).told)
      if (events) sizes.push(text.length)
      return took
    }
    const event = (q) => ({
      id: randomUUID(),
      kind: 'answer',
      questionId: `q${q}`,
      answer: { kind: 'one-right', choice: 'a' },
      at: new Date().toISOString(),
    })
    /** Median cost of a view and an answer of somebody who comes for the first time, ms. */
    const first = async (place) => {
      const costs = { view: [], answer: [] }
      for (let i = 0; i < 40; i++) {
        const bearer = await token(place, `new-${randomUUID()}`)
        costs.view.push(await timed(place, bearer))
        costs.answer.push(await timed(place, bearer, [event(0)]))
      }
      return Object.fromEntries(
        Object.entries(costs).map(([name, list]) => [
          name,
          quantile(
            list.sort((a, b) => a - b),
            0.5,
          ),
        ]),
      )
    }

    say('500 students come in …')
    const tokens = await Promise.all(Array.from({ length: STUDENTS }, (_, i) => token('class', `s${i}`)))
    // As players do before anybody answers.
    for (const bearer of tokens) await timed('class', bearer)
    say('1,500 answers in ten seconds …')
    const costs = []
    await Promise.all(
      tokens.flatMap((bearer, s) =>
        Array.from({ length: EACH }, async (_, n) => {
          await pause(((s * EACH + n) * 7919) % (SECONDS * 1000))
          costs.push(await timed('class', bearer, [event(n)]))
        }),
      ),
    )
    costs.sort((a, b) => a - b)
    const { events } = await (await server.author('GET', '/api/places/class/responses')).json()
    figure({
      what: '1,500 answers of 500 students in 10 s',
      p50: quantile(costs, 0.5),
      p99: quantile(costs, 0.99),
      most: costs.at(-1),
      unit: 'ms',
      bytes: quantile(
        sizes.sort((a, b) => a - b),
        0.5,
      ),
      there: events.length,
    })

    const quiet = await first('quiet')
    say(`${OTHERS} answers of others …`)
    const many = await Promise.all(Array.from({ length: OTHERS / 40 }, (_, i) => token('class', `o${i}`)))
    for (const bearer of many)
      await timed(
        'class',
        bearer,
        Array.from({ length: 40 }, (_, q) => event(q)),
      )
    const busy = await first('class')
    await server.stop()
    server = await startServer(folder)
    const afterStart = await timed('class', tokens[0])
    figure({
      what: `a view, with ${OTHERS} answers of others at the place and without`,
      with: busy.view,
      without: quiet.view,
      unit: 'ms',
    })
    figure({
      what: `an answer, with ${OTHERS} answers of others at the place and without`,
      with: busy.answer,
      without: quiet.answer,
      unit: 'ms',
    })
    figure({ what: `the first view after a start, with ${OTHERS} answers kept`, value: afterStart, unit: 'ms' })
  } finally {
    await server.stop()
    await rm(folder, { recursive: true, force: true })
  }
}
