/**
 * What a result is made of: an edit and its feeds, laid out as spans of result time with the layers seen in each.
 * A span that shows one feed whole and untouched can be copied; every other has to be composed.
 *
 *     result  ├─card─├────── feed 0 ──────├ feed 0 + mask ├──── feed 0 ────├fade├fade├── feed 0 …
 *                    │      copied        │   composed    │    copied      │ composed│  copied
 */
import { editTimeMap, layoutAt, onFrames } from '../edit/edit'
import { bisector, max, min, pairs } from 'd3-array'
import equal from 'fast-deep-equal'
import {
  arrange,
  common,
  contain,
  covers,
  even,
  frameSize,
  toPixels,
  toSlot,
  type Box,
  type Placed,
  type ShownSlot,
  type Size,
  type Sizes,
} from '../picture/layout'
import type { EditDocument, InsertKind, SoundTreatment, Stretch, Stroke, StretchKind, Watermark } from '../schema/edit'
import type { KeptSegment, TimeMap } from '../time/time-map'
import type { PlacedBurnt } from './burnt'

/** One feed of a take. All times in seconds. */
export interface ScriptFeed {
  /** The same in all takes. */
  id: string
  kind: 'screen' | 'camera' | 'sound'
  /** Recorded time at which the file's zero stands. */
  offset: number
  duration: number
  /** Display size in px; 0 for sound. */
  width: number
  height: number
}

/** What is known of the pictures and videos that an edit puts in, by the name it uses. */
export type ScriptAssets = ReadonlyMap<string, Size & { duration: number; sound: boolean }>

/** What is drawn without a moving source. */
export type Still =
  | Extract<InsertKind, { kind: 'card' }>
  | Extract<StretchKind, { kind: 'text' }>
  | { kind: 'picture'; file: string; opacity: number }

/**
 * One thing seen during a span, bottom-most first. `from` is its own time at the span's start, s; of what is burnt in, the result's.
 */
export type Layer =
  | (Pick<Placed, 'box' | 'clip' | 'edged'> & { kind: 'feed'; feed: number; from: number })
  | (Clipped & { kind: 'video'; file: string; from: number })
  | (Clipped & { kind: 'still'; still: Still })
  | (Clipped & { kind: 'mask'; how: 'blur' | 'solid' })
  | (Clipped & { kind: 'strokes'; strokes: readonly Stroke[]; from: number })
  | (Clipped & { kind: 'burnt'; items: readonly PlacedBurnt[]; from: number })

/** Something in a box of which no more than `clip` is seen; null for all of it. */
type Clipped = Pick<Placed, 'box' | 'clip'>

export interface Span {
  /** Result time, s. */
  at: number
  length: number
  layers: readonly Layer[]
  /** Brightness at the start and the end of the span, 0 black to 1 as it is; linear between. */
  light: readonly [number, number]
  /** The feed that is seen whole and untouched, so that it may be copied; null when the span must be composed. */
  whole: { feed: number; from: number } | null
}

/** One stretch of the result's sound from one file, or silence. `from` is the file's own time, s. */
export interface SoundSpan {
  at: number
  length: number
  source: SoundSource | null
  /** Amplitude that it is multiplied by; 1 when left out. */
  gain?: number
  /** What is heard with it, at an amplitude of its own. */
  beneath?: { source: SoundSource; gain: number }
}

export type SoundSource = { kind: 'feed'; feed: number; from: number } | { kind: 'asset'; file: string; from: number }

/** Whether a span is heard as its file has it, so that it may be copied. */
export const isUntouched = ({ gain = 1, beneath }: SoundSpan): boolean => gain === 1 && !beneath

/** Whether one span goes on in its file where the one before ended. */
export const runsOn = (before: SoundSpan | undefined, span: SoundSpan): boolean => {
  const [a, b] = [before?.source, span.source]
  if (!before || !a || !b) return false
  const isSame = a.kind === 'feed' ? b.kind === 'feed' && a.feed === b.feed : b.kind === 'asset' && a.file === b.file
  return isSame && Math.abs(a.from + before.length - b.from) < EPSILON
}

