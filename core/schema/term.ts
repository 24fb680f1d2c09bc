/** Colleges and their terms: when they are, and when nothing is taught in them. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Line } from './parts'

/** A day of the calendar, `yyyy-mm-dd` (ISO 8601), that there is; where it is is the term's time zone. */
export const Day = Type.String({ pattern: '^\\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\\d|3[01])$' })
/** A time of the day, `hh:mm`. */
export const TimeOfDay = Type.String({ pattern: '^([01]\\d|2[0-3]):[0-5]\\d$' })

/** Days on which nothing is taught. */
export const Holiday = Type.Object({ name: Line(80), from: Day, to: Day }, closed)
export type Holiday = Static<typeof Holiday>

export const Term = Type.Object(
  {
    id: Id,
    name: Line(80),
    firstDay: Day,
    lastDay: Day,
    holidays: Type.Array(Holiday, { maxItems: 60 }),
    /** A name of the IANA time zone database, such as `Europe/Oslo`. */
    timeZone: Line(64),
    /** Out of the way: shown where it is asked for. */
    archived: Type.Optional(Type.Boolean()),
  },
  closed,
)
export type Term = Static<typeof Term>

/** When a course usually meets: a day of the week, 1 (Monday) to 7, and times of the term's time zone. */
export const Meeting = Type.Object(
  { weekday: Type.Integer({ minimum: 1, maximum: 7 }), from: TimeOfDay, to: TimeOfDay },
  closed,
)
export type Meeting = Static<typeof Meeting>

/** Whose courses they are, as the head of every page shows it. */
export const College = Type.Object(
  {
    /** Empty where it was not said. */
    name: Line(80),
    /** A colour that white can be read on, `#rrggbb`; null for Thaw's own. */
    accent: Type.Union([Type.String({ pattern: '^#[0-9a-f]{6}$' }), Type.Null()]),
    /** A small picture as a data URL (RFC 2397); null where there is none. */
    logo: Type.Union([
      Type.String({ maxLength: 300_000, pattern: '^data:image/(png|svg\\+xml);base64,[A-Za-z0-9+/=]+$' }),
      Type.Null(),
    ]),
  },
  closed,
)
export type College = Static<typeof College>
