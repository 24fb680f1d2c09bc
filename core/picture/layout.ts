/** How the pictures of a recording share one frame. Geometry only; px of the output frame. */
import type { Fit, Layout, LayoutPreset, ShareBox, Slot } from '../schema/edit'

export interface Box {
  x: number
  y: number
  width: number
  height: number
}

export interface Size {
  width: number
  height: number
}

/** Where a feed's picture stands. */
export interface Placed {
  feed: string
  /** All of the picture; where it covers a slot of another shape it reaches out of the frame that `clip` leaves it. */
  box: Box
  /** What of the box is seen; null for all of it. */
  clip: Box | null
  /** Whether it lies over another one, and has an edge to tell it from that. */
  edged: boolean
}

/** Sizes of the pictures that there are, by their feeds; those of `screen` and `camera` first. */
export type Sizes = ReadonlyMap<string, Size>

/** Encoders for 4:2:0 pictures want even sides. */
export const even = (px: number): number => Math.max(2, 2 * Math.round(px / 2))

/** Chroma is stored for 2×2 px, so that boxes stand on even positions. */
const evenAt = (px: number): number => 2 * Math.round(px / 2)

/** Width of an inset as a share of the frame, and its distance from the edges as a share of the frame's height. */
const INSET = { width: 0.2, margin: 0.03 }
/** Share of the frame's width that the screen has when the camera stands beside it. */
const BESIDE = 0.72

/** Size of the result: that of the picture that is large at first. Null when there is no picture at all. */
export function frameSize(sizes: Sizes, layout: Layout): Size | null {
  const largest = typeof layout === 'string' ? (layout === 'camera' ? 'camera' : 'screen') : layout[0]?.feed
  const size = sizes.get(largest ?? '') ?? sizes.get('screen') ?? sizes.get('camera') ?? [...sizes.values()][0]
  return size ? { width: even(size.width), height: even(size.height) } : null
}

/** The largest box of `size`'s shape inside `into`, centred. */
export function contain(size: Size, into: Box): Box {
  const scale = Math.min(into.width / size.width, into.height / size.height)
  const width = Math.min(into.width, even(size.width * scale))
  const height = Math.min(into.height, even(size.height * scale))
  return { x: evenAt(into.x + (into.width - width) / 2), y: evenAt(into.y + (into.height - height) / 2), width, height }
}

/** The smallest box of `size`'s shape around `into`, with the same centre; it may reach out of the frame. */
function cover(size: Size, into: Box): Box {
  const scale = Math.max(into.width / size.width, into.height / size.height)
  const width = Math.max(into.width, even(size.width * scale))
  const height = Math.max(into.height, even(size.height * scale))
  return { x: evenAt(into.x + (into.width - width) / 2), y: evenAt(into.y + (into.height - height) / 2), width, height }
}

function boxIn(feed: string, size: Size, into: Box, fit: Fit = 'contain'): Omit<Placed, 'edged'> {
  if (fit === 'contain') return { feed, box: contain(size, into), clip: null }
  const box = cover(size, into)
  return { feed, box, clip: box.width > into.width || box.height > into.height ? into : null }
}

const meets = (a: Box, b: Box) =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height

const seen = ({ box, clip }: Pick<Placed, 'box' | 'clip'>) => clip ?? box

/**
 * Where each picture stands in a frame, bottom-most first. A layout that asks for a feed that is not there falls
 * back to what there is: of several slots, one that is left alone has the whole frame.
 */
export function arrange(layout: Layout, sizes: Sizes, frame: Size): Placed[] {
  const placed = typeof layout === 'string' ? preset(layout, sizes, frame) : inSlots(layout, sizes, frame)
  return placed.map((p, i) => ({ ...p, edged: placed.slice(0, i).some((under) => meets(seen(under), seen(p))) }))
}

function inSlots(slots: Exclude<Layout, string>, sizes: Sizes, frame: Size): Omit<Placed, 'edged'>[] {
  const whole: Box = { x: 0, y: 0, ...frame }
  const there = slots.flatMap((slot) => {
    const size = sizes.get(slot.feed)
    return size ? [{ slot, size }] : []
  })
  const isAlone = there.length === 1 && slots.length > 1
  return there.map(({ slot: { feed, box, fit }, size }) =>
    isAlone ? boxIn(feed, size, whole) : boxIn(feed, size, toPixels(box, whole), fit),
  )
}

