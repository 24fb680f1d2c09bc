import { describe, expect, it } from 'vitest'
import { parseStretches } from '#core/results/played'
import { parseAs } from '#core/schema/validate'
import { extensions, verbs, WatchStatement } from '#core/schema/watching'
import { Refused } from './gateway'
import { Watching } from './watching'

const verbOf = (s: WatchStatement) => Object.entries(verbs).find(([, id]) => id === s.verb.id)?.[0]
const playedOf = (s: WatchStatement | undefined) => parseStretches(s?.result?.extensions[extensions.segments] ?? '')
const sessionOf = (s: WatchStatement | undefined) => s?.context.extensions[extensions.session]

/** A device: what it keeps outlives its pages. */
function device({ sumsOnly = false } = {}) {
  const kept = new Map<string, string>()
  const arrived: WatchStatement[] = []
  const plans: { ms: number; run: () => void }[] = []
  let ids = 0
  const bench = {
    ...{ kept, arrived, plans, now: Date.parse('2026-11-23T10:00:00Z'), clock: 0 },
    ...{ isFull: false, trouble: null as Error | null },
    page: () =>
      new Watching({
        storage: {
          getItem: (k) => kept.get(k) ?? null,
          setItem(k, v) {
            if (bench.isFull) throw new DOMException('full', 'QuotaExceededError')
            kept.set(k, v)
          },
          removeItem: (k) => void kept.delete(k),
        },
        ...{ key: 'watched', sumsOnly, sitting: { placeId: 'p', version: 'v1', length: 100 } },
        async send(statements) {
          await Promise.resolve()
          if (bench.trouble) throw bench.trouble
          // As the server reads them.
          arrived.push(...statements.map((s) => parseAs(WatchStatement, JSON.parse(JSON.stringify(s)), 'statement')))
        },
        ...{ now: () => bench.now, clock: () => bench.clock },
        id: () => `00000000-0000-4000-8000-${String(++ids).padStart(12, '0')}`,
        later: (ms, run) => plans.push({ ms, run }),
      }),
    pass(seconds: number) {
      bench.now += 1000 * seconds
      bench.clock += 1000 * seconds
    },
    /** Plays on from one instant to another, as a film tells of it. */
    watch(w: Watching, from: number, to: number, speed = 1) {
      w.play(from, speed)
      for (let t = from; t < to; t += 0.25 * speed) {
        bench.pass(0.25)
        w.go(Math.min(to, t + 0.25 * speed), speed)
      }
    },
  }
  return bench
}

describe('what a player reports', () => {
  it('is what played, in one sitting, as statements of the profile', async () => {
    const d = device()
    const w = d.page()
    d.watch(w, 0, 10)
    w.pause(10)
    d.pass(60)
    d.watch(w, 10, 20)
    w.seeking()
    w.seeked(80)
    d.watch(w, 80, 100)
    w.end(100)
    await w.flush()
    expect(d.arrived.map(verbOf)).toEqual([
      ...['initialized', 'played', 'paused', 'played', 'seeked', 'paused', 'completed'],
    ])
    expect(new Set(d.arrived.map(sessionOf)).size).toBe(1)
    expect(playedOf(d.arrived.at(-1))).toEqual([
      [0, 20],
      [80, 100],
    ])
    expect(d.arrived[4]?.result?.extensions).toMatchObject({ [extensions.timeFrom]: 20, [extensions.timeTo]: 80 })
    expect(d.kept.size).toBe(0)
  })
  it('is not a tab that is open, nor what was only jumped over', async () => {
    const d = device()
    const w = d.page()
    w.play(0, 1)
    d.pass(600)
    w.go(0, 1)
    w.pause(0)
    await w.flush()
    expect(playedOf(d.arrived.at(-1))).toEqual([])
  })
  it('waits without a connection, over a reload too, and arrives once', async () => {
    const d = device()
    d.trouble = new TypeError('Failed to fetch')
    const w = d.page()
    d.watch(w, 0, 10)
    w.pause(10)
    await w.flush()
    expect([d.arrived, d.kept.size]).toEqual([[], 1])
    d.trouble = null
    const again = d.page()
    await Promise.all([again.flush(), again.flush(), w.flush()])
    const ids = d.arrived.map((s) => s.id)
    // Two pages may both send it; the server keeps it once, by its id.
    expect(new Set(ids).size).toBe(3)
    expect(playedOf(d.arrived.findLast((s) => verbOf(s) === 'paused'))).toEqual([[0, 10]])
    expect(d.kept.size).toBe(0)
  })
  it('of a page that was killed is told by the next one, not while it may still play', async () => {
    const d = device()
    d.watch(d.page(), 0, 30)
    const soon = d.page()
    await soon.flush()
    expect(d.arrived.map(verbOf)).toEqual(['initialized', 'played'])
    d.pass(120)
    const next = d.page()
    await next.flush()
    const last = d.arrived.at(-1)
    expect(last && verbOf(last)).toBe('terminated')
    const [[from, to] = [0, 0]] = playedOf(last)
    // As it was last taken down.
    expect([from, to > 24 && to <= 30]).toEqual([0, true])
    expect(sessionOf(last)).toBe(sessionOf(d.arrived[0]))
  })
  it('is said when the page is put away, and not lost where the device is full', async () => {
    const d = device()
    d.isFull = true
    const w = d.page()
    d.watch(w, 0, 10)
    w.leave(true)
    await w.flush()
    expect(d.arrived.map(verbOf)).toEqual(['initialized', 'played', 'terminated'])
    expect(playedOf(d.arrived.at(-1))).toEqual([[0, 10]])
  })
  it('that the server will never take is let go of, and what comes after is sent', async () => {
    const d = device()
    d.trouble = new Refused('no', true)
    const w = d.page()
    d.watch(w, 0, 5)
    w.pause(5)
    await w.flush()
    d.trouble = null
    d.watch(w, 5, 8)
    w.pause(8)
    await w.flush()
    expect(d.arrived.map(verbOf)).toEqual(['played', 'paused'])
    expect(playedOf(d.arrived.at(-1))).toEqual([[0, 8]])
  })
  it('stays small without a connection for days, and keeps what says most', async () => {
    const d = device()
    d.trouble = new TypeError('Failed to fetch')
    const w = d.page()
    for (let i = 0; i < 700; i++) {
      d.watch(w, 10_000 + 10 * i, 10_001 + 10 * i)
      w.pause(10_001 + 10 * i)
      d.pass(60)
    }
    await w.flush()
    const text = d.kept.get('watched') ?? '{}'
    const { waiting } = JSON.parse(text) as { waiting: WatchStatement[] }
    expect(waiting.length).toBeLessThanOrEqual(400)
    expect(text.length).toBeLessThan(2_000_000)
    expect(playedOf(waiting.at(-1)).length).toBe(700)
  })
  it('ties nothing to anything else where only sums are kept', async () => {
    const d = device({ sumsOnly: true })
    const w = d.page()
    d.watch(w, 0, 10)
    w.pause(10)
    d.watch(w, 10, 20)
    w.end(20)
    await w.flush()
    expect(d.arrived.map(playedOf)).toEqual([[[0, 10]], [[10, 20]]])
    expect(new Set(d.arrived.map(sessionOf)).size).toBe(2)
  })
})
