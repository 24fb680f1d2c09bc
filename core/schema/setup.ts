/** A setup: recording settings that are kept under a name, so that a room is ready in two minutes. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Line } from './parts'
import { ShareBox } from './edit'

/** Where an input comes from. The hall is simulated; `computer` is the sound this computer plays. */
export const InputSource = Type.Union([
  Type.Literal('hall-screen'),
  Type.Literal('hall-camera'),
  Type.Literal('hall-lectern'),
  Type.Literal('hall-ceiling'),
  Type.Literal('display'),
  Type.Literal('camera'),
  Type.Literal('microphone'),
  Type.Literal('computer'),
])
export type InputSource = Static<typeof InputSource>

/** What a picture shows, from which sensible settings follow. */
export const Shows = Type.Union([
  Type.Literal('face'),
  Type.Literal('slides'),
  Type.Literal('video'),
  Type.Literal('document'),
])
export type Shows = Static<typeof Shows>

/** One input as it was chosen. */
export const InputPlan = Type.Object(
  {
    id: Id,
    source: InputSource,
    label: Line(120),
    on: Type.Boolean(),
    /** The browser's id of the device and what it calls it; empty for what has no device. Ids change, names seldom. */
    deviceId: Type.String({ maxLength: 300 }),
    deviceName: Line(300),
    /** Pictures only, else null. */
    picture: Type.Union([
      Type.Object(
        {
          shows: Shows,
          /** px */
          width: Type.Integer({ minimum: 16, maximum: 7680 }),
          height: Type.Integer({ minimum: 16, maximum: 4320 }),
          /** frames per second */
          frameRate: Type.Number({ minimum: 1, maximum: 60 }),
          /** Only this part is recorded, as shares of the picture; null for all of it. */
          area: Type.Union([ShareBox, Type.Null()]),
        },
        closed,
      ),
      Type.Null(),
    ]),
    /** Bits per second. */
    bitrate: Type.Integer({ minimum: 16_000, maximum: 50_000_000 }),
    /** Linear factor on the sound; 1 for pictures. */
    gain: Type.Number({ minimum: 0, maximum: 8 }),
  },
  closed,
)
export type InputPlan = Static<typeof InputPlan>

export const Setup = Type.Object(
  {
    format: Type.Literal('thaw-setup'),
    version: Type.Literal(1),
    id: Id,
    name: Type.String({ minLength: 1, maxLength: 80, pattern: '^[^\\u0000-\\u001f]*$' }),
    inputs: Type.Array(InputPlan, { maxItems: 16 }),
    /** Seconds counted down before a recording begins; 0 begins at once. */
    countdown: Type.Integer({ minimum: 0, maximum: 30 }),
    /**
     * What a pause does: the recorder keeps rolling and the part is folded away, or it truly stops. Absent: it rolls.
     */
    pausing: Type.Optional(Type.Union([Type.Literal('rolls'), Type.Literal('stops')])),
  },
  { ...closed, $id: 'thaw-setup-1' },
)
export type Setup = Static<typeof Setup>
