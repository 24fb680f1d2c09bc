/**
 * Answers on their way: kept on this device until the server has them, in the order they were given, so that a
 * closed tab or a lost connection loses none. Sending one twice is harmless, as each has an id of its own.
 */
import type { WatchView } from '#core/packages/watch-view'
import type { AttemptEvent } from '#core/schema/attempt'
import { Refused } from './gateway'

export interface OutboxState {
  waiting: number
  /** Why sending does not work just now, as a sentence; empty when it does. */
  trouble: string
}

export interface Outbox {
  add(event: AttemptEvent): Promise<void>
  /** Sends what is waiting; safe to call at any time. */
  flush(): Promise<void>
  /** Events kept on this device that the server has not confirmed. */
  waiting(): AttemptEvent[]
}

export interface OutboxPorts {
  storage: Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>
  key: string
  send(events: readonly AttemptEvent[]): Promise<WatchView>
  onAccepted(view: WatchView): void
  onState(state: OutboxState): void
  /** Calls back after `ms`. */
  later(ms: number, run: () => void): void
}

const RETRY = [1000, 2000, 5000, 10_000, 30_000]

export function createOutbox({ storage, key, send, onAccepted, onState, later }: OutboxPorts): Outbox {
  let sending: Promise<void> | null = null
  let failures = 0
  let retryPlanned = false

  const read = (): AttemptEvent[] => {
    const text = storage.getItem(key)
    if (text === null) return []
    try {
      const events: unknown = JSON.parse(text)
      return Array.isArray(events) ? (events as AttemptEvent[]) : []
    } catch {
      // Only a torn write gets here; nothing of it could be sent.
      return []
    }
  }
  const write = (events: AttemptEvent[]) => (events.length ? storage.setItem(key, JSON.stringify(events)) : storage.removeItem(key))
  const drop = (sent: readonly AttemptEvent[]) => write(read().filter((e) => !sent.some((s) => s.id === e.id)))
  const tell = (trouble = '') => onState({ waiting: read().length, trouble })

  const sendAll = async () => {
    for (let batch = read().slice(0, 100); batch.length > 0; batch = read().slice(0, 100)) {
      try {
        const view = await send(batch)
        drop(batch)
        failures = 0
        onAccepted(view)
        tell()
      } catch (error) {
        if (error instanceof Refused && error.final) {
          // The server will never take these as they are: they are let go, and the student is told why.
          drop(batch)
          tell(error.message)
          continue
        }
        tell(error instanceof Refused ? `${error.message} Your answer is kept on this device.` : 'There is no connection. Your answer is kept on this device and sent as soon as there is one.')
        const wait = RETRY[Math.min(failures++, RETRY.length - 1)] ?? 30_000
        if (!retryPlanned) {
          retryPlanned = true
          later(wait, () => {
            retryPlanned = false
            void outbox.flush()
          })
        }
        return
      }
    }
  }

  const outbox: Outbox = {
    async add(event) {
      // A selection that has not gone out yet is replaced by a newer one for the same question.
      write([...read().filter((e) => !(e.kind === 'select' && e.questionId === event.questionId)), event])
      tell()
      await outbox.flush()
    },
    async flush() {
      while (sending) await sending
      if (read().length === 0) return
      sending = sendAll().finally(() => { sending = null })
      await sending
    },
    waiting: read,
  }
  return outbox
}
