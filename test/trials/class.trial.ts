/**
 * A class of five hundred that watches and answers at once for a minute, over real HTTP, with the clients on the same
 * cores; and once more while the server is killed again and again.
 */
import { quantileSorted } from 'd3-array'
import { afterAll, expect, test } from 'vitest'
import { watchStatement, type Stretch } from '#core/results/played'
import type { WatchView } from '#core/packages/watch-view'
import type { PlaceWatching } from '#core/schema/watching'
import { answer, commit, film, pause, place, say, send, share, times, TrialServer } from './server'

const STUDENTS = Math.max(20, Math.round(500 * share))
const SECONDS = Math.max(10, Math.round(60 * share))
const QUESTIONS = 20
/** s between what one player reports. */
const EVERY = 10

const servers: TrialServer[] = []
afterAll(async () => {
  for (const server of servers) await server.leave()
})

async function withLecture(): Promise<TrialServer> {
  const server = new TrialServer()
  servers.push(server)
  await server.start()
  expect((await commit(server, 'p', await send(server, film('p', 'class', QUESTIONS)))).status).toBe(200)
  expect((await place(server, 'pl', 'p')).status).toBe(200)
  return server
}

interface Member {
  token: string
  version: string
  session: string
  answers: string[]
  reports: string[]
}
async function member(server: TrialServer, n: number): Promise<Member> {
  const token = await server.student('pl', `s${n}`)
  const { body } = await server.ask('GET', '/api/watch/pl', undefined, token)
  return { token, version: (body as WatchView).version, session: crypto.randomUUID(), answers: [], reports: [] }
}
const report = ({ version, session }: Member, id: string, seconds: number) => {
  const played: Stretch[] = [[0, seconds]]
  return watchStatement(
    { placeId: 'pl', version, length: 1000, session },
    'paused',
    { time: seconds, played },
    { id, at: new Date().toISOString() },
  )
}

/** One student's minute. @param post sends until it is acknowledged @returns ms that each answer took */
async function attend(
  who: Member,
  n: number,
  post: (path: string, body: unknown, token: string) => Promise<number>,
): Promise<number[]> {
  const costs: number[] = []
  const begun = performance.now()
  const at = (seconds: number) => pause(Math.max(0, 1000 * seconds - (performance.now() - begun)))
  const phase = ((n * 7919) % 1000) / 1000
  await Promise.all([
    (async () => {
      for (let q = 0; q < QUESTIONS; q++) {
        await at(((q + phase) * SECONDS) / QUESTIONS)
        const id = `s${n}q${q}`
        costs.push(await post('/api/watch/pl/responses', { events: [answer(id, `q${q}`)] }, who.token))
        who.answers.push(id)
      }
    })(),
    (async () => {
      for (let t = EVERY * phase; t < SECONDS; t += EVERY) {
        await at(t)
        const id = crypto.randomUUID()
        await post('/api/watch/pl/statements', { statements: [report(who, id, t + 1)] }, who.token)
        who.reports.push(id)
      }
    })(),
  ])
  return costs
}

/** What is there is what was acknowledged, once. */
async function check(server: TrialServer, members: readonly Member[]): Promise<void> {
  const { events } = await server.responses('pl')
  expect(events.map((e) => e.event.id).sort()).toEqual(members.flatMap((m) => m.answers).sort())
  const statements = (await server.ask('GET', '/api/places/pl/statements')).body as { id: string }[]
  expect(statements.map((s) => s.id).sort()).toEqual(members.flatMap((m) => m.reports).sort())
  const { sessions } = (await server.ask('GET', '/api/places/pl/watching')).body as PlaceWatching
  expect(sessions).toHaveLength(members.length)
  expect((await server.ask('GET', '/api/author/set-aside')).body).toEqual([])
}

test('watches and answers at once: nobody waits, and nothing is lost or twice', async () => {
  const server = await withLecture()
  const members = await Promise.all(Array.from({ length: STUDENTS }, (_, n) => member(server, n)))
  const post = async (path: string, body: unknown, token: string) => {
    const began = performance.now()
    const { status } = await server.ask('POST', path, body, token)
    expect(status).toBe(200)
    return performance.now() - began
  }
  const costs = (await Promise.all(members.map((m, n) => attend(m, n, post)))).flat().sort((a, b) => a - b)
  const ms = (p: number) => Math.round(10 * (quantileSorted(costs, p) ?? 0)) / 10
  say(
    `${STUDENTS} students, ${SECONDS} s: ${costs.length} answers, ${members.flatMap((m) => m.reports).length} reports; ` +
      `an answer takes ${ms(0.5)} ms, p99 ${ms(0.99)} ms, longest ${ms(1)} ms`,
  )
  await check(server, members)
  expect(ms(0.99)).toBeLessThan(100)
})

test('keeps what was acknowledged while the server is killed in the middle of it', async () => {
  const server = await withLecture()
  const members = await Promise.all(Array.from({ length: Math.ceil(STUDENTS / 2) }, (_, n) => member(server, n)))
  let tries = 0
  let isOver = false
  /** As a player does: again until it is taken. */
  const post = async (path: string, body: unknown, token: string) => {
    for (;;) {
      tries++
      const { status } = await server.ask('POST', path, body, token)
      if (status === 200) return 0
      expect([0, 429]).toContain(status)
      await pause(100 + 400 * Math.random())
    }
  }
  const kills = times(8)
  const killing = (async () => {
    for (let n = 0; n < kills && !isOver; n++) {
      await pause((1000 * SECONDS * (0.5 + Math.random())) / kills)
      await server.kill()
      await server.start()
    }
  })()
  await Promise.all(members.map((m, n) => attend(m, n, post)))
  isOver = true
  await killing
  const sent = members.flatMap((m) => [...m.answers, ...m.reports]).length
  say(`${kills} kills; ${sent} answers and reports in ${tries} tries; none lost, none twice`)
  await check(server, members)
})
