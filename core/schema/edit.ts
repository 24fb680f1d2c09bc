/** The edit document: the list of commands beside a recording that is never changed. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Seconds } from './parts'

/** How two pictures share the frame. */
export const Layout = Type.Union([Type.Literal('inset'), Type.Literal('screen'), Type.Literal('camera')], {
  description: 'inset: the screen is large and the camera small in a corner; screen: the screen alone; camera: the camera alone',
})
export type Layout = Static<typeof Layout>

export const EditCommand = Type.Union(
  [
    Type.Object({ do: Type.Literal('remove'), id: Id, from: Seconds, to: Seconds, reason: Type.Optional(Type.Union([Type.Literal('pause'), Type.Literal('trim')])) }, closed),
    Type.Object({ do: Type.Literal('move-edge'), id: Id, edge: Type.Union([Type.Literal('from'), Type.Literal('to')]), at: Seconds }, closed),
    Type.Object({ do: Type.Literal('restore'), id: Id }, closed),
    Type.Object({ do: Type.Literal('restore-all') }, closed),
    Type.Object({ do: Type.Literal('layout'), layout: Layout }, closed),
  ],
)
export type EditCommand = Static<typeof EditCommand>

export const EditDocument = Type.Object(
  {
    format: Type.Literal('thaw-edit'),
    version: Type.Literal(1),
    /** Length of the recording, s. */
    duration: Seconds,
    /** Frames per second of the picture the edges snap to; 0 for sound only. */
    frameRate: Type.Number({ minimum: 0, maximum: 240 }),
    /** Everything that was ever done, oldest first; those behind `applied` have been undone and can be redone. */
    commands: Type.Array(EditCommand, { maxItems: 20_000 }),
    applied: Type.Integer({ minimum: 0 }),
  },
  { ...closed, $id: 'thaw-edit-1' },
)
export type EditDocument = Static<typeof EditDocument>
