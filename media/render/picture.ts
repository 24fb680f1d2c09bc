/**
 * The picture of a result as packets in decoding order: copied where the edit leaves the recording alone, encoded
 * anew around cuts and where something is composed.
 */
import { max } from 'd3-array'
import type { EncodedPacket, VideoCodec, VideoSample } from 'mediabunny'
import { withGaps } from '#core/picture/avc-entry'
import { joinAvcConfigs, joinedPacket, readAvcConfig, writeAvcConfig, type Renumbered } from '#core/picture/avc'
import type { Script, Span } from '#core/render/script'
import { copyablePart } from '#core/render/splice'
import { toHex } from '#core/text/hex'
import { movingRate, type Composer } from './compose'
import { bytesOf } from './bytes'
import { describeRun, encodeRun, spliceable, usualBitrate, type EncoderSettings } from './encode'
import { avcConfigOf, entering, entryBefore, entryFrom, type Entry } from './entry'
import type { OpenPicture } from './feed'
import { recoveredFrames } from './recovered'

/**
 * A stretch of the result made in one way. `at` and `end` in result time, `from`, `until` and `anchor` in the file's
 * time, s: a frame at `anchor` + t is shown at `origin` + t, but for the first of a stretch, which is shown at `at`
 * even if it began before.
 */
type Piece =
  | {
      kind: 'copy'
      picture: OpenPicture
      entry: Entry
      until: EncodedPacket | null
      lastShown: number
      anchor: number
      origin: number
      at: number
      end: number
    }
  | {
      kind: 'pass'
      picture: OpenPicture
      from: number
      until: number
      anchor: number
      origin: number
      at: number
      end: number
    }
  | { kind: 'compose'; span: Span; at: number; end: number }

export interface PicturePlan {
  pieces: readonly Piece[]
  codec: VideoCodec
  /** Size of the coded frames, px. */
  width: number
  height: number
  /** How players turn the picture; 0 unless it is copied as it lies. */
  rotation: 0 | 90 | 180 | 270
  /** Frames per second, at most about. */
  frameRate: number
  /** Seconds of the result that are encoded anew. */
  encoded: number
  /** Why something that looks as if it could be copied is not; empty otherwise. */
  note: string
}

export interface PictureTarget {
  /** Codecs the container can hold, the preferred for encoding first. */
  codecs: readonly VideoCodec[]
  keyFrameInterval: number
}

/** By how much timestamps may be off their grid, s: containers round to the millisecond. */
const toleranceOf = (picture: OpenPicture) => Math.min(0.01, 0.25 * picture.interval)
/** Pictures that are decoded next to one another are shown no further apart, s. */
const REORDER = 3

const names: Partial<Record<VideoCodec, string>> = { avc: 'H.264', hevc: 'H.265', vp8: 'VP8', vp9: 'VP9', av1: 'AV1' }

