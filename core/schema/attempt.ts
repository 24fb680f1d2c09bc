/**
 * What a student's player sends, and what the server keeps: events, appended and never changed. The id of an
 * event is made in the student's browser, so that the same event sent twice is seen to be the same.
 */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Instant, Line } from './parts'

/** From the student's browser. `select` keeps a choice that is not handed in yet; `answer` hands it in. */
export const AttemptEvent = Type.Object(
  {
    id: Id,
    kind: Type.Union([Type.Literal('select'), Type.Literal('answer')]),
    questionId: Id,
    choiceId: Id,
    /** The student's own clock; for reading only, order is the server's. */
    at: Instant,
  },
  closed,
)
export type AttemptEvent = Static<typeof AttemptEvent>

export const AttemptEvents = Type.Object({ events: Type.Array(AttemptEvent, { minItems: 1, maxItems: 100 }) }, closed)

export const Student = Type.Object({ id: Id, name: Line(120) }, closed)
export type Student = Static<typeof Student>

/** As the server stored it. `seq` grows by one within a publication. */
export const StoredEvent = Type.Object({ seq: Type.Integer({ minimum: 1 }), receivedAt: Instant, placeId: Id, student: Student, event: AttemptEvent }, { ...closed, $id: 'thaw-response-1' })
export type StoredEvent = Static<typeof StoredEvent>

export const StoredEvents = Type.Array(StoredEvent)
