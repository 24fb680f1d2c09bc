/** What a person does to an edit. Up to version 2, an edit document was the list of what had been done. */
import { Type, type Static } from '@sinclair/typebox'
import { Background, InsertKind, Layout, SoundTreatment, StretchKind, Watermark } from './edit'
import { closed, Id, Seconds } from './parts'

export const EditCommand = Type.Union([
  Type.Object(
    {
      do: Type.Literal('remove'),
      id: Id,
      from: Seconds,
      to: Seconds,
      reason: Type.Optional(Type.Union([Type.Literal('pause'), Type.Literal('trim')])),
      instead: Type.Optional(
        Type.Array(Id, { maxItems: 20_000, description: 'cuts that this one takes the place of' }),
      ),
    },
    closed,
  ),
  Type.Object(
    {
      do: Type.Literal('move-edge'),
      id: Id,
      edge: Type.Union([Type.Literal('from'), Type.Literal('to')]),
      at: Seconds,
    },
    closed,
  ),
  Type.Object(
    {
      do: Type.Literal('restore'),
      id: Id,
      also: Type.Optional(Type.Array(Id, { maxItems: 20_000, description: 'further cuts that are put back with it' })),
    },
    closed,
  ),
  Type.Object(
    {
      do: Type.Literal('restore-all'),
      pauses: Type.Optional(Type.Boolean({ description: 'whether pauses are unfolded too, and drawing is dropped' })),
    },
    closed,
  ),
  Type.Object({ do: Type.Literal('layout'), layout: Layout }, closed),
  Type.Object({ do: Type.Literal('insert'), id: Id, at: Seconds, what: InsertKind }, closed),
  Type.Object({ do: Type.Literal('stretch'), id: Id, from: Seconds, to: Seconds, what: StretchKind }, closed),
  Type.Object({ do: Type.Literal('split'), id: Id, at: Seconds }, closed),
  Type.Object({ do: Type.Literal('drop'), id: Id }, closed),
  Type.Object({ do: Type.Literal('watermark'), watermark: Type.Union([Watermark, Type.Null()]) }, closed),
  Type.Object({ do: Type.Literal('background'), background: Type.Union([Background, Type.Null()]) }, closed),
  Type.Object({ do: Type.Literal('fade'), seconds: Type.Number({ minimum: 0, maximum: 3 }) }, closed),
  Type.Object({ do: Type.Literal('sound'), treatment: SoundTreatment }, closed),
])
export type EditCommand = Static<typeof EditCommand>
