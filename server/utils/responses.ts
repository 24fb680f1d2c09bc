/**
 * What students send back: one stored item per event, numbered, never changed. An event id that comes twice is
 * kept once. Numbers and ids are held in memory after the first read; writes go one at a time per publication.
 */
import type { AttemptEvent, StoredEvent, Student } from '#core/schema/attempt'
import { StoredEvent as StoredEventSchema } from '#core/schema/attempt'
import { parseAs } from '#core/schema/validate'
import { inTurn, keysBelow, store } from './storage'

const journals = new Map<string, StoredEvent[]>()
const base = (publicationId: string) => `responses:${publicationId}`

async function journal(publicationId: string): Promise<StoredEvent[]> {
  const known = journals.get(publicationId)
  if (known) return known
  const events: StoredEvent[] = []
  for (const key of (await keysBelow(base(publicationId))).sort())
    events.push(parseAs(StoredEventSchema, await store().getItem(`${base(publicationId)}:${key}`), 'stored response'))
  journals.set(publicationId, events)
  return events
}

/** Appends events of one student; those already there are passed over. */
export function appendEvents(publicationId: string, placeId: string, student: Student, events: readonly AttemptEvent[]): Promise<void> {
  return inTurn(base(publicationId), async () => {
    const kept = await journal(publicationId)
    for (const event of events) {
      if (kept.some((k) => k.event.id === event.id && k.student.id === student.id)) continue
      const seq = (kept.at(-1)?.seq ?? 0) + 1
      const stored: StoredEvent = { seq, receivedAt: new Date().toISOString(), placeId, student, event }
      await store().setItem(`${base(publicationId)}:${String(seq).padStart(9, '0')}`, stored)
      kept.push(stored)
    }
  })
}

/** Events after `seq`, in order. */
export function readEvents(publicationId: string, after = 0): Promise<StoredEvent[]> {
  return inTurn(base(publicationId), async () => (await journal(publicationId)).filter((e) => e.seq > after))
}
