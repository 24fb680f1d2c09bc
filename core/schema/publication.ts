/**
 * What an author's browser sends to the server: a manifest with every file's size and hashes, the questions
 * without their keys, and the keys apart.
 */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Instant, Line, Prose, Sha256 } from './parts'
import { OpenQuestion, QuestionKey } from './questions'

/** Bytes per uploaded part. One part is one stored item, so that a range of the media is read without the rest. */
export const PART_SIZE = 1 << 20

export const PublishedFile = Type.Object(
  {
    name: Type.Union([Type.Literal('media.mp4'), Type.Literal('captions.vtt')]),
    type: Type.Union([Type.Literal('video/mp4'), Type.Literal('text/vtt')]),
    size: Type.Integer({ minimum: 1, maximum: 20 * 2 ** 30 }),
    /** SHA-256 of each part of PART_SIZE bytes (the last may be shorter), lower-case hex. */
    parts: Type.Array(Sha256, { minItems: 1, maxItems: 20 * 1024 }),
  },
  closed,
)
export type PublishedFile = Static<typeof PublishedFile>

/** A checkpoint in result time (seconds), as the player needs it. */
export const PublishedCheckpoint = Type.Object({ id: Id, at: Type.Number({ minimum: 0, maximum: 86_400 }), question: OpenQuestion }, closed)
export type PublishedCheckpoint = Static<typeof PublishedCheckpoint>

export const PublicationManifest = Type.Object(
  {
    format: Type.Literal('thaw-publication'),
    version: Type.Literal(1),
    id: Id,
    title: Line(),
    description: Prose(),
    language: Type.String({ pattern: '^[A-Za-z-]{2,20}$' }),
    /** Length of the result, s. */
    duration: Type.Number({ exclusiveMinimum: 0, maximum: 86_400 }),
    width: Type.Integer({ minimum: 0, maximum: 16_384 }),
    height: Type.Integer({ minimum: 0, maximum: 16_384 }),
    madeAt: Instant,
    files: Type.Array(PublishedFile, { minItems: 1, maxItems: 2 }),
    checkpoints: Type.Array(PublishedCheckpoint, { maxItems: 200 }),
  },
  { ...closed, $id: 'thaw-publication-1' },
)
export type PublicationManifest = Static<typeof PublicationManifest>

export const PublicationKeys = Type.Object(
  { format: Type.Literal('thaw-keys'), version: Type.Literal(1), publicationId: Id, keys: Type.Array(QuestionKey, { maxItems: 200 }) },
  { ...closed, $id: 'thaw-keys-1' },
)
export type PublicationKeys = Static<typeof PublicationKeys>

/** The body that opens an upload. */
export const UploadStart = Type.Object({ manifest: PublicationManifest, keys: PublicationKeys }, closed)
export type UploadStart = Static<typeof UploadStart>

/** Where a publication stands in a course, and from when until when it is released. */
export const Place = Type.Object(
  {
    id: Id,
    publicationId: Id,
    courseId: Id,
    /** Week of the term, 1-based. */
    week: Type.Integer({ minimum: 1, maximum: 60 }),
    from: Instant,
    until: Type.Union([Instant, Type.Null()]),
  },
  { ...closed, $id: 'thaw-place-1' },
)
export type Place = Static<typeof Place>
