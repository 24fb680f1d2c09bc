/**
 * What a result is made of: an edit and its feeds, laid out as spans of result time with the layers seen in each.
 * A span that shows one feed whole and untouched can be copied; every other has to be composed.
 *
 *     result  ├─card─├────── feed 0 ──────├ feed 0 + mask ├──── feed 0 ────├fade├fade├── feed 0 …
 *                    │      copied        │   composed    │    copied      │ composed│  copied
 */
import { editTimeMap, layoutAt, onFrames } from '../edit/edit'
import { pairs } from 'd3-array'
import equal from 'fast-deep-equal'
import { arrange, contain, covers, even, frameSize, toPixels, toShares, type Box, type Size } from '../picture/layout'
import type {
  EditDocument,
  InsertKind,
  PictureFeed,
  ShareBox,
  SoundTreatment,
  Stretch,
  Stroke,
  StretchKind,
} from '../schema/edit'
import type { KeptSegment, TimeMap } from '../time/time-map'

/** One file of a take. All times in seconds. */
export interface ScriptFeed {
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

/** One thing seen during a span, bottom-most first. `from` is its own time at the span's start, s. */
export type Layer =
  | { kind: 'feed'; feed: number; from: number; box: Box; edged: boolean }
  | { kind: 'video'; file: string; from: number; box: Box }
  | { kind: 'still'; still: Still; box: Box }
  | { kind: 'mask'; how: 'blur' | 'solid'; box: Box }
  | { kind: 'strokes'; strokes: readonly Stroke[]; from: number; box: Box }

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
  source: { kind: 'feed'; feed: number; from: number } | { kind: 'asset'; file: string; from: number } | null
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
  const { inserts, stretches } = edit
  const names = [...inserts, ...stretches].flatMap(({ what }) =>
    what.kind === 'picture' || what.kind === 'video' ? [what.file] : [],
  )
  return [...new Set(names)]
}

