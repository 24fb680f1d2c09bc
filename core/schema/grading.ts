/**
 * What a person decides about answers: points and comments of a marker, and everything else by which a result differs
 * from what the key alone says. Entries are appended and never changed; the last about a question holds, and all of
 * them together are the log.
 */
import { Type, type Static } from '@sinclair/typebox'
import { Student } from './attempt'
import { closed, Id, Instant, Prose } from './parts'

const Points = Type.Number({ minimum: 0, maximum: 1000 })
const Reason = Type.String({ minLength: 1, maxLength: 1000, pattern: '\\S' })

const common = {
  id: Id,
  /** The clock of whoever decided; for reading only, order is the server's. */
  at: Instant,
  student: Student,
  /** Id of the set. */
  set: Id,
}
const ofAttempt = { ...common, attempt: Type.Integer({ minimum: 1, maximum: 1000 }) }
const ofQuestion = { ...ofAttempt, questionId: Id }

/** Points for one answer of those that a person marks. */
export const MarkEntry = Type.Object(
  {
    ...{ ...ofQuestion, kind: Type.Literal('mark') },
    /** Id of the event that gave the answer: one that is given later is another, and not marked by this. */
    answerId: Id,
    points: Points,
    /** Of the lines of the rubric, by their ids. */
    rubric: Type.Record(Id, Points),
    /** For the student. */
    comment: Prose(4000),
  },
  closed,
)
export type MarkEntry = Static<typeof MarkEntry>

/** Points in place of those that were earned; null takes that back. */
export const OverrideEntry = Type.Object(
  {
    ...{ ...ofQuestion, kind: Type.Literal('override') },
    points: Type.Union([Points, Type.Null()]),
    reason: Reason,
  },
  closed,
)
export type OverrideEntry = Static<typeof OverrideEntry>

/** Whether the question counts for this student at all, in any attempt. */
export const ExcuseEntry = Type.Object(
  { ...common, questionId: Id, kind: Type.Literal('excuse'), excused: Type.Boolean(), reason: Reason },
  closed,
)
export type ExcuseEntry = Static<typeof ExcuseEntry>

/** The version of the set by whose key the answer counts, in place of the one that the student saw. */
export const RegradeEntry = Type.Object(
  { ...ofQuestion, kind: Type.Literal('regrade'), version: Id, reason: Reason },
  closed,
)
export type RegradeEntry = Static<typeof RegradeEntry>

/** Whether the student is told what was marked in an attempt. */
export const ReleaseEntry = Type.Object(
  { ...ofAttempt, kind: Type.Literal('release'), released: Type.Boolean() },
  closed,
)
export type ReleaseEntry = Static<typeof ReleaseEntry>

export type GradingEntry = MarkEntry | OverrideEntry | ExcuseEntry | RegradeEntry | ReleaseEntry
export const GradingEntry = Type.Unsafe<GradingEntry>({
  type: 'object',
  properties: { kind: { type: 'string' } },
  required: ['kind'],
  discriminator: { propertyName: 'kind' },
  oneOf: [MarkEntry, OverrideEntry, ExcuseEntry, RegradeEntry, ReleaseEntry],
})

/** As an author sends them. */
export const GradingEntries = Type.Object({ entries: Type.Array(GradingEntry, { minItems: 1, maxItems: 500 }) }, closed)

const received = { receivedAt: Instant, placeId: Id, entry: GradingEntry }
/** As it came in. */
export const ReceivedGrading = Type.Object(received, closed)
export type ReceivedGrading = Static<typeof ReceivedGrading>

/** As the server stored it. `seq` grows from one entry of a place to the next, but not by one. */
export const StoredGrading = Type.Object(
  { seq: Type.Integer({ minimum: 1 }), ...received },
  { ...closed, $id: 'thaw-grading-1' },
)
export type StoredGrading = Static<typeof StoredGrading>
