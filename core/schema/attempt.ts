/**
 * What a student's player sends, and what the server keeps: events, appended and never changed. The id of an
 * event is made in the student's browser, so that the same event sent twice is seen to be the same.
 */
import { Type, type Static } from '@sinclair/typebox'
import { Answer } from '../questions/kinds/schemas'
import { closed, Id, Instant, oneOf } from './parts'

const common = {
  id: Id,
  /** The student's own clock; for reading only, order is the server's. */
  at: Instant,
  /**
   * The version of the set that the student saw, or of the publication, from players of when it had only one set;
   * absent, what counts when it arrives.
   */
  version: Type.Optional(Id),
  /** Which attempt at the set it belongs to; absent, the first. */
  attempt: Type.Optional(Type.Integer({ minimum: 1, maximum: 1000 })),
}

/** `select` keeps an answer that is not handed in yet; `answer` gives it. */
export const AnswerEvent = Type.Object(
  {
    ...common,
    kind: oneOf('select', 'answer'),
    questionId: Id,
    answer: Answer,
    /** For how long the question was in front of the student before this answer, s. */
    took: Type.Optional(Type.Number({ minimum: 0, maximum: 86_400 })),
    /** Whether the hint was read before it. */
    hinted: Type.Optional(Type.Boolean()),
  },
  closed,
)
export type AnswerEvent = Static<typeof AnswerEvent>

/** `begin` opens a further attempt at a set; `hand-in` ends one. */
export const SetEvent = Type.Object({ ...common, kind: oneOf('begin', 'hand-in'), version: Id }, closed)
export type SetEvent = Static<typeof SetEvent>

/** From the student's browser. Its kind says which of the shapes it is, and the checker tries no other. */
export const AttemptEvent = Type.Unsafe<AnswerEvent | SetEvent>({
  type: 'object',
  properties: { kind: { type: 'string' } },
  required: ['kind'],
  discriminator: { propertyName: 'kind' },
  oneOf: [AnswerEvent, SetEvent],
})
export type AttemptEvent = Static<typeof AttemptEvent>

export const isAnswerEvent = (event: AttemptEvent): event is AnswerEvent =>
  event.kind === 'select' || event.kind === 'answer'

export const AttemptEvents = Type.Object(
  {
    /** Each is looked at by itself, so that one that cannot be taken does not hold up the others. */
    events: Type.Array(Type.Unknown(), { minItems: 1, maxItems: 100 }),
    told: Type.Optional(
      Type.String({
        maxLength: 1 << 15,
        description: 'marks of the view that the sender has, which is then told no more than what differs',
      }),
    ),
  },
  closed,
)

/** An event that the server will never take, by its id or, when it has none, its place in the batch. */
export interface RefusedEvent {
  id: string
  /** A sentence for the student. */
  why: string
}

/** What a site says of somebody: not empty, on one line. */
const Claim = Type.String({ minLength: 1, maxLength: 255, pattern: '^[^\\u0000-\\u001f]*$' })

/** Somebody who watches and answers; told from others by issuer and subject (`core/course/people.ts`). */
export const Student = Type.Object({ issuer: Claim, subject: Claim, name: Type.Optional(Claim) }, closed)
export type Student = Static<typeof Student>

const received = { receivedAt: Instant, placeId: Id, student: Student, event: AttemptEvent }

/** As it came in. */
export const ReceivedEvent = Type.Object(received, closed)
export type ReceivedEvent = Static<typeof ReceivedEvent>

/** As the server stored it. `seq` grows from one event of a place to the next, but not by one. */
export const StoredEvent = Type.Object(
  { seq: Type.Integer({ minimum: 1 }), ...received },
  { ...closed, $id: 'thaw-response-4' },
)
export type StoredEvent = Static<typeof StoredEvent>

/** What a student has begun to answer and not handed in, by question. */
export const Selections = Type.Object(
  { answers: Type.Record(Id, Type.Object({ attempt: Type.Integer({ minimum: 1 }), answer: Answer }, closed)) },
  closed,
)
export type Selections = Static<typeof Selections>