/** Decides what is copied. Reads only a few packets around each edge. */
export async function planPicture(
  script: Script,
  feeds: (index: number) => OpenPicture,
  target: PictureTarget,
): Promise<PicturePlan> {
  const frame = script.frame
  if (!frame) throw new Error('There is no picture to plan.')
  const wholes = [...new Set(script.picture.flatMap((s) => (s.whole ? [s.whole.feed] : [])))].map((i) => ({
    index: i,
    picture: feeds(i),
  }))
  const allWhole = script.picture.every((s) => s.whole)
  const first = wholes[0]?.picture
  // Turned pictures can be copied as they lie only when nothing else stands in the track.
  const rotated =
    first !== undefined &&
    first.rotation !== 0 &&
    allWhole &&
    wholes.every((w) => w.picture.rotation === first.rotation && !w.picture.distorted)
  const why = first ? notCopyable(first, target, rotated) : ''
  const codec = first?.codec && !why ? first.codec : (target.codecs[0] ?? 'avc')
  const copyable = (picture: OpenPicture) =>
    !notCopyable(picture, target, rotated) &&
    picture.codec === codec &&
    picture.codedWidth === (rotated ? first.codedWidth : frame.width) &&
    picture.codedHeight === (rotated ? first.codedHeight : frame.height)
  const pieces: Piece[] = []
  // Spans are laid end to end on whole frames; what each is off by is made up for by the next, so that nothing adds up.
  let at = 0
  for (const [i, span] of script.picture.entries()) {
    const isLast = i === script.picture.length - 1
    const end = span.at + span.length
    const picture = span.whole && feeds(span.whole.feed)
    if (!span.whole || !picture || (!copyable(picture) && !isAsIs(picture, frame))) {
      const piece = composed(span, at, end, isLast, feeds)
      if (!piece) continue
      pieces.push(piece)
      at = piece.end
      continue
    }
    const shown = await framesOf(picture, span.whole.from + (at - span.at), at, end, isLast)
    if (!shown) continue
    pieces.push(...(copyable(picture) ? await splice(picture, shown) : [passed(picture, shown)]))
    at = shown.end
  }
  return {
    pieces,
    codec,
    width: rotated ? first.codedWidth : frame.width,
    height: rotated ? first.codedHeight : frame.height,
    rotation: rotated ? first.rotation : 0,
    frameRate: Math.max(
      10,
      max(script.picture.flatMap((s) => s.layers.map((l) => (l.kind === 'feed' ? feeds(l.feed).frameRate : 30)))) ?? 10,
    ),
    encoded: pieces.reduce((sum, p) => sum + (p.kind === 'copy' ? 0 : p.end - p.at), 0),
    note: [
      why,
      ...new Set(
        script.picture.flatMap((s) => s.layers.flatMap((l) => (l.kind === 'feed' ? sayUnshown(feeds(l.feed)) : []))),
      ),
    ]
      .filter(Boolean)
      .join(' '),
  }
}

const isAsIs = (picture: OpenPicture, frame: { width: number; height: number }) =>
  picture.rotation === 0 &&
  !picture.distorted &&
  picture.codedWidth === frame.width &&
  picture.codedHeight === frame.height

/** Why a feed cannot be copied, as a sentence; empty when it can. */
function notCopyable(picture: OpenPicture, target: PictureTarget, rotated: boolean): string {
  const name = (picture.codec && names[picture.codec]) ?? picture.codec ?? 'an unknown codec'
  if (!picture.codec || !target.codecs.includes(picture.codec))
    return `The picture is coded as ${name}, which this kind of file cannot hold; all of it was encoded anew.`
  if (!spliceable.includes(picture.codec))
    return `The picture is coded as ${name}, which this browser cannot encode; all of it was encoded anew.`
  if (!picture.usualFormat)
    return 'The picture has more than 8 bits or finer colour than can be encoded here; all of it was encoded anew.'
  if (picture.distorted) return 'The picture’s pixels are not square; all of it was encoded anew.'
  if (picture.rotation !== 0 && !rotated)
    return 'The picture was filmed rotated and something is laid over it; all of it was encoded anew.'
  if (picture.codec === 'avc' && !picture.config?.description)
    return 'The H.264 picture has no parameter sets of its own; all of it was encoded anew.'
  return ''
}

const sayUnshown = ({ unshown }: OpenPicture): string[] =>
  unshown > 0.05
    ? [
        `The first ${unshown.toFixed(1)} s of the picture cannot be shown, as the film was cut out of a longer one there; its first picture that can be stands still meanwhile.`,
      ]
    : []

/** A composed span from `at` on; null when no frame of it is left. */
function composed(
  span: Span,
  at: number,
  end: number,
  isLast: boolean,
  feeds: (index: number) => OpenPicture,
): Extract<Piece, { kind: 'compose' }> | null {
  const rate = movingRate(span.layers.flatMap((l) => (l.kind === 'feed' ? [feeds(l.feed)] : [])))
  const count = rate !== null ? Math.round((end - at) * rate) : end - at > 0.02 ? 1 : 0
  if (count === 0 && !(isLast && end > at)) return null
  const until = isLast || rate === null ? end : at + count / rate
  const by = at - span.at
  const layers = span.layers.map((l) => (l.kind === 'still' || l.kind === 'mask' ? l : { ...l, from: l.from + by }))
  return { kind: 'compose', span: { ...span, at, length: until - at, layers }, at, end: until }
}

