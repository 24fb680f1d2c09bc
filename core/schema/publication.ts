/**
 * What an author's browser sends to the server: a manifest of the films, captions and marks of a lecture with every
 * file's size and hashes; the sets of questions that are asked in it, without their keys; the keys apart; and the
 * places in courses where it stands.
 */
import { Type, type Static } from '@sinclair/typebox'
import { TrackRole } from './captions'
import { Colour, ShareBox } from './edit'
import { WebAddress } from './marks'
import { closed, Id, Instant, Line, Prose, Sha256 } from './parts'
import { StoredGrading } from './grading'
import { StoredEvent } from './attempt'
import { OpenQuestion, QuestionKey, SetPolicy } from './questions'

/** Bytes per uploaded part. One part is one stored item, so that a range of the media is read without the rest. */
export const PART_SIZE = 1 << 20

const FileName = Type.String({ pattern: '^[a-z0-9][a-z0-9-]{0,60}\\.(mp4|vtt|jpg|png)$' })

export const PublishedFile = Type.Object(
  {
    name: FileName,
    type: Type.Union([
      Type.Literal('video/mp4'),
      Type.Literal('text/vtt'),
      Type.Literal('image/jpeg'),
      Type.Literal('image/png'),
    ]),
    size: Type.Integer({ minimum: 1, maximum: 20 * 2 ** 30 }),
    /** SHA-256 of each part of PART_SIZE bytes (the last may be shorter), lower-case hex. */
    parts: Type.Array(Sha256, { minItems: 1, maxItems: 20 * 1024 }),
  },
  closed,
)
export type PublishedFile = Static<typeof PublishedFile>

/** s of the result. */
const Moment = Type.Number({ minimum: 0, maximum: 86_400 })
const Pixels = Type.Integer({ minimum: 0, maximum: 16_384 })
const Language = Type.String({ pattern: '^[A-Za-z0-9-]{2,35}$' })

/** One picture of the result, or its sound alone, as a film that is as long as the result. */
export const PublishedFeed = Type.Object(
  {
    id: Id,
    file: FileName,
    /** px; 0 for sound alone. */
    width: Pixels,
    height: Pixels,
  },
  closed,
)
export type PublishedFeed = Static<typeof PublishedFeed>

/** How the pictures stand in the frame from `at` until the next, bottom-most first. */
export const PublishedArrangement = Type.Object(
  {
    at: Moment,
    /** Each is fitted into its box whole, or covers it. */
    slots: Type.Array(Type.Object({ feed: Id, box: ShareBox, fit: Type.Optional(Type.Literal('cover')) }, closed), {
      maxItems: 8,
    }),
  },
  closed,
)
export type PublishedArrangement = Static<typeof PublishedArrangement>

/** Where a chapter begins. */
export const PublishedChapter = Type.Object({ id: Id, at: Moment, title: Line() }, closed)
export type PublishedChapter = Static<typeof PublishedChapter>

/** A link card; `box` is in shares of the frame. */
export const PublishedLink = Type.Object(
  {
    id: Id,
    from: Moment,
    to: Moment,
    words: Line(200),
    target: Type.Union([Type.Object({ url: WebAddress }, closed), Type.Object({ at: Moment }, closed)]),
    box: ShareBox,
    ink: Colour,
    ground: Colour,
    corner: Type.Number({ minimum: 0, maximum: 0.5 }),
  },
  closed,
)
export type PublishedLink = Static<typeof PublishedLink>

/** Stills along the result, side by side in one picture: one for every `every` s, in rows from the left and the top. */
export const PublishedStills = Type.Object(
  {
    file: FileName,
    every: Type.Number({ minimum: 0.1, maximum: 86_400 }),
    columns: Type.Integer({ minimum: 1, maximum: 100 }),
    /** Of one still, px. */
    width: Type.Integer({ minimum: 2, maximum: 640 }),
    height: Type.Integer({ minimum: 2, maximum: 640 }),
  },
  closed,
)
export type PublishedStills = Static<typeof PublishedStills>

/** A picture that the player shows over the whole lecture, on whichever picture is the large one. */
export const PublishedMark = Type.Object(
  {
    file: FileName,
    /** Shares of the picture that it lies on. */
    box: ShareBox,
    opacity: Type.Number({ minimum: 0, maximum: 1 }),
  },
  closed,
)
export type PublishedMark = Static<typeof PublishedMark>

/** What a publication is made of. It asks nothing; questions are sets of their own. */
export const PublicationManifest = Type.Object(
  {
    format: Type.Literal('thaw-publication'),
    version: Type.Literal(2),
    id: Id,
    title: Line(),
    description: Prose(),
    language: Language,
    /** Length of the result, s. */
    duration: Type.Number({ exclusiveMinimum: 0, maximum: 86_400 }),
    /** Of the frame in which the pictures are arranged, px; 0 without a picture. */
    width: Pixels,
    height: Pixels,
    madeAt: Instant,
    files: Type.Array(PublishedFile, { minItems: 1, maxItems: 40 }),
    /** The first has the sound. */
    feeds: Type.Array(PublishedFeed, { minItems: 1, maxItems: 8 }),
    /** By their instants, the first at 0; empty without a picture. */
    layout: Type.Array(PublishedArrangement, { maxItems: 20_000 }),
    /** Of what was published before captions stood apart; empty since. */
    captions: Type.Array(Type.Object({ language: Language, file: FileName }, closed), { maxItems: 30 }),
    chapters: Type.Array(PublishedChapter, { maxItems: 1000 }),
    links: Type.Array(PublishedLink, { maxItems: 5000 }),
    /** Missing without a picture, and of what was published before there were any. */
    stills: Type.Optional(PublishedStills),
    watermark: Type.Optional(PublishedMark),
    /**
     * What of the recording is kept, and where in the result it begins (s), so that what was watched is found again in
     * later edits; null for one of version 1, of which it is not known.
     */
    kept: Type.Union([
      Type.Array(Type.Object({ from: Moment, to: Moment, at: Moment }, closed), { maxItems: 20_000 }),
      Type.Null(),
    ]),
  },
  { ...closed, $id: 'thaw-publication-2' },
)
export type PublicationManifest = Static<typeof PublicationManifest>

