/** Inputs of a recording: settings that follow from what an input shows, what they cost, and which device is meant. */
import { max } from 'd3-array'
import type { ShareBox } from '../schema/edit'
import type { InputPlan, InputSource, Setup, Shows } from '../schema/setup'

export const isSound = (source: InputSource): boolean =>
  source === 'microphone' || source === 'computer' || source === 'hall-lectern' || source === 'hall-ceiling'
export const isHall = (source: InputSource): boolean => source.startsWith('hall-')
/** A screen takes the large place in the frame, a camera the inset. */
export const kindOf = (source: InputSource): 'screen' | 'camera' | 'sound' =>
  isSound(source) ? 'sound' : source === 'display' || source === 'hall-screen' ? 'screen' : 'camera'

type Picture = NonNullable<InputPlan['picture']>

/**
 * What people go by: a face is fine small, but choppy under 24 frames/s; slides and documents need few frames and every
 * pixel; a video inside the lecture needs its own frame rate.
 */
export const usual: Record<Shows, Pick<Picture, 'width' | 'height' | 'frameRate'> & { bitrate: number }> = {
  face: { width: 640, height: 480, frameRate: 24, bitrate: 1_200_000 },
  slides: { width: 1920, height: 1080, frameRate: 15, bitrate: 1_500_000 },
  video: { width: 1280, height: 720, frameRate: 30, bitrate: 3_000_000 },
  document: { width: 1920, height: 1080, frameRate: 10, bitrate: 1_500_000 },
}
const SOUND_BITRATE = 96_000

const names: Record<InputSource, string> = {
  'hall-screen': 'Hall screen',
  'hall-camera': 'Hall camera',
  'hall-lectern': 'Lectern microphone',
  'hall-ceiling': 'Ceiling microphone',
  display: 'Screen',
  camera: 'Camera',
  microphone: 'Microphone',
  computer: 'This computer’s sound',
}

/** A new input with the settings that suit it. Inputs of the same source are told apart by a number. */
export function newInput(id: string, source: InputSource, others: readonly InputPlan[]): InputPlan {
  const same = others.filter((o) => o.source === source).length
  const plan: InputPlan = {
    id,
    source,
    label: same ? `${names[source]} ${same + 1}` : names[source],
    on: true,
    deviceId: '',
    deviceName: '',
    picture: null,
    bitrate: SOUND_BITRATE,
    gain: 1,
  }
  return isSound(source) ? plan : show(plan, kindOf(source) === 'screen' ? 'slides' : 'face')
}

/** The input with the settings usual for what it shows. */
export function show(plan: InputPlan, shows: Shows): InputPlan {
  const { bitrate, ...picture } = usual[shows]
  // The simulated hall draws its screen at this size.
  const size = plan.source === 'hall-screen' ? { width: 1280, height: 720 } : {}
  return { ...plan, bitrate, picture: { shows, ...picture, ...size, area: plan.picture?.area ?? null } }
}

/** Bytes an hour. */
export const perHour = (bitrate: number): number => (bitrate * 3600) / 8

/** What is switched on takes together, bytes an hour. */
export const sumPerHour = (inputs: readonly InputPlan[]): number =>
  inputs.filter((i) => i.on).reduce((sum, i) => sum + perHour(i.bitrate), 0)

/** Storage that is never filled: settling a take needs a little beside what it has. */
export const RESERVE = 64 << 20

/**
 * What has to be free for every byte an hour that is recorded: making a take whole writes all its feeds once more
 * before the chunks go, and the one that is being written stands in a scratch file too.
 * @param rates bytes, or bytes an hour, of each feed
 */
export const withSettling = (rates: readonly number[]): number =>
  2 * rates.reduce((a, b) => a + b, 0) + (max(rates) ?? 0)

/**
 * Hours that can still be recorded.
 * @param free bytes of storage left
 * @param rates bytes an hour of each feed that is on
 */
export function hoursThatFit(free: number, rates: readonly number[]): number {
  const needed = withSettling(rates)
  return needed === 0 ? Infinity : Math.max(0, free - RESERVE) / needed
}

/**
 * Minutes that can still be recorded at the rate at which a recording really grows; what is recorded already has to be
 * settled too.
 * @param free bytes of storage left; @param kept bytes of each feed after `seconds`
 */
