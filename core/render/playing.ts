/**
 * What has to play, of which file and from where, while a script is played; and what has to be ready for the next jump, so
 * that nothing of it is late.
 *
 *     script     ├─ a 0–8 ─┤├─ a 11–20 ─┤├─ card ─┤├─ a 20–30 ─┤
 *     at 7       plays a    comes: a from 11 (a jump)
 *     at 16                 plays a                 goes on with a: nothing to get ready
 */
import { soundAt, spanAt, type Script, type ScriptFeed, type SoundSource, type SoundSpan, type Span } from './script'

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

/**
 * By the index of a sound's feed, that of the picture whose file has it too: a film that was brought in is then opened and
 * decoded once for both.
 * @param urls what is played of each feed, if anything is
 */
export function carriers(
  feeds: readonly Pick<ScriptFeed, 'kind' | 'offset'>[],
  urls: readonly string[],
): ReadonlyMap<number, number> {
  return new Map(
    feeds.flatMap((sound, index) => {
      if (sound.kind !== 'sound' || !urls[index]) return []
      const by = feeds.findIndex((f, i) => f.kind !== 'sound' && urls[i] === urls[index] && f.offset === sound.offset)
      return by < 0 ? [] : [[index, by] as const]
    }),
  )
}

/** A script whose sounds are played by the feeds that carry them. */
export function carried(script: Script, by: ReadonlyMap<number, number>): Script {
  const move = (s: SoundSource): SoundSource => (s.kind === 'feed' ? { ...s, feed: by.get(s.feed) ?? s.feed } : s)
  return {
    ...script,
    sound: script.sound.map((span) => ({
      ...span,
      source: span.source && move(span.source),
      ...(span.beneath && { beneath: { ...span.beneath, source: move(span.beneath.source) } }),
    })),
  }
}

/** Of the parts of one instant, the first of each file. */
const firstOfEach = (parts: readonly Part[]) =>
  parts.filter((p, i) => parts.findIndex((q) => q.source === p.source) === i)

function allAt(script: Script, time: number): Part[] {
  const sound = soundAt(script.sound, time)
  const picture = spanAt(script.picture, time)
  return [...(sound ? soundParts(sound) : []), ...(picture ? movingParts(picture) : [])]
}

/** What plays at an instant of the result, s; what is heard first. */
export const partsAt = (script: Script, time: number): Part[] => firstOfEach(allAt(script, time))

/** Rounding, and less than any frame, s. */
const NEAR = 1e-3
/** Whether two parts of a file are of one run through it. */
const isSamePlace = (a: Part, b: Part) => Math.abs(a.from - a.at - (b.from - b.at)) < NEAR

/**
 * What begins within some seconds after an instant and does not go on from what its file played before: the first of each
 * file.
 */
export function comingParts(script: Script, time: number, within: number): Part[] {
  const last = new Map<string, Part>()
  for (const part of allAt(script, time)) {
    const known = last.get(part.source)
    if (!known) last.set(part.source, part)
    else if (isSamePlace(known, part)) last.set(part.source, { ...known, end: Math.max(known.end, part.end) })
  }
  const coming = new Map<string, Part>()
  const isSoon = (s: { at: number }) => s.at > time && s.at <= time + within
  const soon = [
    ...script.sound.filter(isSoon).flatMap(soundParts),
    ...script.picture.filter(isSoon).flatMap(movingParts),
  ]
  for (const part of soon.sort((a, b) => a.at - b.at)) {
    if (coming.has(part.source)) continue
    const before = last.get(part.source)
    const stoodStill = before && Math.abs(before.from + (before.end - before.at) - part.from) < NEAR
    if (before && isSamePlace(before, part) && part.at < before.end + NEAR)
      last.set(part.source, { ...before, end: Math.max(before.end, part.end) })
    else if (stoodStill) last.set(part.source, part)
    else coming.set(part.source, part)
  }
  return [...coming.values()]
}

/**
 * Files that jump within some seconds after an instant: what comes of them does not begin, but follows on something else
 * of the same file, which plays less than `lead` s before it.
 */
export function jumpingFiles(script: Script, time: number, within: number, lead: number): ReadonlySet<string> {
  const all = [...script.sound.flatMap(soundParts), ...script.picture.flatMap(movingParts)]
  const isJump = ({ source, at }: Part) =>
    all.some((p) => p.source === source && p.at < at - NEAR && p.end > at - lead + NEAR)
  return new Set(
    comingParts(script, time, within)
      .filter(isJump)
      .map((p) => p.source),
  )
}
