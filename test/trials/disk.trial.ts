/** A disk that is full – a small tmpfs, for which it needs root on Linux – with kills between: the same as without. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, statfsSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, expect, test } from 'vitest'
import { answer, commit, film, place, say, send, times, TrialServer } from './server'

const mount = mkdtempSync(join(tmpdir(), 'thaw-full-'))
const isRoot = process.getuid?.() === 0
const server = new TrialServer(join(mount, 'data'))
afterAll(async () => {
  await server.kill()
  if (isRoot) execFileSync('umount', [mount])
  rmSync(mount, { recursive: true, force: true })
})

test.skipIf(!isRoot)('keeps what was acknowledged, says what was not, and shuts no lecture', async () => {
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=24m', 'tmpfs', mount])
  await server.start()
  expect((await commit(server, 'p', await send(server, film('p', 'first', 20)))).status).toBe(200)
  expect((await place(server, 'pl', 'p')).status).toBe(200)
  const kept = new Set<string>()
  const refused = new Map<number, number>()
  let title = 'first'
  const rounds = times(40)
  for (let round = 0; round < rounds; round++) {
    const tokens = await Promise.all(Array.from({ length: 4 }, (_, s) => server.student('pl', `r${round}s${s}`)))
    // Room for a few pages at most.
    const { bavail, bsize } = statfsSync(mount)
    const ballast = join(mount, 'ballast')
    writeFileSync(ballast, Buffer.alloc(Math.max(0, bavail - (round % 5)) * bsize))
    const note = (status: number) => refused.set(status, (refused.get(status) ?? 0) + 1)
    await Promise.all([
      ...tokens.map(async (token, s) => {
        for (let q = 0; q < 8; q++) {
          const id = `r${round}s${s}q${q}`
          const { status } = await server.ask(
            'POST',
            '/api/watch/pl/responses',
            { events: [answer(id, `q${q}`)] },
            token,
          )
          if (status === 200) kept.add(id)
          else note(status)
        }
      }),
      (async () => {
        const next = film('p', `round ${round}`, 20)
        const upload = await send(server, next)
        if (upload && (await commit(server, 'p', upload)).status === 200) title = next.manifest.title
        else note(507)
      })(),
    ])
    // Sound that is to be listened to finds no room either, and that is said as of everything else.
    const sound = await server.ask('POST', '/api/speech?language=en', new Uint8Array(1 << 20))
    expect(sound).toMatchObject({ status: 507, body: { message: expect.stringContaining('disk is full') as string } })
    // Also while it is full, what is there is watched.
    const view = await server.ask('GET', '/api/watch/pl', undefined, tokens[0])
    expect([view.status, (view.body as { title: string }).title]).toEqual([200, title])
    if (round % 4 === 3) {
      await server.kill()
      await server.start()
    }
    rmSync(ballast)
    const { events } = await server.responses('pl')
    const ids = events.map((e) => e.event.id)
    expect(new Set(ids).size).toBe(ids.length)
    expect([...kept].filter((id) => !ids.includes(id))).toEqual([])
    expect((await server.ask('GET', '/api/author/set-aside')).body).toEqual([])
  }
  say(
    `${rounds} times full, ${Math.floor(rounds / 4)} kills; ${kept.size} answers kept, refused: ${[...refused].map(([status, n]) => `${n} × ${status}`).join(', ')}`,
  )
  expect(kept.size).toBeGreaterThan(0)
  expect([...refused.keys()].every((status) => status === 507)).toBe(true)
})