/** A checkpoint in result time (seconds), as the player needs it. */
export const PublishedCheckpoint = Type.Object(
  { id: Id, at: Moment, questions: Type.Array(OpenQuestion, { minItems: 1, maxItems: 20 }) },
  closed,
)
export type PublishedCheckpoint = Static<typeof PublishedCheckpoint>

/** Questions that are asked in a publication, without what gives them away. */
export const PublishedSet = Type.Object(
  {
    format: Type.Literal('thaw-published-set'),
    version: Type.Literal(4),
    id: Id,
    publicationId: Id,
    title: Line(),
    policy: SetPolicy,
    checkpoints: Type.Array(PublishedCheckpoint, { maxItems: 200 }),
  },
  { ...closed, $id: 'thaw-published-set-4' },
)
export type PublishedSet = Static<typeof PublishedSet>

export const PublicationKeys = Type.Object(
  {
    format: Type.Literal('thaw-keys'),
    version: Type.Literal(2),
    publicationId: Id,
    keys: Type.Array(QuestionKey, { maxItems: 4000 }),
  },
  { ...closed, $id: 'thaw-keys-2' },
)
export type PublicationKeys = Static<typeof PublicationKeys>

/** A version of a set as its answers are graded: the questions that students saw, with their keys. */
export const GradedSet = Type.Object(
  {
    version: Id,
    /** Of the set, and what it is called. */
    id: Id,
    title: Line(),
    publishedAt: Instant,
    policy: SetPolicy,
    checkpoints: Type.Array(PublishedCheckpoint),
    keys: Type.Array(QuestionKey),
    /** Every version of the set in the order of publishing; missing in what a browser was given before there was this. */
    versions: Type.Optional(Type.Array(Type.Object({ version: Id, since: Instant, changes: Type.Boolean() }, closed))),
  },
  closed,
)
export type GradedSet = Static<typeof GradedSet>

/** What the author's browser is given of a place: answers it does not have yet, and what they are graded by. */
export const PlaceResponses = Type.Object(
  {
    events: Type.Array(StoredEvent),
    grading: Type.Array(StoredGrading),
    sets: Type.Array(GradedSet),
    /** Versions of those that are asked there now. */
    current: Type.Array(Id),
  },
  closed,
)
export type PlaceResponses = Static<typeof PlaceResponses>

/** A set with its keys, as it is published. */
export const SetUpload = Type.Object({ set: PublishedSet, keys: PublicationKeys }, closed)
export type SetUpload = Static<typeof SetUpload>

const SetUploads = Type.Array(SetUpload, { maxItems: 20 })
/**
 * Versions of sets, by the sets' ids, that the sender knows to count. What another browser published since is then not
 * replaced unseen.
 */
const KnownSets = Type.Optional(Type.Record(Id, Id))

/** A caption track that is on: WebVTT in the result's time. */
export const PublishedTrack = Type.Object(
  { language: Language, role: TrackRole, text: Type.String({ minLength: 6, maxLength: 4 << 20 }) },
  closed,
)
export type PublishedTrack = Static<typeof PublishedTrack>
/** All that students are offered; the first is shown to whoever has chosen none. */
export const PublishedTracks = Type.Array(PublishedTrack, { maxItems: 30 })

/** The body that opens an upload. */
export const UploadStart = Type.Object(
  { manifest: PublicationManifest, captions: PublishedTracks, sets: SetUploads, known: KnownSets },
  closed,
)
export type UploadStart = Static<typeof UploadStart>

/** The body that publishes captions of a version that is out already, in whose time they are. */
export const CaptionsStart = Type.Object({ version: Id, captions: PublishedTracks }, closed)
export type CaptionsStart = Static<typeof CaptionsStart>

/** The body that publishes sets of a version that is out already, whose instants they are in. */
export const SetsStart = Type.Object({ version: Id, sets: SetUploads, known: KnownSets }, closed)
export type SetsStart = Static<typeof SetsStart>

/** What the author's browser is told of what counts: the version, and those of its sets by the sets' ids. */
export const PublishedVersions = Type.Object({ version: Id, sets: Type.Record(Id, Id) }, closed)
export type PublishedVersions = Static<typeof PublishedVersions>

/** What is allowed at a place. */
export const PlaceOptions = Type.Object(
  {
    /** Whether students may save the films. */
    download: Type.Boolean(),
    /** Whether of watching only sums are kept, and of nobody what they watched; absent, each one’s own. */
    sumsOnly: Type.Optional(Type.Boolean()),
  },
  closed,
)
export type PlaceOptions = Static<typeof PlaceOptions>

/**
 * Where a publication stands in a course, which of its sets are asked there, and from when until when it is released. A
 * publication may have many.
 */
export const Place = Type.Object(
  {
    id: Id,
    publicationId: Id,
    /** Ids of the sets that are asked; one that is not published with the present version asks nothing. */
    sets: Type.Array(Id, { maxItems: 20, uniqueItems: true }),
    courseId: Id,
    /** Week of the term, 1-based. */
    week: Type.Integer({ minimum: 1, maximum: 60 }),
    from: Instant,
    until: Type.Union([Instant, Type.Null()]),
    options: PlaceOptions,
  },
  { ...closed, $id: 'thaw-place-2' },
)
export type Place = Static<typeof Place>
