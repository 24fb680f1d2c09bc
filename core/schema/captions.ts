/** A caption track: cues in recorded time, with the recogniser's words kept beside the text they gave. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Line, Prose, Seconds } from './parts'

/** One recognised word. `confidence` is the recogniser's posterior, 0–1; 1 for a word a person wrote. */
export const Word = Type.Object(
  {
    text: Type.String({ minLength: 1, maxLength: 100 }),
    from: Seconds,
    to: Seconds,
    confidence: Type.Number({ minimum: 0, maximum: 1 }),
    /** What else may have been said, likeliest first. */
    alternatives: Type.Optional(Type.Array(Type.String({ minLength: 1, maxLength: 100 }), { maxItems: 10 })),
  },
  closed,
)
export type Word = Static<typeof Word>

export const Cue = Type.Object(
  {
    id: Id,
    from: Seconds,
    to: Seconds,
    /** Cue text as WebVTT writes it (tags and escapes included); lines are parted by \n. */
    text: Prose(2000),
    /** What a recogniser heard. Words are kept as long as the text still has as many. */
    words: Type.Optional(Type.Array(Word, { maxItems: 400 })),
    /** A person has gone through it, or whoever made it for the author. */
    checked: Type.Optional(Type.Literal(true)),
    /** The identifier line of a WebVTT cue, kept through a read and a write. */
    name: Type.Optional(Line(500)),
    /** WebVTT cue settings, kept as they stood (`align:start line:0`). */
    settings: Type.Optional(Line(500)),
    /** NOTE, STYLE and REGION blocks that stood before this cue, kept as they stood. */
    before: Type.Optional(Type.Array(Prose(20_000), { maxItems: 100 })),
  },
  closed,
)
export type Cue = Static<typeof Cue>

export const CaptionState = Type.Union([Type.Literal('draft'), Type.Literal('checked'), Type.Literal('on')])
export type CaptionState = Static<typeof CaptionState>

/** What a track is for: what is said, in the language that is spoken, or in another one. */
export const TrackRole = Type.Union([Type.Literal('captions'), Type.Literal('translation')])
export type TrackRole = Static<typeof TrackRole>

/** A language, region and script as BCP 47 writes them (`en`, `pt-BR`, `zh-Hans`). */
export const LanguageTag = Type.String({ pattern: '^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*$', maxLength: 35 })

export const CaptionTrack = Type.Object(
  {
    format: Type.Literal('thaw-captions'),
    version: Type.Literal(1),
    language: LanguageTag,
    /** Captions when left out. */
    role: Type.Optional(TrackRole),
    state: CaptionState,
    source: Type.Union([
      Type.Literal('recogniser'),
      Type.Literal('file'),
      Type.Literal('person'),
      Type.Literal('service'),
    ]),
    /** Sorted by `from`. */
    cues: Type.Array(Cue, { maxItems: 50_000 }),
    /** What stood after the WEBVTT signature, and blocks behind the last cue. */
    header: Type.Optional(Prose(2000)),
    after: Type.Optional(Type.Array(Prose(20_000), { maxItems: 100 })),
  },
  { ...closed, $id: 'thaw-captions-1' },
)
export type CaptionTrack = Static<typeof CaptionTrack>
