/**
 * The activity log: what somebody who signed in as the author did on the server, and whose results were read. Entries are
 * appended and never changed.
 */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Instant, Line, oneOf } from './parts'

/** What is logged, and its name for reading. */
export const auditActions = {
  'signed-in': 'Signed in',
  'wrong-key': 'Wrong key',
  published: 'Published',
  'published-captions': 'Published captions',
  'published-questions': 'Published questions',
  'changed-rules': 'Changed rules',
  'removed-earlier': 'Removed earlier versions',
  placed: 'Released',
  withdrawn: 'Taken off',
  graded: 'Graded',
  'read-results': 'Read results',
  'deleted-student': 'Deleted a student’s data',
  'deleted-by-age': 'Deleted what was too old',
} as const
export type AuditAction = keyof typeof auditActions

export const AuditEntry = Type.Object(
  {
    id: Id,
    /** The server's clock. */
    at: Instant,
    action: oneOf(...(Object.keys(auditActions) as AuditAction[])),
    /** Network address that it was done from, behind trusted proxies too, IPv4 or IPv6; or that the server did it by itself. */
    from: Line(64),
    /** The publication or the place that it was done to; absent for what concerns neither. */
    publicationId: Type.Optional(Id),
    placeId: Type.Optional(Id),
    /** Particulars for reading, such as a title as it was then. */
    says: Line(1000),
  },
  closed,
)
export type AuditEntry = Static<typeof AuditEntry>
/** As the server tells it. `seq` grows from one entry to the next, but not by one. */
export const StoredAuditEntry = Type.Object({ ...AuditEntry.properties, seq: Type.Integer({ minimum: 1 }) }, closed)
export type StoredAuditEntry = Static<typeof StoredAuditEntry>
export const Activity = Type.Object({ entries: Type.Array(StoredAuditEntry) }, closed)
export type Activity = Static<typeof Activity>
