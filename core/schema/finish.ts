/** A finish: what is put on many lectures alike – cards with fields, a mark, sound treatment, trims, chapters. */
import { Type, type Static } from '@sinclair/typebox'
import { Colour, SoundTreatment, Watermark } from './edit'
import { closed, Id, Line, Prose } from './parts'

/** A card whose words may hold fields in braces, such as `{title}` (`core/edit/finish.ts`). */
export const FinishCard = Type.Object(
  {
    title: Line(200),
    text: Prose(600),
    seconds: Type.Number({ minimum: 0.5, maximum: 60 }),
    ink: Colour,
    ground: Colour,
  },
  closed,
)
export type FinishCard = Static<typeof FinishCard>

const OrNone = <T extends Parameters<typeof Type.Union>[0][number]>(what: T) => Type.Union([what, Type.Null()])

export const Finish = Type.Object(
  {
    format: Type.Literal('thaw-finish'),
    version: Type.Literal(1),
    id: Id,
    name: Line(100),
    opening: OrNone(FinishCard),
    closing: OrNone(FinishCard),
    watermark: OrNone(Watermark),
    /** null leaves the sound of each lecture as it is. */
    sound: OrNone(SoundTreatment),
    /** Which proposals are taken: what is silent or begun in vain at the ends; long pauses, coughs and
     * bumps; what is said in vain.
     */
    trims: Type.Object({ ends: Type.Boolean(), pauses: Type.Boolean(), words: Type.Boolean() }, closed),
    /** Whether each slide begins a chapter. */
    chapters: Type.Boolean(),
  },
  { ...closed, $id: 'thaw-finish-1' },
)
export type Finish = Static<typeof Finish>

/** What cards say of lectures that are files, by the files' names; without it a lecture is called as its file. */
export const FinishParticulars = Type.Record(
  Type.String(),
  Type.Partial(
    Type.Object(
      {
        title: Prose(300),
        course: Prose(300),
        week: Prose(100),
        lecturer: Prose(200),
        date: Prose(100),
        rights: Prose(600),
      },
      closed,
    ),
  ),
)
export type FinishParticulars = Static<typeof FinishParticulars>