export interface Script {
  /** Length of the result, s. */
  length: number
  /** Null when nothing is to be seen. */
  frame: Size | null
  picture: readonly Span[]
  sound: readonly SoundSpan[]
  /** Whether any sound is to be heard. */
  sounds: boolean
  treatment: SoundTreatment
}

/** An edit that cannot be rendered with what it was given. The message is a sentence for a person. */
export class InvalidScript extends Error {
  override name = 'InvalidScript'
}

/** Seconds for which a picture that has ended, or has not begun, stands still. */
const HOLD = 2
/** Shorter pieces, s, are rounding and not pictures. */
const EPSILON = 1e-4

const isActive = (stretch: Stretch, from: number, to: number) =>
  stretch.from < to - EPSILON && stretch.to > from + EPSILON

/** Names of the files an edit uses. */
export function assetsOf(edit: EditDocument): string[] {
  const { inserts, stretches, watermark, background } = edit
  const names = [...inserts, ...stretches].flatMap(({ what }) =>
    what.kind === 'picture' || what.kind === 'video' ? [what.file] : [],
  )
  const behind = background?.how.kind === 'picture' ? [background.how.file] : []
  return [...new Set([...names, ...(watermark ? [watermark.file] : []), ...behind])]
}

/** @throws {InvalidScript} naming what is missing, or is not what it is used as */
function checkAssets({ inserts, stretches, watermark }: EditDocument, assets: ScriptAssets): void {
  const mark = watermark ? [{ kind: 'picture' as const, file: watermark.file }] : []
  for (const what of [...[...inserts, ...stretches].map((x) => x.what), ...mark]) {
    if (what.kind !== 'picture' && what.kind !== 'video') continue
    const asset = assets.get(what.file)
    if (!asset) throw new InvalidScript(`The edit uses “${what.file}”, which is not there.`)
    if (asset.width === 0) throw new InvalidScript(`The edit shows “${what.file}”, in which there is no picture.`)
    if (asset.duration > 0 !== (what.kind === 'video'))
      throw new InvalidScript(
        `The edit uses “${what.file}” as a ${what.kind}, and it is a ${what.kind === 'video' ? 'picture' : 'video'}.`,
      )
  }
}

/** One picture of a result of which each is a film of its own. */
export interface Part {
  feed: string
  /** Whether the sound goes with it, and what the edit puts in between. */
  main: boolean
}

/**
 * Lays an edit out, as one film of all its pictures or as one of them alone. Both are as long, and at each instant show
 * the same of the recording: of a part, where the layout does not show its picture, nothing.
 * @throws {InvalidScript} when nothing is left, or when a file the edit uses is not there
 */
export function writeScript(
  given: EditDocument,
  feeds: readonly ScriptFeed[],
  assets: ScriptAssets,
  part: Part | null = null,
): Script {
  const edit = onFrames(given)
  const map = editTimeMap(edit)
  if (!(map.length > EPSILON))
    throw new InvalidScript('Everything is taken out of this lecture; there is nothing left to render.')
  checkAssets(edit, assets)
  const arranged = sizeOf(feeds, assets, edit)
  const own = part && largest(feeds, part.feed)
  const frame = own ? { width: even(own.width), height: even(own.height) } : arranged
  const pictures = pictureIds(feeds)
  const liedOn = new Set(edit.stretches.flatMap((s) => liesOn(s.what) ?? []))
  const sound = part?.main === false ? [] : soundSpans(map, edit, feeds, assets)
  return {
    length: map.length,
    frame,
    picture:
      frame && arranged
        ? pictureSpans(map, {
            ...{ edit, feeds, assets, frame, arranged, part },
            ...{ pictures, homeless: [...liedOn].filter((id) => !pictures.includes(id)) },
            shown: extents(feeds),
          })
        : [],
    sound,
    sounds: sound.some((s) => s.source),
    treatment: edit.sound,
  }
}

const largest = (feeds: readonly ScriptFeed[], id: string): ScriptFeed | null =>
  feeds.filter((f) => f.id === id && f.width > 0).sort((a, b) => b.width * b.height - a.width * a.height)[0] ?? null

