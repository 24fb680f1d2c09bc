/** How the pictures of a take share one frame. Geometry only; px of the output frame. */
import type { Layout, ShareBox } from '../schema/edit'

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

export interface Placed {
  kind: 'screen' | 'camera'
  box: Box
}

/** Encoders for 4:2:0 pictures want even sides. */
export const even = (px: number): number => Math.max(2, 2 * Math.round(px / 2))

/** Chroma is stored for 2×2 px, so that boxes stand on even positions. */
const evenAt = (px: number): number => 2 * Math.round(px / 2)

/** Width of an inset as a share of the frame, and its distance from the edges as a share of the frame's height. */
const INSET = { width: 0.2, margin: 0.03 }
/** Share of the frame's width that the screen has when the camera stands beside it. */
const BESIDE = 0.72

/** Size of the result: that of the picture that is large at first. Null when there is no picture at all. */
export function frameSize(sizes: { screen: Size | null; camera: Size | null }, layout: Layout): Size | null {
  const size = layout === 'camera' ? (sizes.camera ?? sizes.screen) : (sizes.screen ?? sizes.camera)
  return size && { width: even(size.width), height: even(size.height) }
}

/** The largest box of `size`'s shape inside `into`, centred. */
export function contain(size: Size, into: Box): Box {
  const scale = Math.min(into.width / size.width, into.height / size.height)
  const width = Math.min(into.width, even(size.width * scale))
  const height = Math.min(into.height, even(size.height * scale))
  return { x: evenAt(into.x + (into.width - width) / 2), y: evenAt(into.y + (into.height - height) / 2), width, height }
}

/**
 * Where each picture stands in a frame, bottom-most first. A layout that asks for a feed that is not there falls
 * back to what there is; a picture of another shape than its place is centred in it, never stretched.
 */
export function arrange(layout: Layout, sizes: { screen: Size | null; camera: Size | null }, frame: Size): Placed[] {
  const { screen, camera } = sizes
  const whole: Box = { x: 0, y: 0, ...frame }
  if (!screen || !camera || layout === 'screen' || layout === 'camera') {
    const kind = layout === 'camera' ? (camera ? 'camera' : 'screen') : screen ? 'screen' : 'camera'
    const size = sizes[kind]
    return size ? [{ kind, box: contain(size, whole) }] : []
  }
  if (layout === 'beside') {
    const split = evenAt(frame.width * BESIDE)
    return [
      { kind: 'screen', box: contain(screen, { x: 0, y: 0, width: split, height: frame.height }) },
      { kind: 'camera', box: contain(camera, { x: split, y: 0, width: frame.width - split, height: frame.height }) },
    ]
  }
  const width = even(frame.width * INSET.width)
  const height = even((width * camera.height) / camera.width)
  const margin = evenAt(frame.height * INSET.margin)
  return [
    { kind: 'screen', box: contain(screen, whole) },
    {
      kind: 'camera',
      box: { x: evenAt(frame.width - width - margin), y: evenAt(frame.height - height - margin), width, height },
    },
  ]
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

/** Where a picture stands in a frame, in shares of it. */
export interface Slot {
  feed: string
  box: ShareBox
}

/** The arrangement that holds at an instant. @param layout by their instants */
export const arrangementAt = <A extends { at: number }>(layout: readonly A[], time: number): A | undefined =>
  layout.findLast((a) => a.at <= time + 1e-3) ?? layout[0]

/**
 * Two pictures as a student wants them, where both are seen at once; otherwise, and when no wish is given, as they were
 * laid out: what was hidden for a while stays hidden.
 * @param sizes of the pictures, by feed
 */
export function rearranged(
  slots: readonly Slot[],
  wish: Layout | null,
  sizes: ReadonlyMap<string, Size>,
  frame: Size,
): readonly Slot[] {
  const of = (feed: string) => (slots.some((s) => s.feed === feed) ? (sizes.get(feed) ?? null) : null)
  const [screen, camera] = [of('screen'), of('camera')]
  if (!wish || !screen || !camera) return slots
  return arrange(wish, { screen, camera }, frame).map(({ kind, box }) => ({ feed: kind, box: toShares(box, frame) }))
}
