/** The edit document: the list of commands beside a recording that is never changed. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Line, Prose, Seconds } from './parts'

/** How two pictures share the frame. */
export const Layout = Type.Union([Type.Literal('inset'), Type.Literal('screen'), Type.Literal('camera'), Type.Literal('beside')], {
  description: 'inset: the screen is large and the camera small in a corner; screen: the screen alone; camera: the camera alone; beside: the screen at the left, the camera at its right',
})
export type Layout = Static<typeof Layout>

const Share = Type.Number({ minimum: 0, maximum: 1 })
/** A rectangle as shares of the frame's width and height, so that it fits every size the result may have. */
export const ShareBox = Type.Object({ x: Share, y: Share, width: Type.Number({ exclusiveMinimum: 0, maximum: 1 }), height: Type.Number({ exclusiveMinimum: 0, maximum: 1 }) }, closed)
export type ShareBox = Static<typeof ShareBox>

/** An sRGB colour, `#rrggbb`. */
export const Colour = Type.String({ pattern: '^#[0-9a-fA-F]{6}$' })
/** The name of a picture or video file that goes with the edit: an id in the application, a path beside the document for the command line. */
const AssetName = Type.String({ minLength: 1, maxLength: 300, pattern: '^[^\\u0000-\\u001f]*$' })
const Length = Type.Number({ exclusiveMinimum: 0, maximum: 86_400 })

/** One line drawn by hand: points in order, with the seconds after the stretch's start at which each was drawn. */
export const Stroke = Type.Object(
  {
    colour: Colour,
    /** Thickness as a share of the frame's height. */
    width: Type.Number({ exclusiveMinimum: 0, maximum: 0.2 }),
    /** 1 covers, less lets the picture through, as a highlighter does. */
    opacity: Share,
    points: Type.Array(Type.Object({ x: Share, y: Share, at: Type.Number({ minimum: 0, maximum: 86_400 }) }, closed), { minItems: 1, maxItems: 20_000 }),
    /** Seconds after the stretch's start at which it was erased; absent while it stays. */
    until: Type.Optional(Type.Number({ minimum: 0, maximum: 86_400 })),
  },
  closed,
)
export type Stroke = Static<typeof Stroke>

/** What happens over a stretch of recorded time. */
export const StretchKind = Type.Union([
  Type.Object({ kind: Type.Literal('layout'), layout: Layout }, closed),
  Type.Object({ kind: Type.Literal('mask'), box: ShareBox, how: Type.Union([Type.Literal('blur'), Type.Literal('solid')]) }, closed),
  Type.Object({ kind: Type.Literal('text'), box: ShareBox, text: Prose(500), ink: Colour, ground: Type.Union([Colour, Type.Null()]) }, closed),
  Type.Object({ kind: Type.Literal('picture'), box: ShareBox, file: AssetName, opacity: Share }, closed),
  Type.Object({ kind: Type.Literal('video'), box: ShareBox, file: AssetName, sound: Type.Boolean({ description: 'whether its sound replaces the lecture’s' }) }, closed),
  Type.Object({ kind: Type.Literal('strokes'), strokes: Type.Array(Stroke, { maxItems: 5000 }) }, closed),
])
export type StretchKind = Static<typeof StretchKind>

/** What is put in between two instants of the recording. */
export const InsertKind = Type.Union([
  Type.Object({ kind: Type.Literal('card'), title: Line(200), text: Prose(600), seconds: Length, ink: Colour, ground: Colour }, closed),
  Type.Object({ kind: Type.Literal('picture'), file: AssetName, seconds: Length }, closed),
  Type.Object({ kind: Type.Literal('video'), file: AssetName, from: Seconds, to: Seconds }, closed),
])
export type InsertKind = Static<typeof InsertKind>

/** What is done to the sound of the whole result. */
export const SoundTreatment = Type.Object(
  {
    /** Whether steady noise is taken out of the speech. */
    noise: Type.Union([Type.Literal('keep'), Type.Literal('reduce')]),
    /** Integrated loudness to bring the result to, LUFS; null leaves it. */
    loudness: Type.Union([Type.Number({ minimum: -40, maximum: -5 }), Type.Null()]),
    /** Highest true peak allowed when the loudness is changed, dBTP. */
    truePeak: Type.Number({ minimum: -9, maximum: 0 }),
  },
  closed,
)
export type SoundTreatment = Static<typeof SoundTreatment>

export const EditCommand = Type.Union(
  [
    Type.Object({ do: Type.Literal('remove'), id: Id, from: Seconds, to: Seconds, reason: Type.Optional(Type.Union([Type.Literal('pause'), Type.Literal('trim')])) }, closed),
    Type.Object({ do: Type.Literal('move-edge'), id: Id, edge: Type.Union([Type.Literal('from'), Type.Literal('to')]), at: Seconds }, closed),
    Type.Object({ do: Type.Literal('restore'), id: Id }, closed),
    Type.Object({ do: Type.Literal('restore-all') }, closed),
    Type.Object({ do: Type.Literal('layout'), layout: Layout }, closed),
    Type.Object({ do: Type.Literal('insert'), id: Id, at: Seconds, what: InsertKind }, closed),
    Type.Object({ do: Type.Literal('stretch'), id: Id, from: Seconds, to: Seconds, what: StretchKind }, closed),
    Type.Object({ do: Type.Literal('drop'), id: Id }, closed),
    Type.Object({ do: Type.Literal('fade'), seconds: Type.Number({ minimum: 0, maximum: 3 }) }, closed),
    Type.Object({ do: Type.Literal('sound'), treatment: SoundTreatment }, closed),
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