/** The feeds of a recording that have a picture, the screen first, then the camera, each once for all takes. */
export function pictureIds(feeds: readonly ScriptFeed[]): string[] {
  const ids = [...new Set(feeds.filter((f) => f.kind !== 'sound').map((f) => f.id))]
  const rank = (id: string) => ['screen', 'camera', id].indexOf(id)
  return ids.sort((a, b) => rank(a) - rank(b))
}

/** The frame of a recording that has a picture, the same for all of its takes. */
function recordingFrame(feeds: readonly ScriptFeed[], edit: Pick<EditDocument, 'layout'>): Size | null {
  const sizes = pictureIds(feeds).flatMap((id): [string, Size][] => {
    const feed = largest(feeds, id)
    return feed ? [[id, feed]] : []
  })
  return frameSize(new Map(sizes), edit.layout)
}

/**
 * The frame is as large as the recording's large picture; a sound recording with a picture over it gets a frame of its
 * own.
 */
function sizeOf(feeds: readonly ScriptFeed[], assets: ScriptAssets, edit: EditDocument): Size | null {
  const size = recordingFrame(feeds, edit)
  if (size) return size
  const shown = [...edit.inserts.map((i) => i.what), ...edit.stretches.map((s) => s.what)]
  if (!shown.some((w) => !['layout', 'mask', 'level'].includes(w.kind))) return null
  const video = shown.map((w) => (w.kind === 'video' ? assets.get(w.file) : undefined)).find((a) => a && a.width > 0)
  return video
    ? { width: 2 * Math.round(video.width / 2), height: 2 * Math.round(video.height / 2) }
    : { width: 1280, height: 720 }
}

/**
 * The stretch of recorded time over which each feed is seen. A picture that begins late or ends early by up to `HOLD`
 * stands still meanwhile: sound and picture of a file seldom end together, and a flash of black would look broken.
 */
function extents(feeds: readonly ScriptFeed[]): { from: number; to: number }[] {
  return feeds.map((feed) => {
    const alike = feeds.filter((f) => f !== feed && f.id === feed.id)
    const end = feed.offset + feed.duration
    const before = max(alike.filter((f) => f.offset < feed.offset).map((f) => f.offset + f.duration)) ?? -Infinity
    const after = min(alike.filter((f) => f.offset > feed.offset).map((f) => f.offset)) ?? Infinity
    return {
      from: feed.offset - before <= HOLD ? feed.offset : feed.offset - HOLD,
      to: after - end <= HOLD ? after : end + HOLD,
    }
  })
}

/** Every recorded instant inside a kept segment at which what is seen changes. */
function changes(
  segment: KeptSegment,
  edit: EditDocument,
  shown: readonly { from: number; to: number }[],
  fadeIn: number,
  fadeOut: number,
): number[] {
  const marks = [
    segment.from + fadeIn,
    segment.to - fadeOut,
    ...edit.stretches.filter((s) => s.what.kind !== 'level').flatMap((s) => [s.from, s.to]),
    ...shown.flatMap((f) => [f.from, f.to]),
  ]
  // A feed that begins or ends within 50 ms of another does so with it: devices do not start on the same frame.
  const inside = marks.filter((t) => t > segment.from + 0.05 && t < segment.to - 0.05).sort((a, b) => a - b)
  const apart = inside.filter((t, i) => i === 0 || t - (inside[i - 1] ?? -1) > EPSILON)
  return [segment.from, ...apart, segment.to]
}

/** What the spans of the picture are made from. */
interface Scene {
  edit: EditDocument
  feeds: readonly ScriptFeed[]
  /** Over which recorded time each feed is seen. */
  shown: readonly { from: number; to: number }[]
  assets: ScriptAssets
  frame: Size
  /** The frame in which all pictures are arranged, of which `part` is one. */
  arranged: Size
  /** The ids of all pictures of the recording. */
  pictures: readonly string[]
  /** Ids of pictures that something is laid over and that were not recorded. */
  homeless: readonly string[]
  part: Part | null
}