/** Which frames of a feed a span shows: from the one at `from` to the one at `to` (with it), s of the file. */
interface Shown {
  from: number
  to: number
  /** A frame at `anchor` + t is shown at `at` + t; the first at `at`. */
  anchor: number
  at: number
  end: number
}

/** Times of frames around an instant, sorted, s. */
async function timesAround(picture: OpenPicture, time: number): Promise<number[]> {
  const { packets, first } = picture
  const begin =
    (await packets.getPacket(Math.max(first, time - 1), { metadataOnly: true })) ??
    (await packets.getFirstPacket({ metadataOnly: true }))
  const times: number[] = []
  if (begin)
    // Behind the instant by more than any reordering reaches.
    for await (const packet of packets.packets(begin, undefined, { metadataOnly: true })) {
      times.push(packet.timestamp)
      if (packet.timestamp > time + 3) break
    }
  return times.filter((t) => t >= first - 1e-6).sort((a, b) => a - b)
}

/**
 * Chooses the frames for the stretch of the result from `at` to about `end`, so that at every seam frames stand one
 * interval apart.
 * @param from time of the file that stands at `at`, s
 * @returns null when there is not room for one frame
 */
async function framesOf(
  picture: OpenPicture,
  from: number,
  at: number,
  end: number,
  isLast: boolean,
): Promise<Shown | null> {
  const { interval } = picture
  const around = await timesAround(picture, from)
  const first = around.findLast((t) => t <= from + interval / 2 + 1e-6) ?? around[0]
  if (first === undefined) throw new Error('There is no picture where the edit shows one.')
  const next = around.find((t) => t > first + 1e-6) ?? Infinity
  // A frame that began long before goes on, but not for less than an interval.
  const anchor =
    Math.abs(from - first) <= interval / 2 + 1e-6 ? first : next - from < 0.9 * interval ? next - interval : from
  const target = anchor + (end - at)
  const near = await timesAround(picture, target)
  const last = near.findLast((t) => t <= target - interval / 2 + 1e-6) ?? first
  if (last < first - 1e-6 || (target - first < interval / 2 - 1e-6 && !isLast)) return null
  const ends = at + (Math.max(last, anchor) - anchor) + interval
  return { from: first, to: last, anchor, at, end: isLast || end - ends > interval / 2 ? end : ends }
}

const passed = (picture: OpenPicture, { from, to, anchor, at, end }: Shown): Piece => ({
  kind: 'pass',
  picture,
  from,
  until: to + picture.interval / 2,
  anchor,
  origin: at,
  at,
  end,
})