function preset(layout: LayoutPreset, sizes: Sizes, frame: Size): Omit<Placed, 'edged'>[] {
  const whole: Box = { x: 0, y: 0, ...frame }
  const screen = sizes.get('screen')
  const camera = sizes.get('camera')
  if (!screen || !camera || layout === 'screen' || layout === 'camera') {
    const feed = layout === 'camera' ? (camera ? 'camera' : 'screen') : screen ? 'screen' : 'camera'
    const size = sizes.get(feed)
    return size ? [boxIn(feed, size, whole)] : []
  }
  if (layout === 'beside') {
    const split = evenAt(frame.width * BESIDE)
    return [
      boxIn('screen', screen, { x: 0, y: 0, width: split, height: frame.height }),
      boxIn('camera', camera, { x: split, y: 0, width: frame.width - split, height: frame.height }),
    ]
  }
  const width = even(frame.width * INSET.width)
  const height = even((width * camera.height) / camera.width)
  const margin = evenAt(frame.height * INSET.margin)
  const corner = { x: evenAt(frame.width - width - margin), y: evenAt(frame.height - height - margin), width, height }
  return [boxIn('screen', screen, whole), { feed: 'camera', box: corner, clip: null }]
}

/** A box given in shares of a picture that stands at `into`, in px on even positions and never outside of it. */
export function toPixels(box: ShareBox, into: Box): Box {
  const x = Math.min(into.width - 2, evenAt(box.x * into.width))
  const y = Math.min(into.height - 2, evenAt(box.y * into.height))
  return {
    x: into.x + x,
    y: into.y + y,
    width: Math.min(into.width - x, even(box.width * into.width)),
    height: Math.min(into.height - y, even(box.height * into.height)),
  }
}

/** A box as shares of the frame that it stands in. */
export const toShares = (box: Box, frame: Size): ShareBox => ({
  x: box.x / frame.width,
  y: box.y / frame.height,
  width: box.width / frame.width,
  height: box.height / frame.height,
})

/** Whether a box is the whole frame. */
export const covers = (box: Box, frame: Size): boolean =>
  box.x <= 0 && box.y <= 0 && box.x + box.width >= frame.width && box.y + box.height >= frame.height

/** What two boxes have in common; null when that is nothing. */
export function common(a: Box, b: Box): Box | null {
  const [x, y] = [Math.max(a.x, b.x), Math.max(a.y, b.y)]
  const width = Math.min(a.x + a.width, b.x + b.width) - x
  const height = Math.min(a.y + a.height, b.y + b.height) - y
  return width > 0 && height > 0 ? { x, y, width, height } : null
}

/** Where a picture of a published lecture stands in its frame; its box is covered when `fit` says so. */
export interface ShownSlot {
  feed: string
  box: ShareBox
  fit?: 'cover'
}

/** A placed picture as whoever plays it needs it. */
export const toSlot = (placed: Pick<Placed, 'feed' | 'box' | 'clip'>, frame: Size): ShownSlot => ({
  feed: placed.feed,
  box: toShares(seen(placed), frame),
  ...(placed.clip && { fit: 'cover' as const }),
})

/** The arrangement that holds at an instant. @param layout by their instants */
export const arrangementAt = <A extends { at: number }>(layout: readonly A[], time: number): A | undefined =>
  layout.findLast((a) => a.at <= time + 1e-3) ?? layout[0]

/**
 * Two pictures as a student wants them, where both are seen at once; otherwise, and when no wish is given, as they were
 * laid out: what was hidden for a while stays hidden.
 * @param sizes of the pictures, by feed
 */
export function rearranged(
  slots: readonly ShownSlot[],
  wish: LayoutPreset | null,
  sizes: Sizes,
  frame: Size,
): readonly ShownSlot[] {
  const shown = new Map([...sizes].filter(([feed]) => slots.some((s) => s.feed === feed)))
  if (!wish || !shown.has('screen') || !shown.has('camera')) return slots
  return arrange(wish, shown, frame).map((placed) => toSlot(placed, frame))
}

/** Arrangements that are ready to be chosen, for the pictures of a recording. @param ids `screen` and `camera` first */
export function readyLayouts(ids: readonly string[]): { name: string; layout: Layout }[] {
  const whole: ShareBox = { x: 0, y: 0, width: 1, height: 1 }
  const corner: ShareBox = { x: 0.68, y: 0.66, width: 0.3, height: 0.3 }
  const presets: { name: string; layout: LayoutPreset }[] = [
    { name: 'Screen, camera inset', layout: 'inset' },
    { name: 'Screen', layout: 'screen' },
    { name: 'Camera', layout: 'camera' },
    { name: 'Side by side', layout: 'beside' },
  ]
  const both = ids.includes('screen') && ids.includes('camera')
  const others = ids.filter((id) => id !== 'screen' && id !== 'camera')
  const slot = (feed: string, box: ShareBox): Slot => ({ feed, box, fit: 'contain' })
  return [
    ...(both ? presets : []),
    ...(both ? [{ name: 'Camera, screen inset', layout: [slot('camera', whole), slot('screen', corner)] }] : []),
    ...others.map((id) => ({
      name: `${id.charAt(0).toUpperCase()}${id.slice(1).replace('-', ' ')}`,
      layout: [slot(id, whole)],
    })),
  ]
}
