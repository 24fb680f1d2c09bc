/**
 * Looks for keys in everything that a class is sent: of every kind of question, under every policy, in every answer of
 * the server to what students ask, and to what they may not ask.
 */
import { createHash } from 'node:crypto'
import { readdirSync } from 'node:fs'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { watchStatement } from '#core/results/played'
import type { WatchView } from '#core/packages/watch-view'
import { DEFAULT_POLICY } from '#core/questions/policy'
import type { OpenQuestion, QuestionKey, SetPolicy, ToldFrom } from '#core/schema/questions'
import { richOf } from '#core/text/rich-text'
import { placeOf } from '../publication'
import { commit, film, say, send, TrialServer } from './server'

const server = new TrialServer()
beforeAll(() => server.start())
afterAll(() => server.leave())

const png = Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 7, 7, 7])
const PICTURE = createHash('sha256').update(png).digest('hex')
/** Each text, number and hash that a key alone has begins or is one of these. */
const secret = (what: string) => `kept-back-${what}`
const NUMBER = 73.1234567
const choices = ['a', 'b', 'c'].map((id) => ({ id, text: richOf(`Choice ${id}`) }))

type Asked = { open: OpenQuestion; key: QuestionKey; answer: object | null }
/** A question of every kind, in one set of a publication. */
function everyKind(of: string): Asked[] {
  const made: [string, object, object, object | null][] = [
    ['one-right', { choices, shuffled: true }, { right: 'b' }, { choice: 'a' }],
    ['several-right', { choices, shuffled: true, grading: 'parts' }, { right: ['b', 'c'] }, { choices: ['a'] }],
    ['true-false', {}, { right: true }, { value: false }],
    ['number', { units: [] }, { value: NUMBER, tolerance: 0, toleranceIn: 'unit', factors: [] }, { value: 1, unit: 0 }],
    [
      'words',
      {},
      { accepted: [secret('word')], caseCounts: false, accentsCount: false, slips: 0 },
      { text: 'another' },
    ],
    ['order', { choices, grading: 'all' }, { right: ['c', 'a', 'b'] }, { order: ['a', 'b', 'c'] }],
    [
      'longer',
      { words: 0 },
      { rubric: [{ id: 'r', text: secret('rubric'), points: 1 }], model: secret('model') },
      { text: 'A long one.' },
    ],
    ['thought', {}, {}, { text: 'Mine.' }],
    ['note', {}, {}, null],
  ]
  return made.map(([kind, open, key, given]) => {
    const id = `${of}-${kind}`
    const points = kind === 'thought' || kind === 'note' ? 0 : 1
    const picture = { kind: 'picture' as const, file: PICTURE, description: secret('picture'), width: 8, height: 8 }
    return {
      open: { id, kind, prompt: richOf(`${kind}?`), hint: [], points, ...open } as OpenQuestion,
      key: {
        ...{ questionId: id, kind, lookAt: null, ...key },
        explanation: [...richOf(secret(`why-${kind}`)), picture],
      } as QuestionKey,
      answer: given && { kind, ...given },
    }
  })
}

const tellings: [string, ToldFrom][] = [
  ...(['answered', 'handed-in', 'marked', 'never'] as const).map((t): [string, ToldFrom] => [t, t]),
  ['date', { date: '2099-01-01T00:00:00.000Z' }],
]
const policies = tellings.flatMap(([name, from]) =>
  [true, false].flatMap((changes) =>
    [true, false].map((readBefore) => ({
      id: `${name}-${changes ? 'changed' : 'once'}-${readBefore ? 'read' : 'unread'}`,
      ...{ from, changes },
      policy: { ...DEFAULT_POLICY, changes, readBefore, feedback: from, score: from, solutions: from } as SetPolicy,
    })),
  ),
)

async function publish(id: string, policy: SetPolicy): Promise<Asked[]> {
  const asked = everyKind(id)
  const made = film(id, id, 0, 400)
  const set = {
    set: {
      ...made.sets[0]!.set,
      ...{ id: `${id}-set`, policy },
      checkpoints: asked.map(({ open }, i) => ({ id: `${id}-${i}`, at: i, questions: [open] })),
    },
    keys: { ...made.sets[0]!.keys, keys: asked.map((a) => a.key) },
  }
  await server.ask('PUT', `/api/publications/${id}/pictures/${PICTURE}`, png)
  expect((await commit(server, id, await send(server, { ...made, sets: [set] }))).status).toBe(200)
  const place = placeOf(id, id, 'ps201', { from: '2026-01-01T00:00:00.000Z', sets: [`${id}-set`] })
  expect((await server.ask('PUT', `/api/places/${id}`, place)).status).toBe(200)
  return asked
}

/** Every address of the server's own, with what a student knows put in. */
const routes = readdirSync(new URL('../../server/api', import.meta.url), { recursive: true, encoding: 'utf8' })
  .filter((file) => file.endsWith('.ts') && !file.includes('...') && !file.startsWith('author/session.post'))
  .map((file) => {
    const [, path = '', method = 'get'] = /^(.*?)(?:\.(get|put|post|delete))?\.ts$/.exec(file) ?? []
    return { method: method.toUpperCase(), path: path.replace(/\/index$/, '') }
  })

