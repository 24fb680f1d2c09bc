/**
 * What has to play, of which file and from where, while a script is played; and what has to be ready for the next jump, so
 * that nothing of it is late.
 *
 *     script     ├─ a 0–8 ─┤├─ a 11–20 ─┤├─ card ─┤├─ a 20–30 ─┤
 *     at 7       plays a    comes: a from 11 (a jump)
 *     at 16                 plays a                 goes on with a: nothing to get ready
 */
import { soundAt, spanAt, type Script, type SoundSource, type SoundSpan, type Span } from './script'

/** What a file plays for a while. All times in seconds. */
export interface Part {
  /** The file: the index of a feed, or the name of what is put in. */
  source: string
  /** The file’s own time at the part’s start. */
  from: number
  /** Result time. */
  at: number
  end: number
}

export const feedSource = (index: number): string => `feed ${index}`
export const assetSource = (file: string): string => `asset ${file}`
const sourceOf = (s: SoundSource) => (s.kind === 'feed' ? feedSource(s.feed) : assetSource(s.file))

/** What moves in a span of the picture. */
export const movingParts = ({ at, length, layers }: Span): Part[] =>
  layers.flatMap((layer) =>
    layer.kind === 'feed' || layer.kind === 'video'
      ? [
          {
            source: layer.kind === 'feed' ? feedSource(layer.feed) : assetSource(layer.file),
            from: layer.from,
            at,
            end: at + length,
          },
        ]
      : [],
  )

/** What is heard in a span, what leads first, and how loud it is as an amplitude. */
export const soundParts = ({ at, length, source, gain = 1, beneath }: SoundSpan): (Part & { gain: number })[] =>
  [source && { source, gain }, beneath].flatMap((s) =>
    s ? [{ source: sourceOf(s.source), from: s.source.from, at, end: at + length, gain: s.gain }] : [],
  )

/** Of the parts of one instant, the first of each file. */
const firstOfEach = (parts: readonly Part[]) =>
  parts.filter((p, i) => parts.findIndex((q) => q.source === p.source) === i)

/** What plays at an instant of the result, s; what is heard first. */
export function partsAt(script: Script, time: number): Part[] {
  const sound = soundAt(script.sound, time)
  const picture = spanAt(script.picture, time)
  return firstOfEach([...(sound ? soundParts(sound) : []), ...(picture ? movingParts(picture) : [])])
}

/** Rounding, and less than any frame, s. */
const NEAR = 1e-3

/**
 * What begins within some seconds after an instant and does not go on from what its file played before: the first of each
 * file.
 */
export function comingParts(script: Script, time: number, within: number): Part[] {
  const last = new Map(partsAt(script, time).map((p) => [p.source, p]))
  const coming = new Map<string, Part>()
  const isSoon = (s: { at: number }) => s.at > time && s.at <= time + within
  const soon = [
    ...script.sound.filter(isSoon).flatMap(soundParts),
    ...script.picture.filter(isSoon).flatMap(movingParts),
  ]
  for (const part of soon.sort((a, b) => a.at - b.at)) {
    if (coming.has(part.source)) continue
    const before = last.get(part.source)
    const isSamePlace = before && Math.abs(before.from - before.at - (part.from - part.at)) < NEAR
    const stoodStill = before && Math.abs(before.from + (before.end - before.at) - part.from) < NEAR
    if (before && isSamePlace && part.at < before.end + NEAR)
      last.set(part.source, { ...before, end: Math.max(before.end, part.end) })
    else if (stoodStill) last.set(part.source, part)
    else coming.set(part.source, part)
  }
  return [...coming.values()]
}
