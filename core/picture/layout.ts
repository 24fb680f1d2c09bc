/** How the pictures of a take share one frame. Geometry only; px of the output frame. */
import type { Layout } from '../schema/edit'

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

/** Width of an inset as a share of the frame, and its distance from the edges as a share of the frame's height. */
const INSET = { width: 0.2, margin: 0.03 }

/**
 * Size of the result and where each picture stands in it, bottom-most first. A layout that asks for a feed that
 * was not recorded falls back to what there is.
 * @returns null when there is no picture at all
 */
export function arrange(layout: Layout, sizes: { screen: Size | null; camera: Size | null }): { frame: Size; placed: Placed[] } | null {
  const main = layout === 'camera' ? (sizes.camera ? 'camera' : 'screen') : sizes.screen ? 'screen' : 'camera'
  const size = sizes[main]
  if (!size) return null
  const frame = { width: even(size.width), height: even(size.height) }
  const placed: Placed[] = [{ kind: main, box: { x: 0, y: 0, ...frame } }]
  if (layout === 'inset' && main === 'screen' && sizes.camera) {
    const width = even(frame.width * INSET.width)
    const height = even((width * sizes.camera.height) / sizes.camera.width)
    const margin = Math.round(frame.height * INSET.margin)
    placed.push({ kind: 'camera', box: { x: frame.width - width - margin, y: frame.height - height - margin, width, height } })
  }
  return { frame, placed }
}
