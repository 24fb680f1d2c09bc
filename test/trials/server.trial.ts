/**
 * The server, killed and raced: nothing acknowledged is lost, nothing is there twice, nothing is unreadable, no lecture
 * is shut.
 */
import { writeWav } from '#core/sound/wav'
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { connect } from 'node:net'
import { join } from 'node:path'
import { afterAll, describe, expect, test } from 'vitest'
import { placeOf } from '../publication'
import { answer, commit, film, pause, place, say, send, times, TrialServer, watched } from './server'

/** What a process was started as; empty when it has gone meanwhile. */
function readCommand(pid: string): string {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8')
  } catch {
    return ''
  }
}

const servers: TrialServer[] = []
async function started(): Promise<TrialServer> {
  const server = new TrialServer()
  servers.push(server)
  await server.start()
  return server
}
afterAll(async () => {
  for (const server of servers) await server.leave()
})

describe('a killed server', () => {
  test('keeps what it acknowledged, once, and shuts no lecture', async () => {
    const server = await started()
    expect((await commit(server, 'p', await send(server, film('p', 'first', 20)))).status).toBe(200)
    expect((await place(server, 'pl', 'p')).status).toBe(200)
    const kept = new Set<string>()
    /** Acknowledged, or perhaps not: the last title and week that may stand. */
    let titles = ['first']
    let weeks = [1]
    let liveSent = 0
    let rounds = 0
    for (; rounds < times(200); rounds++) {
      const round = rounds
      let running = true
      const students = await Promise.all(Array.from({ length: 6 }, (_, s) => server.student('pl', `r${round}s${s}`)))
      const load = [
        ...students.map(async (token, s) => {
          for (let q = 0; running && q < 20; q++) {
            const id = `r${round}s${s}q${q}`
            const select = { ...answer(`${id}c`, `q${q}`), kind: 'select', answer: { kind: 'one-right', choice: 'b' } }
            const { status } = await server.ask(
              'POST',
              '/api/watch/pl/responses',
              { events: [select, answer(id, `q${q}`)] },
              token,
            )
            if (status === 200) kept.add(id)
          }
        }),
        (async () => {
          for (let n = 0; running; n++) {
            const next = film('p', `r${round}n${n}`, 20)
            const upload = await send(server, next)
            if (!upload) continue
            titles.push(next.manifest.title)
            if ((await commit(server, 'p', upload)).status === 200) titles = [next.manifest.title]
          }
        })(),
        (async () => {
          for (let week = 2; running; week = (week % 50) + 1) {
            weeks.push(week)
            if ((await place(server, 'pl', 'p', week)).status === 200) weeks = [week]
          }
        })(),
        (async () => {
          const id = `live${round}`
          const where = placeOf(id, id, 'ps201', { from: '2026-01-01T00:00:00.000Z' })
          await server.ask('PUT', `/api/places/${id}/live`, {
            place: where,
            title: id,
            startsAt: '2026-11-26T10:00:00.000Z',
          })
          const { body } = await server.ask('POST', `/api/places/${id}/live`, { to: 'on' })
          const run = (body as { run?: number } | null)?.run ?? 1
          await server.ask('PUT', `/api/places/${id}/live/${run}/init`, new Uint8Array(70))
          for (let n = 0; running; n++)
            if (
              (await server.ask('PUT', `/api/places/${id}/live/${run}/${n}?duration=1.5`, new Uint8Array(9000)))
                .status === 200
            )
              liveSent++
        })(),
      ]
      await pause(50 + 900 * Math.random())
      await server.kill()
      running = false
      await Promise.all(load)
      await server.start()
      // Everything that is there can be read, and what was acknowledged is there.
      const { events } = await server.responses('pl')
      const ids = events.map((e) => e.event.id)
      expect(new Set(ids).size).toBe(ids.length)
      const there = new Set(ids)
      expect([...kept].filter((id) => !there.has(id))).toEqual([])
      const token = await server.student('pl', `r${round}s0`)
      const view = await server.ask('GET', '/api/watch/pl', undefined, token)
      expect(view.status).toBe(200)
      const { title, media } = watched(view.body)
      expect(titles).toContain(title)
      titles = [title]
      expect(await server.mediaHash(media)).toBe(film('p', title, 20).hash)
      const stored = JSON.parse(readFileSync(`${server.folder}/documents/places/pl.json`, 'utf8')) as { week: number }
      expect(weeks).toContain(stored.week)
      weeks = [stored.week]
      const live = await server.ask(
        'GET',
        `/api/watch/live${round}`,
        undefined,
        await server.student(`live${round}`, 's'),
      )
      expect([200, 404]).toContain(live.status)
      expect((await server.ask('GET', '/api/author/set-aside')).body).toEqual([])
    }
    say(`${rounds} kills; ${kept.size} answers and ${liveSent} live segments acknowledged; none lost, none twice`)
  })
})

