/** The lecture, its take and its feeds: what the author's browser keeps and what the demo term is made of. */
import { Type, type Static } from '@sinclair/typebox'
import { LanguageTag } from './captions'
import { Stroke } from './edit'
import { closed, FeedId, Id, Instant, Line, Prose } from './parts'
import { Meeting } from './term'

export const Course = Type.Object(
  {
    id: Id,
    code: Line(40),
    title: Line(),
    termId: Id,
    /** Who gives it; its lectures may say otherwise. */
    lecturer: Type.Optional(Line(200)),
    /** When it usually meets. */
    meetings: Type.Optional(Type.Array(Meeting, { maxItems: 14 })),
    /** Out of the way: shown where it is asked for. */
    archived: Type.Optional(Type.Boolean()),
    /** What is spoken in its lectures, where they say nothing else; English when left out. */
    language: Type.Optional(LanguageTag),
    /** Whether captions are drafted as soon as a recording has come, where there is a recogniser; they are when left out. */
    draftsOnArrival: Type.Optional(Type.Boolean()),
    /** Whether captions are on for students as soon as they are checked. */
    captionsGoOn: Type.Optional(Type.Boolean()),
  },
  closed,
)
export type Course = Static<typeof Course>

/** Who holds the rights in a lecture, and what others may do with it. */
export const Rights = Type.Object(
  {
    owner: Line(200),
    year: Type.Integer({ minimum: 1900, maximum: 2200 }),
    licence: Line(100),
    /** What else is to be named, such as where pictures are from. */
    attribution: Prose(500),
  },
  closed,
)
export type Rights = Static<typeof Rights>

export const Lecture = Type.Object(
  {
    id: Id,
    /** Empty while it is in no course. */
    courseId: Type.Union([Id, Type.Literal('')]),
    week: Type.Integer({ minimum: 1, maximum: 60 }),
    title: Line(),
    description: Prose(),
    /** Words that search finds it by, separated by commas. */
    keywords: Type.Optional(Line()),
    /** In its course, as `core/library/folders.ts` writes it; absent or empty for the course itself. */
    folder: Type.Optional(Line()),
    /** What is spoken in it, where it is not the course's language. */
    language: Type.Optional(LanguageTag),
    /** Who gives it, as cards name them. */
    lecturer: Type.Optional(Line(200)),
    rights: Type.Optional(Rights),
    createdAt: Instant,
  },
  closed,
)
export type Lecture = Static<typeof Lecture>

/** One input of a take. Several feeds may stand in one file (a video that was brought in has picture and sound). */
export const Feed = Type.Object(
  {
    /** Unlike any other of its take; feeds of one id go on in the next take. */
    id: FeedId,
    kind: Type.Union([Type.Literal('screen'), Type.Literal('camera'), Type.Literal('sound')]),
    label: Line(),
    fileId: Id,
    /** Seconds of the take's time at which the file's zero stands. */
    offset: Type.Number({ minimum: -60, maximum: 60 }),
    /** Length of the feed in its file, s. */
    duration: Type.Number({ minimum: 0, maximum: 86_400 }),
    width: Type.Integer({ minimum: 0, maximum: 16_384 }),
    height: Type.Integer({ minimum: 0, maximum: 16_384 }),
    /** Nominal frames per second; 0 for sound. */
    frameRate: Type.Number({ minimum: 0, maximum: 240 }),
    /**
     * How its own clock stood to the take's while it was recorded (`core/record/clock.ts`); gone once the take is
     * whole.
     */
    clock: Type.Optional(
      Type.Array(Type.Object({ at: Type.Number(), late: Type.Number() }, closed), { maxItems: 10_000 }),
    ),
  },
  closed,
)
export type Feed = Static<typeof Feed>

/**
 * recording: chunks are coming in (or the browser died); settling: being made into whole files; whole: ready to use;
 * broken: could not be opened; discarded: not wanted, and kept for a day in case that was a mistake.
 */
export const TakeState = Type.Union([
  Type.Literal('recording'),
  Type.Literal('settling'),
  Type.Literal('whole'),
  Type.Literal('broken'),
  Type.Literal('discarded'),
])
export type TakeState = Static<typeof TakeState>

export const Take = Type.Object(
  {
    id: Id,
    lectureId: Id,
    state: TakeState,
    startedAt: Instant,
    /** Where it begins in its lecture's recorded time, s, once it is whole; absent for a first take. */
    at: Type.Optional(Type.Number({ minimum: 0 })),
    /** Length in seconds; 0 until the take is whole, by the recorder's clock when it was discarded before. */
    duration: Type.Number({ minimum: 0, maximum: 86_400 }),
    feeds: Type.Array(Feed, { maxItems: 16 }),
    /**
     * Pauses of the recorder, s of the take's own time, as all below; folded as removed ranges once the take is whole.
     */
    pauses: Type.Array(
      Type.Object(
        { from: Type.Number({ minimum: 0 }), to: Type.Union([Type.Number({ minimum: 0 }), Type.Null()]) },
        closed,
      ),
      { maxItems: 1000 },
    ),
    /** What happened, when something did: a sentence for a person. */
    note: Line(1000),
    /** Instants that the person marked while recording, to look at later. */
    markers: Type.Optional(Type.Array(Type.Number({ minimum: 0 }), { maxItems: 1000 })),
    /** Slides as their deck showed them. */
    slides: Type.Optional(
      Type.Array(Type.Object({ at: Type.Number({ minimum: 0 }), title: Line() }, closed), { maxItems: 2000 }),
    ),
    /** What was drawn over the screen; kept as data, and laid over the recording by the edit. */
    strokes: Type.Optional(Type.Array(Stroke, { maxItems: 5000 })),
    discardedAt: Type.Optional(Instant),
    /** The file that it was brought in from; `size` in bytes. */
    source: Type.Optional(
      Type.Object({ name: Type.String({ maxLength: 300 }), size: Type.Integer({ minimum: 0 }) }, closed),
    ),
  },
  closed,
)
export type Take = Static<typeof Take>