/** Words by which a key stands in JSON, whatever it holds. */
const KEYS = /"(?:right|accepted|rubric|model|tolerance|keys)":/
const found = (text: string) =>
  KEYS.test(text) || text.includes('kept-back-') || text.includes(String(NUMBER)) || text.includes(PICTURE)

test('no key reaches a student before its time', async () => {
  let looked = 0
  for (const { id, from, changes, policy } of policies) {
    const asked = await publish(id, policy)
    const given = asked.filter((a) => a.answer)
    const token = await server.student(id, 's1')
    const other = await server.student(id, 's2')
    /** Asks as a student and takes the whole answer as text. */
    const ask = async (path: string, body?: object, bearer = token, method = body ? 'POST' : 'GET') => {
      const answer = await fetch(server.address + path, {
        method,
        headers: { authorization: `Bearer ${bearer}`, ...(body && { 'content-type': 'application/json' }) },
        ...(body && { body: JSON.stringify(body) }),
        redirect: 'manual',
      })
      looked++
      return { status: answer.status, text: await answer.text(), headers: answer.headers }
    }
    const send = (...events: object[]) => ask(`/api/watch/${id}/responses`, { events })
    const at = new Date().toISOString()
    const event = (kind: string, n: number) => ({
      ...{ id: `${kind}-${n}`, kind, at, questionId: given[n]!.open.id, answer: given[n]!.answer },
    })
    const hides = async (answer: ReturnType<typeof ask>, what: string) =>
      expect(found((await answer).text), `${id}: ${what}`).toBe(false)

    const first = await ask(`/api/watch/${id}`)
    expect([first.status, found(first.text)]).toEqual([200, false])
    expect(first.headers.get('cache-control')).toMatch(/no-store/)
    const view = JSON.parse(first.text) as WatchView
    const { version: set } = view.sets[0]!
    await hides(send(...given.map((_, n) => event('select', n))), 'what is begun')
    // All but the last is answered.
    const answers = given.slice(0, -1).map((_, n) => event('answer', n))
    const told = await send(...answers)
    const mayTell = from === 'answered' && !changes
    expect(found(told.text), `${id}: answered`).toBe(mayTell)
    if (mayTell) {
      // Only of what is answered, and each of it.
      for (const { open } of given.slice(0, -1))
        expect(told.text.includes(`kept-back-why-${open.kind}`), `${id}: ${open.kind}`).toBe(true)
      expect(told.text).not.toContain(`kept-back-why-${given.at(-1)!.open.kind}`)
    }
    const statement = watchStatement(
      { placeId: id, version: view.version, length: 1000, session: crypto.randomUUID() },
      'paused',
      { time: 5, played: [[0, 5]] },
      { id: crypto.randomUUID(), at },
    )
    await hides(ask(`/api/watch/${id}/statements`, { statements: [statement] }), 'what was watched')
    await hides(ask(`/api/watch/${id}`, undefined, other), 'somebody else')

    // Whatever else there is to ask, by whoever watches, with everything that this player was told.
    const media = new URL(view.feeds[0]!.url, server.address).pathname.split('/')
    const ticket = media[media.indexOf('media') + 1] ?? ''
    const names: Record<string, string> = {
      ...{ place: id, id, publication: id, course: 'ps201', ticket, version: view.version, hash: PICTURE },
      ...{ upload: view.version, file: 'screen.mp4', index: '0', run: '1', n: '0', name: 'screen.mp4' },
      ...{ order: 'o1', number: '1' },
    }
    for (const { method, path } of routes) {
      const address = `/api/${path.replace(/\[(\w+)\]/g, (_, name: string) => names[name] ?? 'x')}`
      const body = method === 'POST' || method === 'PUT' ? {} : undefined
      await hides(ask(address, body, other, method), `${method} ${address}`)
    }
    for (const version of [set, view.version])
      for (const kind of ['sets', 'keys', 'questions'])
        await hides(ask(`/api/watch/${id}/media/${ticket}/${version}/${kind}.json`, undefined, other), kind)

    const done = await send(event('answer', given.length - 1), {
      ...{ id: 'done', kind: 'hand-in', version: set, attempt: 1, at },
    })
    const tells = from === 'answered' || from === 'handed-in'
    expect(found(done.text), `${id}: handed in`).toBe(tells)
    for (const what of ['word', 'model', 'picture', 'why-longer'])
      expect(done.text.includes(secret(what)), `${id}: ${what}`).toBe(tells)
    await hides(ask(`/api/watch/${id}`, undefined, other), 'somebody else, after that')
    if (!tells) await hides(ask(`/api/watch/${id}`), 'the view after that')
  }
  say(`${policies.length} policies, 9 kinds, ${routes.length} routes: ${looked} answers looked through`)
}, 300_000)
