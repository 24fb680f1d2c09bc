/**
 * Sends a lecture out while it is recorded. Whatever the network does, the recording is not touched: one thing after
 * the other is sent until it has arrived, and what would come too late is let go, as who watches live wants what is
 * now.
 */
import { errorMessage } from '#core/text/error-message'
import type { Bytes } from '#media/broadcast'

/** How to reach who gives it to students. A refusal that sending again cannot mend throws `NotTaken`. */
export interface LivePort {
  /** Begins a run, pauses or ends it. @returns the number of the run */
  transition(to: 'on' | 'paused' | 'ended'): Promise<number>
  init(run: number, bytes: Bytes): Promise<void>
  /** @returns how many watch */
  segment(run: number, n: number, bytes: Bytes, duration: number): Promise<number>
}

export class NotTaken extends Error {
  override name = 'NotTaken'
}

export interface SendingState {
  /** Bytes that have arrived. */
  sent: number
  /** Seconds that wait to be sent. */
  waiting: number
  watching: number
  /** What is wrong, as a sentence; empty when nothing is. */
  trouble: string
}

export interface Sender {
  run(init: Bytes): void
  segment(bytes: Bytes, duration: number): void
  transition(to: 'paused' | 'ended'): void
}

type Item =
  | { do: 'run'; init: Bytes }
  | { do: 'segment'; bytes: Bytes; duration: number }
  | { do: 'transition'; to: 'paused' | 'ended' }

/** More than this does not wait, s. */
const MOST = 20
/** Between two tries, ms. */
const AGAIN = 1000

/**
 * @param onState told whenever something of it changes
 * @param onOverrun told when what waited was let go: a further run has to begin
 * @param wait resolves after so many ms
 */
export function createSender(
  port: LivePort,
  onState: (state: SendingState) => void,
  onOverrun: () => void,
  wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms)),
): Sender {
  let queue: Item[] = []
  let state: SendingState = { sent: 0, waiting: 0, watching: 0, trouble: '' }
  let run = 0
  let n = 0
  let working = false

  const say = (change: Partial<SendingState> = {}) => {
    state = {
      ...state,
      ...change,
      waiting: queue.reduce((sum, item) => sum + (item.do === 'segment' ? item.duration : 0), 0),
    }
    onState(state)
  }

  async function send(item: Item): Promise<void> {
    if (item.do === 'transition') await port.transition(item.to)
    else if (item.do === 'run') {
      run = await port.transition('on')
      n = 0
      await port.init(run, item.init)
    } else {
      const watching = await port.segment(run, n, item.bytes, item.duration)
      n++
      say({ watching, sent: state.sent + item.bytes.byteLength })
    }
  }

  async function work(): Promise<void> {
    if (working) return
    working = true
    for (let item = queue[0]; item; item = queue[0]) {
      try {
        await send(item)
        // It may have been let go meanwhile.
        if (queue[0] === item) queue.shift()
        say({ trouble: '' })
      } catch (error) {
        say({ trouble: errorMessage(error) })
        if (error instanceof NotTaken) {
          if (queue[0] === item) queue.shift()
        } else await wait(AGAIN)
      }
    }
    working = false
  }

  const add = (item: Item) => {
    queue.push(item)
    say()
    if (state.waiting > MOST) {
      // A pause or an end must arrive, however late.
      queue = queue.filter((i) => i.do === 'transition')
      say()
      onOverrun()
    }
    void work()
  }
  return {
    run: (init) => add({ do: 'run', init }),
    segment: (bytes, duration) => add({ do: 'segment', bytes, duration }),
    transition: (to) => add({ do: 'transition', to }),
  }
}
