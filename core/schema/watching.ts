/**
 * What a player says was watched: statements of the Experience API (xAPI 1.0.3) by its video profile 1.0.3. Who says it
 * is known from the session; an actor is not sent.
 */
import { Type, type Static } from '@sinclair/typebox'
import { Student } from './attempt'
import { closed, Id, Instant } from './parts'

const VIDEO = 'https://w3id.org/xapi/video'
/** Verbs of the profile, by what happened. */
export const verbs = {
  initialized: 'http://adlnet.gov/expapi/verbs/initialized',
  played: `${VIDEO}/verbs/played`,
  paused: `${VIDEO}/verbs/paused`,
  seeked: `${VIDEO}/verbs/seeked`,
  completed: 'http://adlnet.gov/expapi/verbs/completed',
  terminated: 'http://adlnet.gov/expapi/verbs/terminated',
} as const
export type WatchVerb = keyof typeof verbs

export const extensions = {
  session: `${VIDEO}/extensions/session-id`,
  length: `${VIDEO}/extensions/length`,
  time: `${VIDEO}/extensions/time`,
  timeFrom: `${VIDEO}/extensions/time-from`,
  timeTo: `${VIDEO}/extensions/time-to`,
  segments: `${VIDEO}/extensions/played-segments`,
  progress: `${VIDEO}/extensions/progress`,
  /** Of the publication: which edit it was. */
  version: 'https://thaw.example/xapi/extensions/version',
} as const

const Moment = Type.Number({ minimum: 0, maximum: 86_400 })
const Uuid = Type.String({ pattern: '^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$' })

/** Activity id of a lecture at a place. */
export const activityOf = (placeId: string): string => `https://thaw.example/places/${placeId}`

export const WatchStatement = Type.Object(
  {
    id: Uuid,
    timestamp: Instant,
    verb: Type.Object({ id: Type.Unsafe<string>({ type: 'string', enum: Object.values(verbs) }) }, closed),
    object: Type.Object(
      {
        id: Type.String({ pattern: '^https://thaw\\.example/places/[A-Za-z0-9_-]{1,64}$' }),
        definition: Type.Object({ type: Type.Literal(`${VIDEO}/activity-type/video`) }, closed),
      },
      closed,
    ),
    result: Type.Optional(
      Type.Object(
        {
          completion: Type.Optional(Type.Boolean()),
          extensions: Type.Object(
            {
              [extensions.time]: Type.Optional(Moment),
              [extensions.timeFrom]: Type.Optional(Moment),
              [extensions.timeTo]: Type.Optional(Moment),
              [extensions.progress]: Type.Optional(Type.Number({ minimum: 0, maximum: 1 })),
              /** `from[.]to[,]from[.]to`, s, in the order of watching. */
              [extensions.segments]: Type.Optional(
                Type.String({
                  maxLength: 20_000,
                  pattern: '^(\\d{1,5}(\\.\\d{1,3})?\\[\\.\\]\\d{1,5}(\\.\\d{1,3})?(\\[,\\](?=\\d)|$))*$',
                }),
              ),
            },
            closed,
          ),
        },
        closed,
      ),
    ),
    context: Type.Object(
      {
        contextActivities: Type.Object(
          { category: Type.Tuple([Type.Object({ id: Type.Literal(VIDEO) }, closed)]) },
          closed,
        ),
        extensions: Type.Object(
          { [extensions.session]: Uuid, [extensions.length]: Moment, [extensions.version]: Id },
          closed,
        ),
      },
      closed,
    ),
  },
  { ...closed, $id: 'thaw-watch-statement-1' },
)
export type WatchStatement = Static<typeof WatchStatement>

/** Each is looked at by itself, so that one that cannot be taken does not hold up the others. */
export const WatchStatements = Type.Object(
  { statements: Type.Array(Type.Unknown(), { minItems: 1, maxItems: 100 }) },
  closed,
)

/** As it came in; without a student where only sums are kept. */
export const ReceivedStatement = Type.Object(
  { receivedAt: Instant, placeId: Id, student: Type.Optional(Student), statement: WatchStatement },
  closed,
)
export type ReceivedStatement = Static<typeof ReceivedStatement>

const Stretch = Type.Tuple([Moment, Moment])

/** What was watched in one sitting, as the author's browser is given it. */
export const WatchedSession = Type.Object(
  {
    /** Of its last statement. */
    seq: Type.Integer({ minimum: 1 }),
    session: Uuid,
    /** Null where only sums are kept. */
    student: Type.Union([Student, Type.Null()]),
    version: Id,
    /** When its first and its last statement came. */
    from: Instant,
    until: Instant,
    /** Stretches of the result that played, in that order, s. */
    played: Type.Array(Stretch),
    /** How far watching had come by when, each time that it had come farther, s. */
    reached: Type.Array(Type.Tuple([Instant, Moment])),
  },
  closed,
)
export type WatchedSession = Static<typeof WatchedSession>

/** A version of the films as far as it takes to find in the recording what was watched of it. */
export const WatchedVersion = Type.Object(
  {
    version: Id,
    /** s */
    duration: Moment,
    kept: Type.Union([Type.Array(Type.Object({ from: Moment, to: Moment, at: Moment }, closed)), Type.Null()]),
  },
  closed,
)
export type WatchedVersion = Static<typeof WatchedVersion>

/** What the author's browser is given of a place: sittings that it does not have as they are now, and their versions. */
export const PlaceWatching = Type.Object(
  { sessions: Type.Array(WatchedSession), versions: Type.Array(WatchedVersion) },
  closed,
)
export type PlaceWatching = Static<typeof PlaceWatching>