/** Splits what is shown of one feed into what is copied and what is encoded around it. */
async function splice(picture: OpenPicture, shown: Shown): Promise<Piece[]> {
  const { packets } = picture
  const { from, to, anchor, at: origin, end } = shown
  const tolerance = toleranceOf(picture)
  // Just behind the last frame that is shown.
  const until = to + picture.interval / 2
  const resultOf = (time: number) => origin + (time - anchor)
  const pieces: Piece[] = []
  const entry = await entryFrom(picture, from - tolerance, to + tolerance)
  if (!entry) return [passed(picture, shown)]
  const { packet: first } = entry
  // Unless the frame seen first is one at which copying can begin, frames up to the next such are encoded.
  if (Math.abs(first.timestamp - from) > tolerance)
    pieces.push({
      kind: 'pass',
      picture,
      from,
      until: first.timestamp - tolerance,
      anchor,
      origin,
      at: origin,
      end: resultOf(first.timestamp),
    })
  // Everything up to shortly before the end is copied; the rest is looked at for where copying has to stop.
  const near = await packets.getPacket(to - REORDER, { metadataOnly: true })
  const begin = near && near.sequenceNumber > first.sequenceNumber ? near : first
  const rest: EncodedPacket[] = []
  let behind: EncodedPacket | null = null
  for await (const packet of packets.packets(begin, undefined, { metadataOnly: true })) {
    if (packet.timestamp > to + REORDER) {
      behind = packet
      break
    }
    // Leading pictures of an open group need the group before, which is not there.
    if (packet.timestamp >= first.timestamp - tolerance) rest.push(packet)
  }
  const { count, encodeFrom } = copyablePart(rest, until, tolerance)
  const lastShown = max(rest.slice(0, count).map((p) => p.timestamp)) ?? -Infinity
  behind = rest[count] ?? behind
  const copyEnd = encodeFrom === null ? end : resultOf(encodeFrom)
  pieces.push({
    kind: 'copy',
    picture,
    entry,
    until: behind,
    lastShown,
    anchor,
    origin,
    at: pieces.length > 0 ? resultOf(first.timestamp) : origin,
    end: copyEnd,
  })
  if (encodeFrom !== null)
    pieces.push({ kind: 'pass', picture, from: encodeFrom, until, anchor, origin, at: copyEnd, end })
  return pieces
}

/**
 * Longer runs than this are encoded at a usual size; shorter ones so that they cannot be told from their neighbours, s.
 */
const LONG = 8
/** Short runs that are encoded ahead, while packets before them are copied: encoders work in threads of their own. */
const AHEAD = 1

export interface OutPacket {
  packet: EncodedPacket
  meta?: EncodedVideoChunkMetadata
}

type Copy = Extract<Piece, { kind: 'copy' }>
type Encode = Exclude<Piece, { kind: 'copy' }>
/** Neighbouring pieces that are encoded share one encoder. */
type Step = { kind: 'copy'; piece: Copy } | { kind: 'encode'; run: Encode[]; short: boolean }

function stepsOf(pieces: readonly Piece[]): Step[] {
  const steps: Step[] = []
  for (const piece of pieces) {
    const last = steps.at(-1)
    if (piece.kind === 'copy') steps.push({ kind: 'copy', piece })
    else if (last?.kind === 'encode') last.run.push(piece)
    else steps.push({ kind: 'encode', run: [piece], short: true })
  }
  for (const step of steps)
    if (step.kind === 'encode') step.short = step.run.reduce((sum, p) => sum + p.end - p.at, 0) <= LONG
  return steps
}