export function minutesThatFit(free: number, kept: readonly number[], seconds: number): number {
  const needed = withSettling(kept)
  if (needed === 0 || seconds <= 0) return Infinity
  const due = needed - kept.reduce((a, b) => a + b, 0)
  return Math.max(0, free - due) / (needed / seconds) / 60
}

/** Bytes that have to be free for so many more minutes; the other way round of `minutesThatFit`. */
export function freeFor(minutes: number, kept: readonly number[], seconds: number): number {
  const needed = withSettling(kept)
  return seconds <= 0 ? 0 : needed - kept.reduce((a, b) => a + b, 0) + (needed / seconds) * 60 * minutes
}

/** Share (0…1) of a feed's frames that are missing; 0 while there are too few to say. */
export const missingFrames = ({ frames, due }: { frames: number; due: number }): number =>
  due > 30 ? Math.max(0, 1 - frames / due) : 0

/** Smallest side of a drawn area, as a share of the picture. */
const SMALLEST = 0.05

/** The area between two corners, in whatever order; null when it is too small to have been meant. */
export function areaBetween(a: { x: number; y: number }, b: { x: number; y: number }): ShareBox | null {
  const area = { x: Math.min(a.x, b.x), y: Math.min(a.y, b.y), width: Math.abs(a.x - b.x), height: Math.abs(a.y - b.y) }
  return area.width < SMALLEST || area.height < SMALLEST ? null : area
}

/** An area (null is all of the picture) with one of its numbers changed, kept within the picture. */
export function withEdge(area: ShareBox | null, key: keyof ShareBox, share: number): ShareBox {
  const next = { x: 0, y: 0, width: 1, height: 1, ...area, [key]: share }
  const x = Math.min(1 - SMALLEST, Math.max(0, next.x))
  const y = Math.min(1 - SMALLEST, Math.max(0, next.y))
  return {
    x,
    y,
    width: Math.max(SMALLEST, Math.min(next.width, 1 - x)),
    height: Math.max(SMALLEST, Math.min(next.height, 1 - y)),
  }
}

/** What should be thought over before recording these inputs; sentences for a person. */
export function adviceOn(inputs: readonly InputPlan[]): string[] {
  const on = inputs.filter((i) => i.on)
  const out: string[] = []
  if (on.filter((i) => kindOf(i.source) === 'screen').length > 1)
    out.push('Two screens at once are hard to follow. Students see the first; the other is kept beside it.')
  if (on.length > 0 && !on.some((i) => isSound(i.source)))
    out.push('No sound is switched on. The lecture will be silent.')
  return out
}

/** What of a browser's list of devices is needed to find one again. */
export interface KnownDevice {
  deviceId: string
  kind: 'audioinput' | 'videoinput'
  label: string
}

const deviceKind = (source: InputSource): KnownDevice['kind'] | null =>
  source === 'camera' ? 'videoinput' : source === 'microphone' ? 'audioinput' : null

/**
 * Finds a setup's devices among those that are there: by id, or by name, as ids change when a browser's data are
 * cleared.
 * @returns the inputs with their present ids, and a sentence for each device that is missing; such an input is switched
 * off
 */
export function matchDevices(
  setup: Pick<Setup, 'inputs'>,
  present: readonly KnownDevice[],
): { inputs: InputPlan[]; missing: string[] } {
  const missing: string[] = []
  const taken = new Set<string>()
  const inputs = setup.inputs.map((input): InputPlan => {
    const kind = deviceKind(input.source)
    if (!kind || (!input.deviceId && !input.deviceName)) return input
    const free = present.filter((d) => d.kind === kind && !taken.has(d.deviceId))
    const found =
      free.find((d) => d.deviceId === input.deviceId) ??
      free.find((d) => d.label !== '' && d.label === input.deviceName)
    if (!found) {
      missing.push(
        `${input.label}: “${input.deviceName || 'its device'}” is not plugged in. Choose another, or plug it in and load the setup again.`,
      )
      return { ...input, on: false }
    }
    taken.add(found.deviceId)
    return { ...input, deviceId: found.deviceId, deviceName: found.label || input.deviceName }
  })
  return { inputs, missing }
}