test('a killed server leaves no recogniser behind, and no sound', async () => {
  const server = new TrialServer()
  servers.push(server)
  const program = join(server.folder, 'slow-recogniser')
  writeFileSync(program, '#!/bin/sh\nexec sleep 7777\n', { mode: 0o755 })
  await server.start({ THAW_RECOGNISER: program })
  const listening = () =>
    readdirSync('/proc').filter(
      (pid) => /^\d+$/.test(pid) && existsSync(`/proc/${pid}/cmdline`) && readCommand(pid).includes('7777'),
    ).length
  // A second of a tone, as where nobody speaks nothing is recognised.
  const samples = Int16Array.from({ length: 16_000 }, (_, i) => 8000 * Math.sin(i / 7))
  const wav = Buffer.from(writeWav(new Uint8Array(samples.buffer), 16_000))
  server.begin('/api/speech', wav)
  for (let tries = 0; listening() === 0; tries++) {
    if (tries > 100) throw new Error('the recogniser was not started')
    await pause(50)
  }
  await server.kill()
  await pause(300)
  expect(listening()).toBe(0)
  await server.start()
  expect(existsSync(join(server.folder, 'speech'))).toBe(false)
})

test('commits that are raced, given up and read leave the old lecture or the new one, whole', async () => {
  const server = await started()
  await commit(server, 'p', await send(server, film('p', 'first')))
  await place(server, 'pl', 'p')
  let current = 'first'
  let won = 0
  const rounds = times(100)
  for (let round = 0; round < rounds; round++) {
    const next = film('p', `round ${round}`)
    const upload = await send(server, next)
    const token = await server.student('pl', 's1')
    const read = async () => {
      const { status, body } = await server.ask('GET', '/api/watch/pl', undefined, token)
      if (status !== 200) return false
      const { title, media } = watched(body)
      return (await server.mediaHash(media)) === film('p', title).hash
    }
    const acts = [
      () => commit(server, 'p', upload),
      () => commit(server, 'p', upload),
      () => server.ask('DELETE', `/api/publications/p/uploads/${upload}`),
    ].sort(() => Math.random() - 0.5)
    const [reads, done] = await Promise.all([
      Promise.all([read(), read(), read()]),
      Promise.all(acts.map(async (act) => (await pause(3 * Math.random()), act()))),
    ])
    expect(reads).not.toContain(false)
    expect(await read()).toBe(true)
    const { body } = await server.ask('GET', '/api/watch/pl', undefined, token)
    const { title } = body as { title: string }
    expect([current, next.manifest.title]).toContain(title)
    if (title === next.manifest.title) won++
    current = title
    expect(done.every((d) => [200, 404, 409].includes(d.status))).toBe(true)
  }
  say(`${rounds} raced commits, ${won} of them published; every read was whole`)
})

test('two hundred clients that stop reading, and some that hang up, cost no memory', async () => {
  const server = await started()
  const large = film('big', 'big', 1, 60 << 20)
  await commit(server, 'big', await send(server, large))
  await place(server, 'big', 'big')
  const token = await server.student('big', 's1')
  const { media } = watched((await server.ask('GET', '/api/watch/big', undefined, token)).body)
  const status = (file: string, name: string) =>
    Number(new RegExp(`${name}:\\s+(\\d+)`).exec(readFileSync(`/proc/${server.pid}/${file}`, 'utf8'))?.[1])
  const { port } = new URL(server.address)
  const open = () => connect(Number(port), 'localhost').on('error', () => undefined)
  const ask = (socket: ReturnType<typeof open>) => socket.write(`GET ${media} HTTP/1.1\r\nHost: localhost\r\n\r\n`)
  const before = status('status', 'VmRSS') / 1024
  const stalled = Array.from({ length: 200 }, () => {
    const socket = open()
    socket.once('connect', () => ask(socket))
    socket.once('data', () => socket.pause())
    return socket
  })
  await pause(8000)
  const during = status('status', 'VmRSS') / 1024
  // Meanwhile others are served.
  expect(await server.mediaHash(media)).toBe(large.hash)
  stalled.forEach((socket) => socket.destroy())
  const readBefore = status('io', 'rchar')
  for (let i = 0; i < 20; i++) {
    const socket = open()
    let got = 0
    await new Promise<void>((resolve) => {
      socket.once('connect', () => ask(socket))
      socket.on('data', (data) => (got += data.length) > 100_000 && (socket.destroy(), resolve()))
    })
  }
  await pause(1000)
  const read = (status('io', 'rchar') - readBefore) / 2 ** 20
  say(
    `${before.toFixed(0)} MB before, ${during.toFixed(0)} MB with 200 stalled clients; 20 that hung up after 0.1 MB had ${read.toFixed(1)} MB read`,
  )
  expect(during - before).toBeLessThan(120)
  expect(read).toBeLessThan(20 * 4)
})
