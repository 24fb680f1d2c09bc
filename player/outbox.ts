/**
 * Answers on their way: kept on this device until the server has them, in the order they were given, so that a
 * closed tab or a lost connection loses none. Sending one twice is harmless, as each has an id of its own.
 */
import { upgradeAnswer } from '#core/questions/upgrade'
import type { AttemptEvent } from '#core/schema/attempt'
import { Refused, type Sent } from './gateway'

export interface OutboxState {
  waiting: number
  /** What does not work just now, or was refused for good, as a sentence; empty when all is well. */
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
  send(events: readonly AttemptEvent[]): Promise<Sent>
  onAccepted(sent: Sent): void
  onState(state: OutboxState): void
  /** Calls back after `ms`. */
  later(ms: number, run: () => void): void
}

const RETRY = [1000, 2000, 5000, 10_000, 30_000]
/** Events sent at once. */
const BATCH = 100
const DEVICE_FULL = 'This device keeps nothing more. Stay on this page until your answer is sent.'

const sayRefused = (refused: Sent['refused']): string =>
  refused.length === 0
    ? ''
    : `${refused.length === 1 ? 'One answer' : `${refused.length} answers`} could not be taken. ${refused[0]?.why ?? ''}`

export function createOutbox({ storage, key, send, onAccepted, onState, later }: OutboxPorts): Outbox {
  let sending: Promise<void> | null = null
  let failures = 0
  let retryPlanned = false
  /** What did not fit into the storage; gone with the page. */
  let unkept: AttemptEvent[] = []

  const read = (): AttemptEvent[] => {
    const text = storage.getItem(key)
    if (text === null) return [...unkept]
    try {
      const events: unknown = JSON.parse(text)
      // Kept by a player of before an update, perhaps.
      return [...(Array.isArray(events) ? (events.map(upgradeAnswer) as AttemptEvent[]) : []), ...unkept]
    } catch {
      // Only a torn write gets here; nothing of it could be sent.
      return [...unkept]
    }
  }
  const write = (events: AttemptEvent[]): void => {
    try {
      if (events.length) storage.setItem(key, JSON.stringify(events))
      else storage.removeItem(key)
      unkept = []
    } catch {
      // The storage is full and keeps what it had; the rest is held by the page, and sent before anything else is
      // tried.
      const kept = new Set((JSON.parse(storage.getItem(key) ?? '[]') as AttemptEvent[]).map((e) => e.id))
      unkept = events.filter((e) => !kept.has(e.id))
    }
  }
  const drop = (sent: readonly AttemptEvent[]) => write(read().filter((e) => !sent.some((s) => s.id === e.id)))
  const tell = (trouble = '') =>
    onState({ waiting: read().length, trouble: trouble || (unkept.length ? DEVICE_FULL : '') })

  const sendAll = async () => {
    let most = BATCH
    let refused: Sent['refused'] = []
    for (let batch = read().slice(0, most); batch.length > 0; batch = read().slice(0, most)) {
      try {
        const sent = await send(batch)
        drop(batch)
        failures = 0
        refused = [...refused, ...sent.refused]
        onAccepted(sent)
        tell(sayRefused(refused))
      } catch (error) {
        if (error instanceof Refused && error.final && batch.length > 1) {
          // Something in it is refused as a whole: one by one, so that only that leaves.
          most = 1
          continue
        }
        if (error instanceof Refused && error.final) {
          refused = [...refused, { id: batch[0]?.id ?? '', why: error.message }]
          drop(batch)
          tell(sayRefused(refused))
          continue
        }
        tell(
          error instanceof Refused
            ? `${error.message} Your answer is kept on this device.`
            : 'There is no connection. Your answer is kept on this device and sent as soon as there is one.',
        )
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
      const replaces = (e: AttemptEvent) =>
        e.kind === 'select' && 'questionId' in event && e.questionId === event.questionId
      write([...read().filter((e) => !replaces(e)), event])
      tell()
      await outbox.flush()
    },
    async flush() {
      while (sending) await sending
      if (read().length === 0) return
      sending = sendAll().finally(() => {
        sending = null
      })
      await sending
    },
    waiting: read,
  }
  return outbox
}
