/**
 * A lecture that students watch while it is held. It has its place in the course before it begins, and the same place
 * shows the recording once that is published.
 */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Instant, Line } from './parts'
import { Place } from './publication'

/** What the author's browser sends to announce it; `startsAt` is when it is to begin. */
export const Announcement = Type.Object(
  { place: Place, title: Line(), startsAt: Instant },
  { ...closed, $id: 'thaw-announcement-1' },
)
export type Announcement = Static<typeof Announcement>

/** What the author's browser says while it is held. `on` begins a further run. */
export const LiveTransition = Type.Object(
  { to: Type.Union([Type.Literal('on'), Type.Literal('paused'), Type.Literal('ended')]) },
  closed,
)
export type LiveTransition = Static<typeof LiveTransition>

/** Of which run it is, counted from 1; which of that run, counted from 0; its length, s. */
export const LiveSegment = Type.Object(
  {
    run: Type.Integer({ minimum: 1 }),
    n: Type.Integer({ minimum: 0 }),
    duration: Type.Number({ exclusiveMinimum: 0, maximum: 60 }),
  },
  closed,
)
export type LiveSegment = Static<typeof LiveSegment>

/** How it stands, as the server keeps it. */
export const Broadcast = Type.Object(
  {
    placeId: Id,
    title: Line(),
    startsAt: Instant,
    state: Type.Union([Type.Literal('announced'), Type.Literal('on'), Type.Literal('paused'), Type.Literal('ended')]),
    /**
     * Number of the run under way, or of the last one; 0 before the first. Pictures and sound of one run follow each
     * other without a break.
     */
    run: Type.Integer({ minimum: 0 }),
    /** What can be watched now, the oldest first. */
    segments: Type.Array(LiveSegment, { maxItems: 200 }),
    /** How many segments, and how many breaks between runs, are not there any more. */
    gone: Type.Object({ segments: Type.Integer({ minimum: 0 }), breaks: Type.Integer({ minimum: 0 }) }, closed),
    /** When it last changed. */
    changedAt: Instant,
  },
  closed,
)
export type Broadcast = Static<typeof Broadcast>