/** The packets of a plan, in decoding order, timestamped in result time. */
export async function* picturePackets(
  plan: PicturePlan,
  target: PictureTarget,
  composer: (colour: VideoColorSpaceInit | null) => Composer,
): AsyncGenerator<OutPacket> {
  const steps = stepsOf(plan.pieces)
  const copied = plan.pieces.find((p): p is Copy => p.kind === 'copy')?.picture
  const sources = new Set(plan.pieces.flatMap((p) => (p.kind === 'copy' ? [p.picture] : [])))
  const entered = new Set(plan.pieces.flatMap((p) => (p.kind === 'copy' && p.entry.isRecovery ? [p.picture] : [])))
  const mixed = sources.size > 1 || entered.size > 0 || (sources.size > 0 && plan.encoded > 0)
  const average = copied ? (await copied.track.computePacketStats(500)).averageBitrate : 0
  const settings = (short: boolean): EncoderSettings => {
    const { codec, width, height, frameRate } = plan
    const bitrate = Math.max(Math.round(average), usualBitrate(width, height, Math.min(30, frameRate)))
    return {
      codec,
      width,
      height,
      frameRate,
      effort: short ? 'seam' : 'long',
      keyFrameInterval: target.keyFrameInterval,
      ...(!short && { bitrate }),
    }
  }
  const colour = copied ? await colourOf(copied) : null
  const efforts = new Set(steps.flatMap((s) => (s.kind === 'encode' ? [s.short] : [])))
  const joined =
    plan.codec === 'avc' && mixed && copied
      ? await joinAvc(
          [...sources],
          entered,
          await Promise.all(
            [...efforts].map(async (short) => ({ short, config: await describeRun(settings(short), colour) })),
          ),
        )
      : null
  let meta = copied?.config ? { decoderConfig: joined?.config ?? copied.config } : undefined

  async function* encoded({ run, short }: Extract<Step, { kind: 'encode' }>): AsyncGenerator<OutPacket> {
    const encoder = await encodeRun(settings(short))
    const own = composer(colour)
    const end = run.at(-1)?.end ?? 0
    let latest = -Infinity
    const give = function* (packets: readonly EncodedPacket[]): Generator<OutPacket> {
      for (const packet of packets) {
        // Encoders think every frame as long as the others.
        const timed =
          packet.timestamp >= latest - 1e-4
            ? packet.clone({ duration: Math.max(0.001, end - packet.timestamp) })
            : packet
        if (joined) yield { packet: joined.encoded(timed, short, encoder.config) }
        // Without copied packets the one run there is describes the track.
        else yield { packet: timed, ...(!copied && encoder.config && { meta: { decoderConfig: encoder.config } }) }
      }
    }
    for (const part of run) {
      let seen = 0
      for await (const sample of part.kind === 'compose' ? own.frames(part.span) : passFrames(part)) {
        latest = sample.timestamp
        seen++
        const ready = await encoder.add(sample)
        sample.close()
        yield* give(ready)
      }
      // A result that lacks what its script has is no result.
      if (seen === 0)
        throw new Error(
          `No picture could be decoded for ${part.at.toFixed(2)} – ${part.end.toFixed(2)} s of the result.`,
        )
    }
    yield* give(await encoder.finish())
  }

  const ahead = new Map<Step, Promise<OutPacket[]>>()
  for (const [i, step] of steps.entries()) {
    for (const next of steps.slice(i, i + 2 * AHEAD)) {
      if (next.kind !== 'encode' || !next.short || ahead.has(next)) continue
      const packets = collect(encoded(next))
      // What goes wrong is told when its turn comes.
      packets.catch(() => undefined)
      ahead.set(next, packets)
    }
    const packets =
      step.kind === 'copy' ? copyPackets(step.piece, i, joined) : ((await ahead.get(step)) ?? encoded(step))
    ahead.delete(step)
    for await (const made of packets) {
      yield { ...made, ...(meta && { meta }) }
      meta = undefined
    }
  }
}

/** How a film's frames say their colours; null when they do not, or when its first one cannot be decoded. */
async function colourOf(picture: OpenPicture): Promise<VideoColorSpaceInit | null> {
  const sample = await picture.frames.getSample(picture.first)
  const colour = sample?.colorSpace.toJSON() ?? null
  sample?.close()
  return colour
}

async function collect<T>(items: AsyncGenerator<T>): Promise<T[]> {
  const all: T[] = []
  for await (const item of items) all.push(item)
  return all
}

/** The frames of a stretch as they are, at their own times; the frame that is seen at its start begins with it. */
async function* passFrames(piece: Extract<Piece, { kind: 'pass' }>): AsyncGenerator<VideoSample> {
  const { picture, from, until, anchor, origin, at, end } = piece
  const tolerance = toleranceOf(picture)
  const entry = await entryBefore(picture, from + tolerance)
  const samples =
    entry && !entry.isRecovery
      ? picture.frames.samples(from + tolerance, Math.max(from + 2 * tolerance, until))
      : recoveredFrames(picture, entry?.packet ?? null, from, until)
  let first = true
  for await (const sample of samples) {
    const time = first ? at : origin + (sample.timestamp - anchor)
    first = false
    sample.setTimestamp(time)
    sample.setDuration(Math.max(0.001, Math.min(sample.duration || picture.interval, end - time)))
    // Copied packets are rotated by the player; what stands between them has to lie the same way.
    sample.setRotation(0)
    yield sample
  }
}

