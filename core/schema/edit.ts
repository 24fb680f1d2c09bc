/** The edit document, beside a recording that is never changed. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, FeedId, Id, Line, Prose, Seconds } from './parts'

const Share = Type.Number({ minimum: 0, maximum: 1 })
/** A rectangle as shares of a picture's width and height, so that it fits every size the picture may have. */
export const ShareBox = Type.Object(
  {
    x: Share,
    y: Share,
    width: Type.Number({ exclusiveMinimum: 0, maximum: 1 }),
    height: Type.Number({ exclusiveMinimum: 0, maximum: 1 }),
  },
  closed,
)
export type ShareBox = Static<typeof ShareBox>

/** Layouts that suit whatever sizes the pictures have, and the screen or camera that is there where the other is not. */
export const LayoutPreset = Type.Union(
  [Type.Literal('inset'), Type.Literal('screen'), Type.Literal('camera'), Type.Literal('beside')],
  {
    description:
      'inset: the screen is large and the camera small in a corner; screen: the screen alone; camera: the camera alone; beside: the screen at the left, the camera at its right',
  },
)
export type LayoutPreset = Static<typeof LayoutPreset>

/** How a picture of another shape than its box is put there: whole, or covering it, what reaches out cut off. */
export const Fit = Type.Union([Type.Literal('contain'), Type.Literal('cover')])
export type Fit = Static<typeof Fit>

/** Where one feed's picture stands in the frame. */
export const Slot = Type.Object({ feed: FeedId, box: ShareBox, fit: Fit }, closed)
export type Slot = Static<typeof Slot>

/** How the pictures share the frame: as a preset says, or each in a slot of its own, bottom-most first. */
export const Layout = Type.Union([LayoutPreset, Type.Array(Slot, { minItems: 1, maxItems: 8 })])
export type Layout = Static<typeof Layout>

/** An sRGB colour, `#rrggbb`. */
export const Colour = Type.String({ pattern: '^#[0-9a-fA-F]{6}$' })
/**
 * The name of a picture or video file that goes with the edit: an id in the application, a path beside the document for
 * the command line.
 */
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
    points: Type.Array(Type.Object({ x: Share, y: Share, at: Type.Number({ minimum: 0, maximum: 86_400 }) }, closed), {
      minItems: 1,
      maxItems: 20_000,
    }),
    /** Whether its corners stay corners, as those of a box or an arrow do; drawn by hand, it is smoothed. */
    straight: Type.Optional(Type.Literal(true)),
    /** Seconds after the stretch's start at which it was erased; absent while it stays. */
    until: Type.Optional(Type.Number({ minimum: 0, maximum: 86_400 })),
  },
  closed,
)
export type Stroke = Static<typeof Stroke>

/**
 * The picture that something lies on, the screen when left out: it stays where it was put in every layout, and is not seen while that picture is
 * not. In a recording without such a picture it lies on the whole frame.
 */
const On = Type.Optional(FeedId)

/** What happens over a stretch of recorded time; boxes are shares of the picture that they lie on. */
export const StretchKind = Type.Union([
  Type.Object({ kind: Type.Literal('layout'), layout: Layout }, closed),
  Type.Object(
    {
      kind: Type.Literal('mask'),
      on: On,
      box: ShareBox,
      how: Type.Union([Type.Literal('blur'), Type.Literal('solid')]),
    },
    closed,
  ),
  Type.Object(
    {
      kind: Type.Literal('text'),
      on: On,
      box: ShareBox,
      text: Prose(500),
      ink: Colour,
      ground: Type.Union([Colour, Type.Null()]),
      font: Type.Optional(
        Type.Union([Type.Literal('text'), Type.Literal('title')], { description: 'the text typeface when left out' }),
      ),
      size: Type.Optional(
        Type.Number({
          exclusiveMinimum: 0,
          maximum: 1,
          description: 'height of a line as a share of the picture’s; left out, as large as fits into the box',
        }),
      ),
      align: Type.Optional(
        Type.Union([Type.Literal('left'), Type.Literal('center'), Type.Literal('right')], {
          description: 'in the middle when left out',
        }),
      ),
    },
    closed,
  ),
  Type.Object({ kind: Type.Literal('picture'), on: On, box: ShareBox, file: AssetName, opacity: Share }, closed),
  Type.Object(
    {
      kind: Type.Literal('video'),
      on: On,
      box: ShareBox,
      file: AssetName,
      sound: Type.Boolean({ description: 'whether its sound is heard, in place of the lecture’s' }),
      under: Type.Optional(
        Type.Number({
          minimum: -60,
          maximum: 0,
          description: 'dB by which the lecture’s sound is lowered where both are heard; left out, it is not heard',
        }),
      ),
    },
    closed,
  ),
  Type.Object(
    {
      kind: Type.Literal('level'),
      gain: Type.Union([Type.Number({ minimum: -40, maximum: 12 }), Type.Null()], {
        description: 'dB by which the lecture’s sound is made louder; null silences it',
      }),
    },
    closed,
  ),
  Type.Object({ kind: Type.Literal('strokes'), on: On, strokes: Type.Array(Stroke, { maxItems: 5000 }) }, closed),
])
export type StretchKind = Static<typeof StretchKind>

