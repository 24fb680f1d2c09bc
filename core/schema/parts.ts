/** The pieces that several schemas share. */
import { Type } from '@sinclair/typebox'
import type { RecordedTime } from '../time/units'

/** Identifiers as the app makes them (nanoid) or the demo names them: safe in a path and in a URL. */
export const Id = Type.String({ pattern: '^[A-Za-z0-9_-]{1,64}$' })
/**
 * A feed of a recording, the same in all of its takes: `screen`, `camera` and `sound` are what students see and hear
 * unless a layout says otherwise; a second camera is `camera-2`.
 */
export const FeedId = Type.String({ pattern: '^[a-z][a-z0-9-]{0,39}$' })
/** Recorded time in seconds; 24 h is more than any lecture. */
export const Seconds = Type.Unsafe<RecordedTime>({ type: 'number', minimum: 0, maximum: 86_400 })
/** Days that there are; only the 29th of February is taken in every year, which reads as the 1st of March. */
const DAY = '((0[13578]|1[02])-(0[1-9]|[12]\\d|3[01])|(0[469]|11)-(0[1-9]|[12]\\d|30)|02-(0[1-9]|[12]\\d))'
/** An instant as ISO 8601 in UTC, as `Date.prototype.toISOString` writes it. */
export const Instant = Type.String({ pattern: `^\\d{4}-${DAY}T([01]\\d|2[0-3]):[0-5]\\d:[0-5]\\d(\\.\\d{1,3})?Z$` })
/** One line of text. */
export const Line = (maxLength = 300) => Type.String({ maxLength, pattern: '^[^\\u0000-\\u001f]*$' })
/** Text of several lines. */
export const Prose = (maxLength = 5000) => Type.String({ maxLength })
export const Sha256 = Type.String({ pattern: '^[0-9a-f]{64}$' })
/** One of some words. */
export const oneOf = <T extends string>(...names: T[]) => Type.Unsafe<T>({ type: 'string', enum: names })
/** Objects are closed: a field nobody knows is a mistake, not an extension. */
export const closed = { additionalProperties: false } as const
