/** What the hall's camera sees: pan, tilt and zoom over the drawn hall, and how it gets there. */

/** The drawn hall, px. */
export const HALL = { width: 1600, height: 1200 } as const

/** The middle of what is seen, as shares of the hall, and how many times it is enlarged. */
export interface HallView {
  x: number
  y: number
  zoom: number
}

export type Shot = 'hall' | 'lectern' | 'board'
export const shots: Record<Shot, { label: string; view: HallView }> = {
  hall: { label: 'The whole hall', view: { x: 0.5, y: 0.5, zoom: 1 } },
  lectern: { label: 'The lectern', view: { x: 0.675, y: 0.52, zoom: 2.4 } },
  board: { label: 'The board', view: { x: 0.78, y: 0.33, zoom: 2.6 } },
}
export const WIDEST = 1
export const CLOSEST = 5

/** The view, zoomed within its limits and moved so that nothing beside the hall is seen. */
export function within({ x, y, zoom }: HallView): HallView {
  const z = Math.min(CLOSEST, Math.max(WIDEST, zoom))
  const half = 0.5 / z
  return { x: Math.min(1 - half, Math.max(half, x)), y: Math.min(1 - half, Math.max(half, y)), zoom: z }
}

/** A view a little to a side (shares of what is seen) or nearer, as a panel's buttons do it. */
export const nudged = (view: HallView, by: { x?: number; y?: number; zoom?: number }): HallView =>
  within({ x: view.x + (by.x ?? 0) / view.zoom, y: view.y + (by.y ?? 0) / view.zoom, zoom: view.zoom * (by.zoom ?? 1) })

/** Shares of the hall a second, and doublings of the zoom a second. */
const PAN = 0.22
const ZOOM = 0.8

/** Where the camera stands `seconds` later on its way to `target`: as fast as its motors go. */
export function towards(from: HallView, target: HallView, seconds: number): HallView {
  const goal = within(target)
  const ratio = Math.log2(goal.zoom / from.zoom)
  const zoom = from.zoom * 2 ** (Math.sign(ratio) * Math.min(Math.abs(ratio), ZOOM * seconds))
  const distance = Math.hypot(goal.x - from.x, goal.y - from.y)
  const share = distance === 0 ? 1 : Math.min(1, (PAN * seconds) / distance)
  return within({ x: from.x + share * (goal.x - from.x), y: from.y + share * (goal.y - from.y), zoom })
}

/** Where the speaker stands at `time` (s), px across the hall: walks a little, stays a little. */
export function speakerAt(time: number): number {
  return 1090 + 130 * Math.sin(0.19 * time) + 45 * Math.sin(0.43 * time + 1)
}

/** The view that keeps the speaker in the middle, at the zoom that is set. */
export const following = (time: number, zoom: number): HallView =>
  within({ x: speakerAt(time) / HALL.width, y: 0.53, zoom: Math.max(1.6, zoom) })

/**
 * Where somebody who comes to the lectern waits outside, and how near they come to the speaker, px; how fast they walk,
 * px a second.
 */
const DOOR = 1760
const BESIDE = 210
const WALK = 260
/** Two people closer than this are one to a camera that follows, px. */
const APART = 330

/**
 * Where a visitor is `seconds` later: on the way to the speaker, or back to the door. Beyond the hall they are not
 * seen.
 */
export function visitorLater(from: number, comes: boolean, speaker: number, seconds: number): number {
  const goal = comes ? speaker + BESIDE : DOOR
  const left = goal - from
  return from + Math.sign(left) * Math.min(Math.abs(left), WALK * seconds)
}
export const visitorOutside = DOOR

/** Whether a camera could take a visitor for the speaker. */
export const isConfused = (visitor: number, speaker: number): boolean => Math.abs(visitor - speaker) < APART
