/** Chapters and link cards: what students jump by, and what they can press on the picture. In recorded time. */
import { Type, type Static } from '@sinclair/typebox'
import { Colour, ShareBox } from './edit'
import { closed, Id, Line, Seconds } from './parts'

/** Where a chapter begins; it lasts until the next one. */
export const Chapter = Type.Object({ id: Id, at: Seconds, title: Line() }, closed)
export type Chapter = Static<typeof Chapter>

export const ChapterList = Type.Object(
  {
    format: Type.Literal('thaw-chapters'),
    version: Type.Literal(1),
    /** By their instants. */
    chapters: Type.Array(Chapter, { maxItems: 1000 }),
  },
  { ...closed, $id: 'thaw-chapters-1' },
)
export type ChapterList = Static<typeof ChapterList>

/** A web address that a student may be sent to: nothing but `https:` and `http:`. */
const ADDRESS = '^https?://[^\\s<>"]+$'
export const WebAddress = Type.String({ maxLength: 2000, pattern: ADDRESS })
export const isWebAddress = (text: string): boolean => text.length <= 2000 && new RegExp(ADDRESS).test(text)

/** Words on the picture, from one time to another, that lead to a web page, an instant or a chapter of the same lecture. */
export const LinkCard = Type.Object(
  {
    id: Id,
    from: Seconds,
    to: Seconds,
    words: Line(200),
    target: Type.Union([
      Type.Object({ url: WebAddress }, closed),
      Type.Object({ at: Seconds }, closed),
      Type.Object({ chapter: Id }, closed),
    ]),
    box: ShareBox,
    ink: Colour,
    ground: Colour,
    /** Radius of its corners as a share of the frame's height. */
    corner: Type.Number({ minimum: 0, maximum: 0.5 }),
  },
  closed,
)
export type LinkCard = Static<typeof LinkCard>

export const LinkList = Type.Object(
  {
    format: Type.Literal('thaw-links'),
    version: Type.Literal(1),
    /** By their starts. */
    links: Type.Array(LinkCard, { maxItems: 2000 }),
  },
  { ...closed, $id: 'thaw-links-1' },
)
export type LinkList = Static<typeof LinkList>
