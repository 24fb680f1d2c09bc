import { describe, expect, it } from 'vitest'
import type { Bytes } from '#media/broadcast'
import { createSender, NotTaken, type LivePort, type SendingState } from './sending'

const bytes = (n: number): Bytes => new Uint8Array(n)

/** A server that answers when it is told to, and remembers what arrived. */
function bench(fails: () => Error | null = () => null) {
  const arrived: string[] = []
  let run = 0
  const states: SendingState[] = []
  let overruns = 0
  const answer = async <T>(what: string, value: () => T): Promise<T> => {
    await Promise.resolve()
    const error = fails()
    if (error) throw error
    arrived.push(what)
    return value()
  }
  const port: LivePort = {
    transition: (to) => answer(to, () => (to === 'on' ? ++run : run)),
    init: (r) => answer(`init ${r}`, () => undefined),
    segment: (r, n) => answer(`${r}/${n}`, () => 7),
  }
  const waits: (() => void)[] = []
  const sender = createSender(
    port,
    (s) => states.push(s),
    () => overruns++,
    () => new Promise((resolve) => waits.push(resolve)),
  )
  const settle = async () => {
    for (let i = 0; i < 40; i++) await Promise.resolve()
  }
  return {
    sender,
    arrived,
    states,
    settle,
    waits,
    overruns: () => overruns,
    retry: async () => {
      waits.splice(0).forEach((go) => go())
      await settle()
    },
  }
}

describe('a lecture that is sent out', () => {
  it('arrives run by run, each with its init first and its segments counted from 0', async () => {
    const b = bench()
    b.sender.run(bytes(10))
    b.sender.segment(bytes(100), 1.5)
    b.sender.segment(bytes(100), 1.5)
    b.sender.transition('paused')
    b.sender.run(bytes(10))
    b.sender.segment(bytes(100), 1.5)
    b.sender.transition('ended')
    await b.settle()
    expect(b.arrived).toEqual(['on', 'init 1', '1/0', '1/1', 'paused', 'on', 'init 2', '2/0', 'ended'])
    expect(b.states.at(-1)).toEqual({ sent: 300, waiting: 0, watching: 7, trouble: '' })
  })
  it('waits for the connection, says so, and goes on where it was', async () => {
    let connected = false
    const b = bench(() => (connected ? null : new Error('The server does not answer.')))
    b.sender.run(bytes(10))
    b.sender.segment(bytes(100), 1.5)
    await b.settle()
    expect(b.states.at(-1)).toMatchObject({ sent: 0, waiting: 1.5, trouble: 'The server does not answer.' })
    connected = true
    await b.retry()
    expect(b.arrived).toEqual(['on', 'init 1', '1/0'])
    expect(b.states.at(-1)?.trouble).toBe('')
  })
  it('lets go of what would come too late, asks for a further run, and still says that it ended', async () => {
    let connected = true
    const b = bench(() => (connected ? null : new Error('No.')))
    b.sender.run(bytes(10))
    b.sender.segment(bytes(100), 1.5)
    await b.settle()
    connected = false
    for (let i = 0; i < 14; i++) b.sender.segment(bytes(100), 1.5)
    await b.settle()
    expect(b.overruns()).toBe(1)
    expect(b.states.at(-1)?.waiting).toBe(0)
    b.sender.run(bytes(10))
    b.sender.segment(bytes(100), 1.5)
    b.sender.transition('ended')
    connected = true
    await b.retry()
    expect(b.arrived).toEqual(['on', 'init 1', '1/0', 'on', 'init 2', '2/0', 'ended'])
  })
  it('passes over what is refused for good, and says why', async () => {
    let first = true
    const b = bench(() => {
      if (!first) return null
      first = false
      return new NotTaken('This run is over.')
    })
    b.sender.segment(bytes(100), 1.5)
    b.sender.run(bytes(10))
    await b.settle()
    expect(b.states.some((s) => s.trouble === 'This run is over.')).toBe(true)
    expect(b.arrived).toEqual(['on', 'init 1'])
    expect(b.waits).toHaveLength(0)
  })
})
