/**
 * Where on the picture a cue stands: at the foot, unless its WebVTT settings say otherwise (W3C WebVTT, §4.4 cue
 * settings); and which cues would cover what is written there.
 */
import { common, type Box } from '../picture/layout'
import type { Script } from '../render/script'
import type { CaptionTrack, Cue } from '../schema/captions'
import { projectRange, type TimeMap } from '../time/time-map'
import { recorded, type RecordedRange } from '../time/units'

/** Places that a person chooses from. `own` is what a file asked for otherwise. */
export const places = ['foot', 'foot left', 'foot right', 'top', 'top left', 'top right'] as const
export type Place = (typeof places)[number]

/** Where a cue's settings have it stand, as far as the player follows them. */
export interface Standing {
  line: 'foot' | 'top'
  align: 'left' | 'center' | 'right'
}

const settingsOf = (cue: Pick<Cue, 'settings'>): [name: string, value: string][] =>
  (cue.settings ?? '')
    .split(/[ \t]+/)
    .filter((s) => s.includes(':'))
    .map((s) => [s.slice(0, s.indexOf(':')), s.slice(s.indexOf(':') + 1)])

/** A number of lines counts from the top, or from the foot when it is negative; a share goes from the top down. */
function lineOf(value: string): Standing['line'] {
  const [at = ''] = value.split(',')
  const number = parseFloat(at)
  if (!Number.isFinite(number)) return 'foot'
  if (at.endsWith('%')) return number < 50 ? 'top' : 'foot'
  // A picture has some fifteen lines of captions.
  return number >= 0 && number < 7 ? 'top' : 'foot'
}

export function standingOf(cue: Pick<Cue, 'settings'>): Standing {
  const settings = new Map(settingsOf(cue))
  const align = settings.get('align') ?? 'center'
  return {
    line: lineOf(settings.get('line') ?? ''),
    align: align === 'start' || align === 'left' ? 'left' : align === 'end' || align === 'right' ? 'right' : 'center',
  }
}

/** The place that a person may have chosen for a cue. */
export function placeOf(cue: Pick<Cue, 'settings'>): Place {
  const { line, align } = standingOf(cue)
  return align === 'center' ? line : (`${line} ${align}` as Place)
}

/** Has a cue stand somewhere else. What its settings say of its size, region and direction stays. */
export function setPlace(track: CaptionTrack, id: string, place: Place): CaptionTrack {
  const [line, align] = place.split(' ')
  const moved = (cue: Cue): Cue => {
    const { settings: _, ...rest } = cue
    const kept = settingsOf(cue).filter(([name]) => name !== 'line' && name !== 'align' && name !== 'position')
    const next = [
      ...kept.map(([name, value]) => `${name}:${value}`),
      ...(line === 'top' ? ['line:0'] : []),
      ...(align ? [`align:${align}`] : []),
    ].join(' ')
    return next ? { ...rest, settings: next } : rest
  }
  return { ...track, cues: track.cues.map((c) => (c.id === id ? moved(c) : c)) }
}

/** Where captions stand at the foot, in shares of the picture. */
const FOOT = { x: 0.1, y: 0.82, width: 0.8, height: 0.18 }
/** A cue and what it would cover have to be seen together for this long to be said, s. */
const TOGETHER = 0.3

/** Stretches of the result in which something that was laid over the picture stands at its foot, s. */
export function laidAtFoot(script: Script): { from: number; to: number }[] {
  const { frame } = script
  if (!frame) return []
  const foot: Box = {
    x: FOOT.x * frame.width,
    y: FOOT.y * frame.height,
    width: FOOT.width * frame.width,
    height: FOOT.height * frame.height,
  }
  return script.picture.flatMap(({ at, length, layers }) => {
    const isTaken = layers.some((layer) => {
      if (layer.kind === 'feed' || layer.kind === 'mask') return false
      if (layer.kind === 'still' && layer.still.kind === 'card') return false
      const seen = layer.clip ? common(layer.box, layer.clip) : layer.box
      const under = seen && common(seen, foot)
      // What reaches in by a little is not covered.
      return !!under && under.height > 0.02 * frame.height && under.width > 0.02 * frame.width
    })
    return isTaken ? [{ from: at, to: at + length }] : []
  })
}

/** Difference of luma along a row of a cell, 0…255, from which on something is written or drawn on it. */
const CONTRAST = 56
/** Cells of the foot, across and down. */
const COLUMNS = 48
const ROWS = 8
/** Share of them that has something on it, from which on a caption would hide it. A page number is less. */
const WRITTEN = 0.06

/**
 * Whether something is written at the foot of a picture.
 * @param rgba its pixels, `width` × `height`
 */
export function isFootWritten(rgba: Uint8ClampedArray, width: number, height: number): boolean {
  let written = 0
  for (let row = 0; row < ROWS; row++)
    for (let column = 0; column < COLUMNS; column++) {
      const part = (from: number, share: number, of: number, n: number, all: number) =>
        Math.floor((from + (share * n) / all) * of)
      const [x0, x1] = [
        part(FOOT.x, FOOT.width, width, column, COLUMNS),
        part(FOOT.x, FOOT.width, width, column + 1, COLUMNS),
      ]
      const [y0, y1] = [part(FOOT.y, FOOT.height, height, row, ROWS), part(FOOT.y, FOOT.height, height, row + 1, ROWS)]
      // Letters differ along a row; the edge of a bar, or a rule, does not.
      let most = 0
      for (let y = y0; y < Math.max(y1, y0 + 1); y++) {
        let [low, high] = [255, 0]
        for (let x = x0; x < Math.max(x1, x0 + 1); x++) {
          const i = 4 * (y * width + x)
          // Rec. 709 luma.
          const luma = 0.2126 * (rgba[i] ?? 0) + 0.7152 * (rgba[i + 1] ?? 0) + 0.0722 * (rgba[i + 2] ?? 0)
          low = Math.min(low, luma)
          high = Math.max(high, luma)
        }
        most = Math.max(most, high - low)
      }
      if (most > CONTRAST) written++
    }
  return written > WRITTEN * ROWS * COLUMNS
}

/**
 * Cues at the foot that would cover what is shown there.
 * @param laid stretches of the result
 * @param written stretches of the recording
 */
export function coveringCues(
  cues: readonly Cue[],
  map: TimeMap,
  laid: readonly { from: number; to: number }[],
  written: readonly RecordedRange[],
): Set<string> {
  const meets = (range: { from: number; to: number }) => (r: { from: number; to: number }) =>
    Math.min(r.to, range.to) - Math.max(r.from, range.from) > TOGETHER
  const covers = (cue: Cue) =>
    standingOf(cue).line === 'foot' &&
    (written.some(meets(cue)) ||
      projectRange(map, { from: cue.from, to: recorded(Math.min(cue.to, map.duration)) }).pieces.some((piece) =>
        laid.some(meets(piece)),
      ))
  return new Set(cues.filter((c) => c.from < map.duration && covers(c)).map((c) => c.id))
}