function pictureSpans(map: TimeMap, scene: Scene): Span[] {
  const { edit, feeds } = scene
  const spans: Span[] = []
  const pictures = scene.shown.filter((_, i) => feeds[i]?.kind !== 'sound')
  for (const [index, segment] of map.kept.entries()) {
    const before = map.kept[index - 1]
    const after = map.kept[index + 1]
    const room = (segment.to - segment.from) / 2
    // A segment that an insert splits goes on where it was: that is no seam.
    const fadeIn = (before ? before.to < segment.from : segment.from > 0) ? Math.min(edit.fade, room) : 0
    const fadeOut = (after ? after.from > segment.to : segment.to < map.duration) ? Math.min(edit.fade, room) : 0
    const light = (t: number) =>
      Math.min(1, fadeIn > 0 ? (t - segment.from) / fadeIn : 1, fadeOut > 0 ? (segment.to - t) / fadeOut : 1)
    for (const [from, to] of pairs(changes(segment, edit, pictures, fadeIn, fadeOut)))
      spans.push(recordedSpan(from, to, segment.at + (from - segment.from), [light(from), light(to)], scene))
  }
  for (const placed of map.inserts) {
    const what = edit.inserts.find((i) => i.id === placed.id)?.what
    if (what)
      spans.push({
        at: placed.at,
        length: placed.length,
        layers: insertLayers(what, scene),
        light: [1, 1],
        whole: null,
      })
  }
  return joined(spans.sort((a, b) => a.at - b.at))
}

function recordedSpan(from: number, to: number, at: number, light: readonly [number, number], scene: Scene): Span {
  const { edit, feeds, shown, frame, arranged, part } = scene
  const middle = (from + to) / 2
  /** Which of the feeds shows each picture now. */
  const showing = new Map<string, number>()
  for (const id of scene.pictures) {
    const index = feeds.findIndex(
      (f, i) => f.id === id && middle >= (shown[i]?.from ?? 0) && middle < (shown[i]?.to ?? 0),
    )
    if (index >= 0) showing.set(id, index)
  }
  const sizes: Sizes = new Map([...showing].map(([id, index]) => [id, feeds[index] ?? frame]))
  const placed = arrange(layoutAt(edit, middle), sizes, arranged)
  const whole: Box = { x: 0, y: 0, ...frame }
  const own = (p: Placed): Placed => ({
    ...p,
    box: contain(sizes.get(p.feed) ?? frame, whole),
    clip: null,
    edged: false,
  })
  const boxes = part ? placed.filter((p) => p.feed === part.feed).map(own) : placed
  const over = (id: string, on: Clipped) =>
    edit.stretches
      .filter((s) => isActive(s, from, to) && liesOn(s.what) === id)
      .flatMap((s) => stretchLayers(s.what, from - s.from, on, scene))
  const pictures = boxes.flatMap(({ feed: id, box, clip, edged }): Layer[] => {
    const feed = showing.get(id) ?? 0
    const source: Layer = { kind: 'feed', feed, from: from - (feeds[feed]?.offset ?? 0), box, clip, edged }
    const mark = edit.watermark && id === placed[0]?.feed ? [markLayer(edit.watermark, { box, clip }, scene)] : []
    return [source, ...over(id, { box, clip }), ...mark]
  })
  const atLarge = scene.homeless.flatMap((id) => over(id, { box: whole, clip: null }))
  const layers = [...pictures, ...(part?.main === false ? [] : atLarge)]
  const only = layers.length === 1 && layers[0]?.kind === 'feed' ? layers[0] : null
  const feed = only && feeds[only.feed]
  const untouched =
    only &&
    feed &&
    !only.clip &&
    light[0] >= 1 &&
    light[1] >= 1 &&
    covers(only.box, frame) &&
    feed.width === frame.width &&
    feed.height === frame.height
  return { at, length: to - from, layers, light, whole: untouched ? { feed: only.feed, from: only.from } : null }
}

const markLayer = ({ file, box, opacity }: Watermark, on: Clipped, { assets, frame }: Scene): Layer => ({
  kind: 'still',
  still: { kind: 'picture', file, opacity },
  box: contain(assets.get(file) ?? frame, toPixels(box, on.box)),
  clip: on.clip,
})

const liesOn = (what: StretchKind): string | null =>
  what.kind === 'layout' || what.kind === 'level' ? null : (what.on ?? 'screen')

