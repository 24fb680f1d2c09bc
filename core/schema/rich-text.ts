/**
 * Text with emphasis and lists, line by line. It is checked as it comes in and drawn line by line: no HTML is kept, so
 * that none has to be trusted.
 */
import { Type, type Static } from '@sinclair/typebox'
import { closed } from './parts'

const oneOf = <T extends string>(...names: T[]) => Type.Unsafe<T>({ type: 'string', enum: names })

/** Letters that look alike. */
export const Span = Type.Object(
  {
    text: Type.String({ minLength: 1, maxLength: 5000 }),
    marks: Type.Optional(
      Type.Array(oneOf('bold', 'italic', 'subscript', 'superscript', 'code'), { maxItems: 5, uniqueItems: true }),
    ),
  },
  closed,
)
export type Span = Static<typeof Span>

/** A paragraph, or a line of a list: one with a bullet, or with a number that is one more than the last. */
export const TextLine = Type.Object(
  {
    kind: oneOf('paragraph', 'bullet', 'number'),
    /** How deep a line of a list stands in others; absent for the outermost. */
    level: Type.Optional(Type.Integer({ minimum: 1, maximum: 3 })),
    spans: Type.Array(Span, { maxItems: 500 }),
  },
  closed,
)
export type TextLine = Static<typeof TextLine>

/** As many lines as there can be letters in a field. */
export const RichText = Type.Array(TextLine, { maxItems: 5001 })
export type RichText = Static<typeof RichText>
