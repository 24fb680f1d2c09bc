/**
 * A lecture as one archive: `lecture.json`, which is this, and its recordings, pictures and videos as files beside it
 * (`docs/formats.md`). What can be found out from the recordings again is not in it.
 */
import { Type, type Static } from '@sinclair/typebox'
import { Course, Lecture, Take } from './lecture'
import { closed, Id, Instant, Line, Prose, Sha256 } from './parts'
import { Term } from './term'

/** What a document is called (`core/documents/kinds.ts`): its kind, by which it is checked, and what further ones have behind it. */
const ArchivedName = Type.String({ pattern: '^(edit|captions|chapters|links|questions)(-[A-Za-z0-9-]{1,60})?$' })
/** Something with an id, or null where it was not there. */
const Side = Type.Union([Type.Object({ id: Type.String({ maxLength: 100 }) }), Type.Null()])
/** Where a file stands in the archive. */
const Path = Type.String({ pattern: '^(media|assets)/[^/\\\\\\u0000-\\u001f]{1,200}$' })
const FieldName = Type.String({ minLength: 1, maxLength: 60 })

/** A step of a document's history (`core/documents/history.ts`). */
export const ArchivedStep = Type.Object(
  {
    says: Prose(1000),
    doneAt: Instant,
    field: Type.Optional(Prose(500)),
    change: Type.Object(
      {
        items: Type.Array(
          Type.Object({ list: FieldName, id: Type.String({ maxLength: 100 }), before: Side, after: Side }, closed),
          { maxItems: 50_000 },
        ),
        fields: Type.Array(Type.Object({ field: FieldName, before: Type.Unknown(), after: Type.Unknown() }, closed), {
          maxItems: 100,
        }),
      },
      closed,
    ),
  },
  closed,
)
export type ArchivedStep = Static<typeof ArchivedStep>

/** A picture or video that the edit puts in or lays over; the edit names it by its hash. */
const ArchivedAsset = Type.Object(
  {
    hash: Sha256,
    path: Path,
    kind: Type.Union([Type.Literal('picture'), Type.Literal('video')]),
    name: Line(1000),
    type: Line(200),
    size: Type.Integer({ minimum: 0 }),
    width: Type.Integer({ minimum: 0, maximum: 65_536 }),
    height: Type.Integer({ minimum: 0, maximum: 65_536 }),
    duration: Type.Number({ minimum: 0, maximum: 86_400 }),
    sound: Type.Boolean(),
  },
  closed,
)

export const LectureArchive = Type.Object(
  {
    format: Type.Literal('thaw-lecture'),
    version: Type.Literal(2),
    madeAt: Instant,
    /** The course that it stood in, and the course's term; null when it stood in none. */
    stood: Type.Union([Type.Object({ course: Course, term: Term }, closed), Type.Null()]),
    lecture: Lecture,
    /** Whole ones only; their feeds name `files`. */
    takes: Type.Array(Take, { maxItems: 1000 }),
    /** What the feeds of the takes name. */
    files: Type.Array(
      Type.Object(
        { id: Id, path: Path, name: Line(1000), type: Line(200), size: Type.Integer({ minimum: 1 }) },
        closed,
      ),
      { maxItems: 20_000 },
    ),
    assets: Type.Array(ArchivedAsset, { maxItems: 20_000 }),
    documents: Type.Array(
      Type.Object(
        {
          kind: ArchivedName,
          document: Type.Unknown(),
          steps: Type.Array(ArchivedStep, { maxItems: 1000 }),
          /** How many of the steps hold. */
          applied: Type.Integer({ minimum: 0, maximum: 1000 }),
        },
        closed,
      ),
      { maxItems: 100 },
    ),
    revisions: Type.Array(
      Type.Object({ name: Line(200), madeAt: Instant, documents: Type.Record(ArchivedName, Sha256, closed) }, closed),
      { maxItems: 5000 },
    ),
    /** What revisions say, by the SHA-256 of its canonical JSON. */
    contents: Type.Array(Type.Object({ hash: Sha256, document: Type.Unknown() }, closed), { maxItems: 25_000 }),
    /** Starts of proposed cuts that a person decided to leave, s of the take. */
    left: Type.Array(
      Type.Object({ takeId: Id, starts: Type.Array(Type.Number({ minimum: 0 }), { maxItems: 20_000 }) }, closed),
      { maxItems: 1000 },
    ),
  },
  { ...closed, $id: 'thaw-lecture-2' },
)
export type LectureArchive = Static<typeof LectureArchive>