/** @throws {InvalidScript} naming what is missing, or is not what it is used as */
function checkAssets({ inserts, stretches }: EditDocument, assets: ScriptAssets): void {
  for (const { what } of [...inserts, ...stretches]) {
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
  feed: PictureFeed
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
  const sound = part?.main === false ? [] : soundSpans(map, edit, feeds, assets)
  return {
    length: map.length,
    frame,
    picture:
      frame && arranged ? pictureSpans(map, { edit, feeds, shown: extents(feeds), assets, frame, arranged, part }) : [],
    sound,
    sounds: sound.some((s) => s.source),
    treatment: edit.sound,
  }
}

const largest = (feeds: readonly ScriptFeed[], kind: 'screen' | 'camera'): ScriptFeed | null =>
  feeds.filter((f) => f.kind === kind && f.width > 0).sort((a, b) => b.width * b.height - a.width * a.height)[0] ?? null

/** The frame of a recording that has a picture, the same for all of its takes. */
export const recordingFrame = (feeds: readonly ScriptFeed[], edit: Pick<EditDocument, 'layout'>): Size | null =>
  frameSize({ screen: largest(feeds, 'screen'), camera: largest(feeds, 'camera') }, edit.layout)

/**
 * The frame is as large as the recording's large picture; a sound recording with a picture over it gets a frame of its
 * own.
 */
function sizeOf(feeds: readonly ScriptFeed[], assets: ScriptAssets, edit: EditDocument): Size | null {
  const size = recordingFrame(feeds, edit)
  if (size) return size
  const shown = [...edit.inserts.map((i) => i.what), ...edit.stretches.map((s) => s.what)]
  if (!shown.some((w) => w.kind !== 'layout' && w.kind !== 'mask')) return null
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
    const alike = feeds.filter((f) => f !== feed && f.kind === feed.kind)
    const end = feed.offset + feed.duration
    const before = Math.max(-Infinity, ...alike.filter((f) => f.offset < feed.offset).map((f) => f.offset + f.duration))
    const after = Math.min(Infinity, ...alike.filter((f) => f.offset > feed.offset).map((f) => f.offset))
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
    ...edit.stretches.flatMap((s) => [s.from, s.to]),
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
  const showing = (kind: PictureFeed) =>
    feeds.findIndex((f, i) => f.kind === kind && middle >= (shown[i]?.from ?? 0) && middle < (shown[i]?.to ?? 0))
  const indices = { screen: showing('screen'), camera: showing('camera') }
  const layout = layoutAt(edit, middle)
  const placed = arrange(
    layout,
    { screen: feeds[indices.screen] ?? null, camera: feeds[indices.camera] ?? null },
    arranged,
  )
  const whole: Box = { x: 0, y: 0, ...frame }
  const boxes = part
    ? placed
        .filter((p) => p.kind === part.feed)
        .map((p) => ({ ...p, box: contain(feeds[indices[p.kind]] ?? frame, whole) }))
    : placed
  const over = (kind: PictureFeed, box: Box) =>
    edit.stretches
      .filter((s) => isActive(s, from, to) && liesOn(s.what) === kind)
      .flatMap((s) => stretchLayers(s.what, from - s.from, box, scene))
  const pictures = boxes.flatMap(({ kind, box }, i): Layer[] => {
    const feed = indices[kind]
    const edged = i > 0 && layout === 'inset'
    return [{ kind: 'feed', feed, from: from - (feeds[feed]?.offset ?? 0), box, edged }, ...over(kind, box)]
  })
  const homeless = KINDS.filter((kind) => !feeds.some((f) => f.kind === kind))
  const layers = [...pictures, ...(part?.main === false ? [] : homeless.flatMap((kind) => over(kind, whole)))]
  const only = layers.length === 1 && layers[0]?.kind === 'feed' ? layers[0] : null
  const feed = only && feeds[only.feed]
  const untouched =
    only &&
    feed &&
    light[0] >= 1 &&
    light[1] >= 1 &&
    covers(only.box, frame) &&
    feed.width === frame.width &&
    feed.height === frame.height
  return { at, length: to - from, layers, light, whole: untouched ? { feed: only.feed, from: only.from } : null }
}

const KINDS: readonly PictureFeed[] = ['screen', 'camera']
const liesOn = (what: StretchKind): PictureFeed | null => (what.kind === 'layout' ? null : (what.on ?? 'screen'))

/** What a stretch lays over the picture that stands at `on`, `into` s after its start. */
function stretchLayers(what: StretchKind, into: number, on: Box, { assets, frame }: Scene): Layer[] {
  switch (what.kind) {
    case 'layout':
      return []
    case 'mask':
      return [{ kind: 'mask', how: what.how, box: toPixels(what.box, on) }]
    case 'text':
      return [{ kind: 'still', still: what, box: toPixels(what.box, on) }]
    case 'picture': {
      const box = contain(assets.get(what.file) ?? frame, toPixels(what.box, on))
      return [{ kind: 'still', still: { kind: 'picture', file: what.file, opacity: what.opacity }, box }]
    }
    case 'video':
      return [
        {
          kind: 'video',
          file: what.file,
          from: into,
          box: contain(assets.get(what.file) ?? frame, toPixels(what.box, on)),
        },
      ]
    case 'strokes':
      return [{ kind: 'strokes', strokes: what.strokes, from: into, box: on }]
  }
}

function insertLayers(what: InsertKind, { assets, frame, part }: Scene): Layer[] {
  if (part?.main === false) return []
  const whole: Box = { x: 0, y: 0, ...frame }
  switch (what.kind) {
    case 'card':
      return [{ kind: 'still', still: what, box: whole }]
    case 'picture':
      return [
        {
          kind: 'still',
          still: { kind: 'picture', file: what.file, opacity: 1 },
          box: contain(assets.get(what.file) ?? frame, whole),
        },
      ]
    case 'video':
      return [{ kind: 'video', file: what.file, from: what.from, box: contain(assets.get(what.file) ?? frame, whole) }]
  }
}

/** The pictures that are seen at any time of a script, each as a part; the first has the sound. Empty without any. */
export function partsOf({ picture }: Script, feeds: readonly ScriptFeed[]): Part[] {
  const seen = (kind: PictureFeed) =>
    picture.some(({ layers }) => layers.some((l) => l.kind === 'feed' && feeds[l.feed]?.kind === kind))
  return KINDS.filter(seen).map((feed, i) => ({ feed, main: i === 0 }))
}

/** Pictures that stand in the frame from `at` (s of the result) until the next, bottom-most first. */
export interface Arrangement {
  at: number
  slots: { feed: PictureFeed; box: ShareBox }[]
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
    slots: layers.flatMap((l) => {
      const kind = l.kind === 'feed' && feeds[l.feed]?.kind
      return kind === 'screen' || kind === 'camera' ? [{ feed: kind, box: toShares(l.box, frame) }] : []
    }),
  }))
  const main = [{ feed: partsOf(script, feeds)[0]?.feed ?? 'screen', box: toShares(whole, frame) }]
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
  const spans: SoundSpan[] = []
  for (const segment of map.kept) {
    const marks = [
      ...over.flatMap((s) => [s.from, s.to]),
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
      const source: SoundSpan['source'] =
        instead?.what.kind === 'video'
          ? { kind: 'asset', file: instead.what.file, from: from - instead.from }
          : feed
            ? { kind: 'feed', feed: feed.index, from: from - feed.feed.offset }
            : null
      spans.push({ at: segment.at + (from - segment.from), length: to - from, source })
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

function joinedSound(spans: readonly SoundSpan[]): SoundSpan[] {
  const out: SoundSpan[] = []
  for (const span of spans) {
    const last = out.at(-1)
    const a = last?.source
    const b = span.source
    const runsOn =
      last &&
      ((a === null && b === null) ||
        (a?.kind === 'feed' &&
          b?.kind === 'feed' &&
          a.feed === b.feed &&
          Math.abs(a.from + last.length - b.from) < EPSILON))
    if (last && runsOn) out[out.length - 1] = { ...last, length: last.length + span.length }
    else out.push(span)
  }
  return out
}
