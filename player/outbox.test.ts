import { describe, expect, it } from 'vitest'
import type { WatchView } from '#core/packages/watch-view'
import type { AnswerEvent, AttemptEvent } from '#core/schema/attempt'
import { Refused, type Sent } from './gateway'
import { createOutbox, type OutboxState } from './outbox'

const event = (id: string, kind: AnswerEvent['kind'] = 'answer', questionId = 'q1'): AnswerEvent => ({
  id,
  kind,
  questionId,
  answer: { kind: 'one-right', choice: 'a' },
  at: '2026-11-23T10:00:00.000Z',
})

function bench(answer: (events: readonly AttemptEvent[]) => Sent | Error) {
  const kept = new Map<string, string>()
  const sent: string[][] = []
  const states: OutboxState[] = []
  const retries: { ms: number; run: () => void }[] = []
  const accepted: Sent[] = []
  const make = () =>
    createOutbox({
      storage: {
        getItem: (k) => kept.get(k) ?? null,
        setItem(k, v) {
          if (bench.full && v.length > (kept.get(k)?.length ?? 0)) throw new DOMException('full', 'QuotaExceededError')
          kept.set(k, v)
        },
        removeItem: (k) => void kept.delete(k),
      },
      key: 'box',
      async send(events) {
        sent.push(events.map((e) => e.id))
        const reply = answer(events)
        if (reply instanceof Error) throw reply
        return reply
      },
      onAccepted: (view) => accepted.push(view),
      onState: (state) => states.push(state),
      later: (ms, run) => retries.push({ ms, run }),
    })
  const bench = { make, kept, sent, states, retries, accepted, full: false }
  return bench
}
const view: Sent = { view: {} as WatchView, refused: [] }
const offline = () => new TypeError('Failed to fetch')

describe('answers on their way', () => {
  it('are sent at once and forgotten when they arrived', async () => {
    const b = bench(() => view)
    await b.make().add(event('1'))
    expect(b.sent).toEqual([['1']])
    expect(b.kept.size).toBe(0)
    expect(b.accepted).toEqual([view])
    expect(b.states.at(-1)).toEqual({ waiting: 0, trouble: '' })
  })
  it('outlive a closed tab', async () => {
    const down = bench(offline)
    await down.make().add(event('1'))
    const up = bench(() => view)
    up.kept.set('box', down.kept.get('box') ?? '')
    await up.make().flush()
    expect(up.sent).toEqual([['1']])
    expect(up.kept.size).toBe(0)
  })
  it('wait for the connection, in their order, and say so', async () => {
    let connected = false
    const b = bench(() => (connected ? view : offline()))
    const box = b.make()
    await box.add(event('1', 'answer', 'q1'))
    await box.add(event('2', 'answer', 'q2'))
    expect(b.states.at(-1)?.waiting).toBe(2)
    expect(b.states.at(-1)?.trouble).toMatch(/no connection.*kept on this device/i)
    expect(b.retries).toHaveLength(1)
    connected = true
    b.retries[0]?.run()
    await box.flush()
    expect(b.sent.at(-1)).toEqual(['1', '2'])
    expect(box.waiting()).toEqual([])
  })
  it('wait longer after each failure', async () => {
    const b = bench(offline)
    const box = b.make()
    await box.add(event('1'))
    for (let i = 0; i < 3; i++) {
      b.retries.at(-1)?.run()
      await box.flush()
    }
    const waits = b.retries.map((r) => r.ms)
    expect(waits).toEqual([...waits].sort((a, c) => a - c))
    expect(new Set(waits).size).toBeGreaterThan(1)
  })
  it('are kept when the session has ended, and let go when they can never be taken', async () => {
    const ended = bench(() => new Refused('Your session has ended.', false))
    await ended.make().add(event('1'))
    expect(ended.states.at(-1)).toMatchObject({
      waiting: 1,
      trouble: 'Your session has ended. Your answer is kept on this device.',
    })
    const wrong = bench(() => new Refused('This question has no such choice.', true))
    await wrong.make().add(event('1'))
    expect(wrong.states.at(-1)).toEqual({
      waiting: 0,
      trouble: 'One answer could not be taken. This question has no such choice.',
    })
  })
  it('that can be taken arrive, whatever is refused beside them', async () => {
    let connected = false
    const why = 'This lecture has no such question.'
    const b = bench((events) =>
      connected
        ? {
            ...view,
            refused: events.filter((e) => 'questionId' in e && e.questionId === 'q2').map((e) => ({ id: e.id, why })),
          }
        : offline(),
    )
    const box = b.make()
    for (const n of ['1', '2', '3']) await box.add(event(n, 'answer', `q${n}`))
    connected = true
    await box.flush()
    expect(b.sent.at(-1)).toEqual(['1', '2', '3'])
    expect(box.waiting()).toEqual([])
    expect(b.states.at(-1)).toEqual({ waiting: 0, trouble: `One answer could not be taken. ${why}` })
  })
  it('of a batch that is refused as a whole are sent one by one, and only the one leaves', async () => {
    let connected = false
    const b = bench((events) =>
      !connected ? offline() : events.some((e) => e.id === '2') ? new Refused('It makes no sense.', true) : view,
    )
    const box = b.make()
    for (const n of ['1', '2', '3']) await box.add(event(n, 'answer', `q${n}`))
    connected = true
    await box.flush()
    expect(b.sent.slice(-4)).toEqual([['1', '2', '3'], ['1'], ['2'], ['3']])
    expect(b.states.at(-1)).toEqual({ waiting: 0, trouble: 'One answer could not be taken. It makes no sense.' })
  })
  it('are held and sent by the page when the device keeps nothing more', async () => {
    let connected = false
    const b = bench(() => (connected ? view : offline()))
    const box = b.make()
    await box.add(event('1'))
    b.full = true
    await box.add(event('2', 'answer', 'q2'))
    expect(b.states.at(-1)?.waiting).toBe(2)
    connected = true
    await box.flush()
    expect(b.sent.at(-1)).toEqual(['1', '2'])
  })
  it('replace an older selection of the same question, never an answer', async () => {
    const b = bench(offline)
    const box = b.make()
    await box.add(event('1', 'select'))
    await box.add(event('2', 'select'))
    await box.add(event('3', 'answer'))
    await box.add(event('4', 'select', 'q2'))
    expect(box.waiting().map((e) => e.id)).toEqual(['3', '4'])
  })
  it('survive rubbish in the storage', async () => {
    const b = bench(() => view)
    b.kept.set('box', '{torn')
    const box = b.make()
    expect(box.waiting()).toEqual([])
    await box.add(event('1'))
    expect(b.sent).toEqual([['1']])
  })
})