async function* copyPackets(piece: Copy, run: number, joined: JoinedAvc | null): AsyncGenerator<OutPacket> {
  const { picture, entry, until, anchor, origin, at, end, lastShown } = piece
  const { packet: first } = entry
  const tolerance = toleranceOf(picture)
  const rewrite = entering(picture, entry, run)
  for await (const packet of picture.packets.packets(first, until ?? undefined)) {
    // Leading pictures of an open group need the group before, which is not there.
    if (packet.timestamp < first.timestamp - tolerance) continue
    const leads = packet.sequenceNumber === first.sequenceNumber
    const timestamp = leads ? at : origin + (packet.timestamp - anchor)
    const timed = packet.clone({
      timestamp,
      duration: packet.timestamp === lastShown ? Math.max(0.001, end - timestamp) : packet.duration,
      ...(leads && { type: 'key' as const }),
      ...(rewrite && { data: rewrite(packet.data) }),
    })
    yield { packet: joined ? joined.copied(timed, picture, rewrite !== null) : timed }
  }
}

/** H.264 of several encoders in one track: how it is described, and its packets as they stand there. */
interface JoinedAvc {
  config: VideoDecoderConfig
  /** @param isRewritten whether the packet was, to begin at a recovery point */
  copied(packet: EncodedPacket, picture: OpenPicture, isRewritten: boolean): EncodedPacket
  /** @param config as the run's encoder states it */
  encoded(packet: EncodedPacket, short: boolean, config: VideoDecoderConfig | undefined): EncodedPacket
}

const avcOf = (config: VideoDecoderConfig) => readAvcConfig(bytesOf(config.description ?? new Uint8Array()))

/** @param entered pictures that are entered at recovery points: their frame numbers then have gaps */
async function joinAvc(
  pictures: readonly OpenPicture[],
  entered: ReadonlySet<OpenPicture>,
  runs: readonly { short: boolean; config: VideoDecoderConfig }[],
): Promise<JoinedAvc> {
  const configs = [
    ...pictures.flatMap((p) => {
      const config = avcConfigOf(p)
      if (!config) throw new Error('An H.264 picture came that does not describe itself.')
      return [entered.has(p) ? withGaps(config) : config]
    }),
    ...runs.map((r) => avcOf(r.config)),
  ]
  const { record, sources } = joinAvcConfigs(configs)
  const [first] = pictures
  const hex = toHex(record.subarray(1, 4))
  const voices = new Map<OpenPicture | boolean, { lengthSize: number; renumbered: Renumbered | null }>()
  const keys = [...pictures, ...runs.map((r) => r.short)]
  keys.forEach((key, i) => voices.set(key, { lengthSize: configs[i]?.lengthSize ?? 4, renumbered: sources[i] ?? null }))
  const renumbered = (packet: EncodedPacket, key: OpenPicture | boolean, isRewritten: boolean): EncodedPacket => {
    const voice = voices.get(key)
    if (!voice) throw new Error('A picture came that the track does not describe.')
    return packet.clone({ data: joinedPacket(packet.data, isRewritten ? 4 : voice.lengthSize, voice.renumbered) })
  }
  const stated = new Map(runs.map((r) => [r.short, r.config]))
  const sets = (config: VideoDecoderConfig) => String(writeAvcConfig(avcOf(config)))
  return {
    config: { ...first?.config, codec: `avc1.${hex}`, description: record },
    copied: renumbered,
    encoded(packet, short, config) {
      const known = stated.get(short)
      // The track was described before the first packet; an encoder that describes itself otherwise now would not be
      // understood.
      if (!config || !known || sets(config) !== sets(known))
        throw new Error('The encoder codes its pictures otherwise than it did a moment ago. Try again.')
      return renumbered(packet, short, false)
    },
  }
}