/** What a stretch lays over a picture, `into` s after its start. */
function stretchLayers(what: StretchKind, into: number, on: Clipped, { assets, frame }: Scene): Layer[] {
  const { clip } = on
  switch (what.kind) {
    case 'layout':
    case 'level':
      return []
    case 'mask': {
      const box = toPixels(what.box, on.box)
      const left = clip ? common(box, clip) : box
      return left ? [{ kind: 'mask', how: what.how, box: left, clip: null }] : []
    }
    case 'text':
      return [{ kind: 'still', still: what, box: toPixels(what.box, on.box), clip }]
    case 'picture': {
      const box = contain(assets.get(what.file) ?? frame, toPixels(what.box, on.box))
      return [{ kind: 'still', still: { kind: 'picture', file: what.file, opacity: what.opacity }, box, clip }]
    }
    case 'video': {
      const box = contain(assets.get(what.file) ?? frame, toPixels(what.box, on.box))
      return [{ kind: 'video', file: what.file, from: into, box, clip }]
    }
    case 'strokes':
      return [{ kind: 'strokes', strokes: what.strokes, from: into, box: on.box, clip }]
  }
}

function insertLayers(what: InsertKind, scene: Scene): Layer[] {
  const { edit, frame, part } = scene
  if (part?.main === false) return []
  const whole: Box = { x: 0, y: 0, ...frame }
  const mark = edit.watermark ? [markLayer(edit.watermark, { box: whole, clip: null }, scene)] : []
  return [...insertLayer(what, whole, scene), ...mark]
}

function insertLayer(what: InsertKind, whole: Box, { assets, frame }: Scene): Layer[] {
  switch (what.kind) {
    case 'card':
      return [{ kind: 'still', still: what, box: whole, clip: null }]
    case 'picture':
      return [
        {
          kind: 'still',
          still: { kind: 'picture', file: what.file, opacity: 1 },
          box: contain(assets.get(what.file) ?? frame, whole),
          clip: null,
        },
      ]
    case 'video':
      return [
        {
          kind: 'video',
          file: what.file,
          from: what.from,
          box: contain(assets.get(what.file) ?? frame, whole),
          clip: null,
        },
      ]
  }
}

/** The pictures that are seen at any time of a script, each as a part; the first has the sound. Empty without any. */
export function partsOf({ picture }: Script, feeds: readonly ScriptFeed[]): Part[] {
  const seen = new Set(
    picture.flatMap(({ layers }) => layers.flatMap((l) => (l.kind === 'feed' ? (feeds[l.feed]?.id ?? []) : []))),
  )
  return pictureIds(feeds)
    .filter((id) => seen.has(id))
    .map((feed, i) => ({ feed, main: i === 0 }))
}

/** Pictures that stand in the frame from `at` (s of the result) until the next, bottom-most first. */
export interface Arrangement {
  at: number
  slots: ShownSlot[]
}

/**
 * How the pictures of a script stand in its frame, for whoever has each as a film of its own: what is put in between
 * has the whole frame of the main one.
 */
export function arrangements(script: Script, feeds: readonly ScriptFeed[]): Arrangement[] {
  const { frame, picture } = script
  if (!frame) return []
  const whole: Box = { x: 0, y: 0, ...frame }
  const spans = picture.map(({ at, layers }) => ({
    at,
    slots: layers.flatMap((l) =>
      l.kind === 'feed' ? [toSlot({ ...l, feed: feeds[l.feed]?.id ?? 'screen' }, frame)] : [],
    ),
  }))
  const main = [toSlot({ feed: partsOf(script, feeds)[0]?.feed ?? 'screen', box: whole, clip: null }, frame)]
  return spans
    .map(({ at, slots }) => ({ at, slots: slots.length > 0 ? slots : main }))
    .filter(({ slots }, i, all) => !equal(slots, all[i - 1]?.slots))
}

/** Joins neighbours that show the same feed running on, so that a change that is not seen costs nothing. */
function joined(spans: readonly Span[]): Span[] {
  const out: Span[] = []
  for (const span of spans) {
    const last = out.at(-1)
    const runsOn =
      last?.whole &&
      span.whole &&
      last.whole.feed === span.whole.feed &&
      Math.abs(last.whole.from + last.length - span.whole.from) < EPSILON
    if (last && runsOn) out[out.length - 1] = { ...last, length: last.length + span.length }
    else out.push(span)
  }
  return out
}

