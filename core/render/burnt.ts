/**
 * What is burnt into a saved film, over all else: captions, and the words of link cards, which nobody can press there. All
 * times are of the result.
 */
import { styledLines, type StyledLine } from '../captions/styled'
import { standingOf, type Standing } from '../captions/position'
import { toPixels, type Box, type Size } from '../picture/layout'
import type { ShareBox } from '../schema/edit'
import type { PublishedLink } from '../schema/publication'
import type { Script, Span } from './script'

/** What is drawn of it: lines at the foot or the top of their box, each on a plate of its own, or words on one plate. */
export type BurntStill =
  | (Standing & { kind: 'caption'; lines: readonly StyledLine[] })
  | {
      kind: 'plate'
      words: string
      ink: string
      ground: string
      /** Radius of its corners, as a share of the frame's height. */
      corner: number
    }

/** Something burnt in from one instant to another, s, in a box of the frame. */
export interface Burnt {
  from: number
  to: number
  box: ShareBox
  still: BurntStill
}

/** The same, in px. */
export interface PlacedBurnt extends Omit<Burnt, 'box'> {
  box: Box
}

/** Where captions stand: a quarter of the frame at the foot, or at the top, clear of its edges. */
const FOOT: ShareBox = { x: 0.04, y: 0.71, width: 0.92, height: 0.25 }
const TOP: ShareBox = { ...FOOT, y: 0.04 }

/** @param cues with WebVTT text and settings, s of the result */
export const burntCaptions = (
  cues: readonly { from: number; to: number; text: string; settings?: string }[],
): Burnt[] =>
  cues.flatMap((cue) => {
    const standing = standingOf(cue)
    const lines = styledLines(cue.text).filter((line) => line.length > 0)
    if (lines.length === 0 || !(cue.to > cue.from)) return []
    const still = { kind: 'caption' as const, lines, ...standing }
    return [{ from: cue.from, to: cue.to, box: standing.line === 'top' ? TOP : FOOT, still }]
  })

export const burntLinks = (links: readonly PublishedLink[]): Burnt[] =>
  links.map(({ from, to, box, words, ink, ground, corner }) => ({
    ...{ from, to, box },
    still: { kind: 'plate', words, ink, ground, corner },
  }))

/** Pauses between two that are burnt in, s, below which the picture is composed throughout. */
const PAUSE = 1.5
/** Spans shorter than this, s, are not made: less than a frame. */
const SHORTEST = 0.01

/** Stretches in which something is burnt in, in order and apart. @param burnt sorted by start */
function stretchesOf(burnt: readonly Burnt[]): { from: number; to: number }[] {
  const stretches: { from: number; to: number }[] = []
  for (const { from, to } of burnt) {
    const last = stretches.at(-1)
    if (last && from - last.to < PAUSE) last.to = Math.max(last.to, to)
    else stretches.push({ from, to })
  }
  return stretches
}

/** A part of a span, from one instant of the result to another. */
function partOf(span: Span, from: number, to: number): Span {
  const by = from - span.at
  const [first, last] = span.light
  const lightAt = (time: number) => first + ((last - first) * (time - span.at)) / span.length
  return {
    at: from,
    length: to - from,
    light: [lightAt(from), lightAt(to)],
    layers: span.layers.map((layer) =>
      layer.kind === 'feed' || layer.kind === 'video' || layer.kind === 'strokes'
        ? { ...layer, from: layer.from + by }
        : layer,
    ),
    whole: span.whole && { ...span.whole, from: span.whole.from + by },
  }
}

/** A script with something burnt into it; where nothing is, it is copied as before. A script without a picture stays as it is. */
export function withBurnt(script: Script, burnt: readonly Burnt[]): Script {
  const { frame } = script
  if (!frame || burnt.length === 0) return script
  const sorted = [...burnt].sort((a, b) => a.from - b.from)
  const whole: Box = { x: 0, y: 0, ...frame }
  const placed = sorted.map((one) => ({ ...one, box: toPixels(one.box, whole) }))
  const edges = stretchesOf(sorted).flatMap(({ from, to }) => [from, to])
  const picture = script.picture.flatMap((span) => {
    const end = span.at + span.length
    const inside = edges.filter((t) => t > span.at + SHORTEST && t < end - SHORTEST)
    const bounds = [span.at, ...inside, end]
    return bounds.slice(1).map((to, i) => over(partOf(span, bounds[i] ?? span.at, to), placed, frame))
  })
  return { ...script, picture }
}

function over(span: Span, placed: readonly PlacedBurnt[], frame: Size): Span {
  const end = span.at + span.length
  const items = placed.filter(({ from, to }) => from < end - SHORTEST && to > span.at + SHORTEST)
  if (items.length === 0) return span
  const box = { x: 0, y: 0, ...frame }
  return { ...span, whole: null, layers: [...span.layers, { kind: 'burnt', items, from: span.at, box, clip: null }] }
}