/** What is put in between two instants of the recording. */
export const InsertKind = Type.Union([
  Type.Object(
    { kind: Type.Literal('card'), title: Line(200), text: Prose(600), seconds: Length, ink: Colour, ground: Colour },
    closed,
  ),
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

/** A stretch that is taken out. Each is what one cut took out and stays apart from others that it meets. */
export const RemovedRange = Type.Object(
  {
    id: Id,
    from: Seconds,
    to: Seconds,
    reason: Type.Optional(Type.Union([Type.Literal('pause'), Type.Literal('trim')])),
  },
  closed,
)
export type RemovedRange = Static<typeof RemovedRange>

/** Where a person has split the recording, so that a piece of it can be chosen; nothing of it is seen in the result. */
export const Split = Type.Object({ id: Id, at: Seconds }, closed)
export type Split = Static<typeof Split>

/** A picture over the whole lecture, on whichever picture is the large one. */
export const Watermark = Type.Object(
  {
    file: AssetName,
    box: ShareBox,
    opacity: Share,
    burnt: Type.Optional(
      Type.Literal(true, {
        description: 'whether it is in the published films themselves; left out, the player shows it over them',
      }),
    ),
  },
  closed,
)
export type Watermark = Static<typeof Watermark>

/** What is seen behind the speaker on a camera's picture, in place of what was recorded there. */
export const Background = Type.Object(
  {
    on: FeedId,
    how: Type.Union([
      Type.Object({ kind: Type.Literal('blur') }, closed),
      Type.Object({ kind: Type.Literal('colour'), colour: Colour }, closed),
      Type.Object({ kind: Type.Literal('picture'), file: AssetName }, closed),
    ]),
  },
  closed,
)
export type Background = Static<typeof Background>

const Order = Type.Optional(
  Type.Integer({ minimum: 0, description: 'place among its like: a higher one is seen later, or lies on top' }),
)

/** Something put in between two instants of the recording. */
export const Insert = Type.Object({ id: Id, at: Seconds, order: Order, what: InsertKind }, closed)
export type Insert = Static<typeof Insert>

/** Something that holds over a stretch of the recording. */
export const Stretch = Type.Object({ id: Id, from: Seconds, to: Seconds, order: Order, what: StretchKind }, closed)
export type Stretch = Static<typeof Stretch>

/** The edit as it is; what was done to make it so is its history, beside it. */
export const EditDocument = Type.Object(
  {
    format: Type.Literal('thaw-edit'),
    version: Type.Literal(3),
    /** Length of the recording, s. */
    duration: Seconds,
    /** Frames per second of the picture the edges snap to; 0 for sound only. */
    frameRate: Type.Number({ minimum: 0, maximum: 240 }),
    /** By their starts; the time map makes the union. */
    removed: Type.Array(RemovedRange, { maxItems: 20_000 }),
    /** By their instants. */
    inserts: Type.Array(Insert, { maxItems: 5000 }),
    /** By their order, bottom-most first. */
    stretches: Type.Array(Stretch, { maxItems: 20_000 }),
    /** By their instants. */
    splits: Type.Optional(Type.Array(Split, { maxItems: 5000 })),
    watermark: Type.Optional(Watermark),
    background: Type.Optional(Background),
    /** How the pictures share the frame where no stretch says otherwise. */
    layout: Layout,
    /** Length of the fade through black on each side of a seam, s. */
    fade: Type.Number({ minimum: 0, maximum: 3 }),
    sound: SoundTreatment,
  },
  { ...closed, $id: 'thaw-edit-3' },
)
export type EditDocument = Static<typeof EditDocument>