function soundSpans(map: TimeMap, edit: EditDocument, feeds: readonly ScriptFeed[], assets: ScriptAssets): SoundSpan[] {
  const sounding = feeds.map((feed, index) => ({ feed, index })).filter(({ feed }) => feed.kind === 'sound')
  const over = edit.stretches.filter((s) => s.what.kind === 'video' && s.what.sound && assets.get(s.what.file)?.sound)
  const levels = edit.stretches.filter((s) => s.what.kind === 'level')
  const spans: SoundSpan[] = []
  for (const segment of map.kept) {
    const marks = [
      ...[...over, ...levels].flatMap((s) => [s.from, s.to]),
      ...sounding.flatMap(({ feed }) => [feed.offset, feed.offset + feed.duration]),
    ]
    const edges = [
      segment.from,
      ...marks.filter((t) => t > segment.from + EPSILON && t < segment.to - EPSILON).sort((a, b) => a - b),
      segment.to,
    ]
    for (const [from, to] of pairs(edges)) {
      if (to - from < EPSILON) continue
      const instead = over.findLast((s) => isActive(s, from, to))
      const feed = sounding.find(
        (s) => (from + to) / 2 >= s.feed.offset && (from + to) / 2 < s.feed.offset + s.feed.duration,
      )
      const own: SoundSource | null = feed ? { kind: 'feed', feed: feed.index, from: from - feed.feed.offset } : null
      const gain = gainOf(levels.filter((s) => isActive(s, from, to)))
      const place = { at: segment.at + (from - segment.from), length: to - from }
      if (instead?.what.kind !== 'video') spans.push({ ...place, source: own, ...(own && gain !== 1 && { gain }) })
      else {
        const { file, under } = instead.what
        spans.push({
          ...place,
          source: { kind: 'asset', file, from: from - instead.from },
          ...(own && under !== undefined && { beneath: { source: own, gain: gain * amplitude(under) } }),
        })
      }
    }
  }
  for (const placed of map.inserts) {
    const what = edit.inserts.find((i) => i.id === placed.id)?.what
    const source: SoundSpan['source'] =
      what?.kind === 'video' && assets.get(what.file)?.sound
        ? { kind: 'asset', file: what.file, from: what.from }
        : null
    spans.push({ at: placed.at, length: placed.length, source })
  }
  return joinedSound(spans.sort((a, b) => a.at - b.at))
}

/** @param decibels dB of an amplitude */
const amplitude = (decibels: number): number => 10 ** (decibels / 20)

/** What stretches of levels make of the lecture's sound together. */
const gainOf = (levels: readonly Stretch[]): number =>
  levels.reduce(
    (gain, { what }) => (what.kind === 'level' ? (what.gain === null ? 0 : gain * amplitude(what.gain)) : gain),
    1,
  )

/** Joins neighbours that are silent, or go on in the same file as loud as before. */
function joinedSound(spans: readonly SoundSpan[]): SoundSpan[] {
  const out: SoundSpan[] = []
  for (const span of spans) {
    const last = out.at(-1)
    const isSilent = last && last.source === null && span.source === null
    const goesOn =
      last?.source?.kind === 'feed' &&
      runsOn(last, span) &&
      (last.gain ?? 1) === (span.gain ?? 1) &&
      !last.beneath &&
      !span.beneath
    if (last && (isSilent || goesOn)) out[out.length - 1] = { ...last, length: last.length + span.length }
    else out.push(span)
  }
  return out
}

const byPicture = bisector((s: Span) => s.at).right
const bySound = bisector((s: SoundSpan) => s.at).right

/** What is seen at an instant of a result, s; at its end, what was seen last. Undefined when nothing ever is. */
export const spanAt = (spans: readonly Span[], time: number): Span | undefined =>
  spans[Math.max(0, byPicture(spans, time + EPSILON) - 1)]

/** What is heard at an instant of a result, s. */
export const soundAt = (spans: readonly SoundSpan[], time: number): SoundSpan | undefined =>
  spans[Math.max(0, bySound(spans, time + EPSILON) - 1)]
