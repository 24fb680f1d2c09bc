import { personKey } from '#core/course/people'
import type { StoredEvent } from '#core/schema/attempt'
import type { SentBackRow } from './database'

/** Adds an event to the row of its student, once. @returns how many were added */
export function addSent(rows: Map<string, SentBackRow>, stored: StoredEvent): 0 | 1 {
  const { placeId, student, seq, receivedAt, event } = stored
  const who = personKey(student)
  const row = rows.get(who) ?? { placeId, who, student, seq, events: [] }
  rows.set(who, row)
  const at = row.events.findIndex((e) => e.event.id === event.id)
  // The server may number anew what it had to read again.
  if (at >= 0) row.events.splice(at, 1)
  row.events.push({ seq, receivedAt, event })
  row.seq = Math.max(row.seq, seq)
  row.student = student
  return at >= 0 ? 0 : 1
}
