import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { FIRST_ISSUER, personKey } from '#core/course/people'
import { liveQuery } from 'dexie'
import type { StoredEvent } from '#core/schema/attempt'
import type { StoredGrading } from '#core/schema/grading'
import { db } from '~/db/database'
import { decide, forgetStudent, placeHistory, pullResults, sendDecisions, type NewDecision } from './results'

const place = {
  ...{ id: 'pl', publicationId: 'pub', courseId: 'c', week: 1, from: '2026-11-20T00:00:00.000Z', until: null },
  ...{ title: 'x', options: { download: false }, sets: ['set'] },
}
const row = { id: 'pl', lectureId: 'l', place: place as never, asked: [], removed: false }
const student = { issuer: FIRST_ISSUER, subject: 's1', name: 'Bo' }
const points = (given: number): NewDecision => ({
  ...{ kind: 'override', student, set: 'set', attempt: 1, questionId: 'q' },
  ...{ points: given, reason: 'x' },
})
/** What the server has; while it is down, nothing reaches it; while its answers are lost, it keeps what it was sent. */
let kept: StoredGrading[] = []
let events: StoredEvent[] = []
let state: 'up' | 'down' | 'answers are lost' = 'up'
vi.stubGlobal('fetch', async (url: string, init?: RequestInit) => {
  if (state === 'down') throw new TypeError('no network')
  if (url.endsWith('/forget')) return Response.json({ places: 3 })
  if (url.endsWith('/roster')) return Response.json([student])
  if (url.includes('/watching')) return Response.json({ sessions: [], versions: [] })
  if (url.includes('/responses')) {
    const after = Number(new URL(url, 'http://x').searchParams.get('graded'))
    const seen = Number(new URL(url, 'http://x').searchParams.get('after'))
    return Response.json({
      ...{ events: events.filter((e) => e.seq > seen), grading: kept.filter((k) => k.seq > after) },
      ...{ sets: [], current: [] },
    })
  }
  const { entries } = JSON.parse(String(init?.body)) as { entries: StoredGrading['entry'][] }
  for (const entry of entries)
    if (!kept.some((k) => k.entry.id === entry.id))
      kept.push({ seq: kept.length + 1, receivedAt: entry.at, placeId: 'pl', entry })
  if (state === 'answers are lost') throw new TypeError('no network')
  return Response.json({ entries: kept.filter((k) => entries.some((e) => e.id === k.entry.id)) })
})
const given = async () => (await placeHistory(row)).grading.map(({ entry }) => 'points' in entry && entry.points)

beforeEach(async () => {
  await db.delete()
  await db.open()
  await db.places.put(row)
  kept = []
  events = []
  state = 'up'
})

describe('what is kept of one student', () => {
  const fill = async () => {
    for (const subject of ['s1', 's2']) {
      const one = { ...student, subject }
      await db.sentBack.put({ placeId: 'pl', who: personKey(one), student: one, seq: 1, events: [] })
      await db.watching.put({ placeId: 'pl', session: subject, version: 'v', student: one } as never)
    }
    await decide(row, [points(1), { ...points(2), student: { ...student, subject: 's2' } }])
  }
  const left = async () => [
    ...(await db.sentBack.toArray()).map((r) => r.student.subject),
    ...(await db.grading.toArray()).map((r) => r.entry.student.subject),
    ...(await db.watching.toArray()).map((r) => r.student?.subject),
  ]
  it('is deleted here once it is on the server, and nothing of others', async () => {
    await fill()
    expect(await forgetStudent(student)).toBe(3)
    expect(await left()).toEqual(['s2', 's2', 's2'])
  })
  it('stays where the server could not delete it', async () => {
    await fill()
    state = 'down'
    await expect(forgetStudent(student)).rejects.toThrow('The server does not answer.')
    expect(await left()).toHaveLength(6)
  })
})

describe('what was sent back', () => {
  const sent = (seq: number, id: string, subject = 's1'): StoredEvent => ({
    ...{ seq, receivedAt: '2026-11-21T10:00:00.000Z', placeId: 'pl', student: { ...student, subject } },
    event: {
      id,
      kind: 'answer',
      questionId: 'q',
      answer: { kind: 'one-right', choice: 'a' },
      at: '2026-11-21T10:00:00.000Z',
    },
  })
  const known = async () => (await placeHistory(row)).events.map((e) => [e.student.subject, e.event.id, e.seq])
  it('is pulled from where the last pull ended, each once, and joins what its student sent before', async () => {
    events = [sent(1, 'a'), sent(2, 'b', 's2')]
    expect(await pullResults(row)).toBe(2)
    expect(await pullResults(row)).toBe(0)
    // An event that the server numbered anew after it had to read its journal again.
    events = [sent(3, 'c'), sent(4, 'a')]
    expect(await pullResults(row)).toBe(1)
    expect(await known()).toEqual([
      ['s1', 'c', 3],
      ['s1', 'a', 4],
      ['s2', 'b', 2],
    ])
  })
  it('wakes nobody when nothing came', async () => {
    await pullResults(row)
    let reads = 0
    const following = liveQuery(() => {
      reads++
      return Promise.all([db.sentBack.toArray(), db.rosters.toArray(), db.places.toArray(), db.grading.toArray()])
    }).subscribe(() => undefined)
    await vi.waitFor(() => expect(reads).toBe(1))
    await pullResults(row)
    await new Promise((resolve) => setTimeout(resolve, 100))
    expect(reads).toBe(1)
    following.unsubscribe()
  })
})

describe('what was decided', () => {
  it('is kept here first, and goes to the server in the order of deciding', async () => {
    state = 'down'
    expect(await decide(row, [points(1), points(2)])).toMatch(/does not answer/)
    expect(await decide(row, [points(3)])).toMatch(/does not answer/)
    expect(await given()).toEqual([1, 2, 3])
    state = 'up'
    expect(await sendDecisions('pl')).toBe('')
    expect(kept.map(({ entry }) => 'points' in entry && entry.points)).toEqual([1, 2, 3])
    expect(await given()).toEqual([1, 2, 3])
  })
  it('is there once when the answer of the server was lost, or two tabs send it', async () => {
    state = 'answers are lost'
    await decide(row, [points(1)])
    state = 'up'
    expect(await Promise.all([sendDecisions('pl'), sendDecisions('pl')])).toEqual(['', ''])
    await pullResults(row)
    expect([kept.length, await given()]).toEqual([1, [1]])
  })
  it('goes in the order of deciding also when the clock was set back', async () => {
    state = 'down'
    vi.useFakeTimers({ now: Date.parse('2026-12-01T12:00:00Z'), toFake: ['Date'] })
    await decide(row, [points(1)])
    vi.setSystemTime(Date.parse('2026-11-01T12:00:00Z'))
    await decide(row, [points(2)])
    vi.useRealTimers()
    expect(await given()).toEqual([1, 2])
  })
  it('comes from others too, and what is not sent here stands after it', async () => {
    const entry = { ...points(9), id: 'theirs', at: '2030-01-01T00:00:00.000Z' } as StoredGrading['entry']
    kept = [{ seq: 1, receivedAt: entry.at, placeId: 'pl', entry }]
    state = 'down'
    await decide(row, [points(1)])
    state = 'up'
    await pullResults(row)
    expect(await given()).toEqual([9, 1])
  })
})
