/**
 * Text with emphasis, lists, formulas and a picture, line by line. It is checked as it comes in and drawn line by line:
 * no HTML is kept, so that none has to be trusted.
 */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Line, oneOf, Sha256 } from './parts'

/** Letters that look alike. What is marked as a formula is TeX, and has no other marks. */
export const Span = Type.Object(
  {
    text: Type.String({ minLength: 1, maxLength: 5000 }),
    marks: Type.Optional(
      Type.Array(oneOf('bold', 'italic', 'subscript', 'superscript', 'code', 'formula'), {
        maxItems: 5,
        uniqueItems: true,
      }),
    ),
  },
  closed,
)
export type Span = Static<typeof Span>

/** A paragraph, or a line of a list: one with a bullet, or with a number that is one more than the last. */
export const WordsLine = Type.Object(
  {
    kind: oneOf('paragraph', 'bullet', 'number'),
    /** How deep a line of a list stands in others; absent for the outermost. */
    level: Type.Optional(Type.Integer({ minimum: 1, maximum: 3 })),
    spans: Type.Array(Span, { maxItems: 500 }),
  },
  closed,
)
export type WordsLine = Static<typeof WordsLine>

/** A picture, by the hash of its file, with what it shows in words. */
export const PictureLine = Type.Object(
  {
    kind: oneOf('picture'),
    file: Sha256,
    description: Line(500),
    /** px */
    width: Type.Integer({ minimum: 1, maximum: 16_384 }),
    height: Type.Integer({ minimum: 1, maximum: 16_384 }),
  },
  closed,
)
export type PictureLine = Static<typeof PictureLine>

export type TextLine = WordsLine | PictureLine
export type RichText = TextLine[]

/** As many lines as there can be letters in a field. Texts refer to this one, as a document has many of them. */
export const RichTextSchema = Type.Array(
  Type.Unsafe<TextLine>({
    type: 'object',
    properties: { kind: { type: 'string' } },
    required: ['kind'],
    discriminator: { propertyName: 'kind' },
    oneOf: [WordsLine, PictureLine],
  }),
  { maxItems: 5001, $id: 'thaw-rich-text' },
)
export const RichText = Type.Unsafe<RichText>({ $ref: 'thaw-rich-text' })
