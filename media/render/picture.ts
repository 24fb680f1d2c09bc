/**
 * The picture of a result as packets in decoding order: copied where the edit leaves the recording alone, encoded
 * anew around cuts and where something is composed.
 */
import type { EncodedPacket, VideoCodec, VideoSample } from 'mediabunny'
import { readAvcConfig, repack, withLongLengths, type AvcConfig } from '#core/picture/avc'
import type { Script, Span } from '#core/render/script'
import { copyablePart } from '#core/render/splice'
import type { Composer } from './compose'
import { bytesOf, encodeRun, spliceable, usualBitrate } from './encode'
import type { OpenPicture } from './feed'

/**
 * A stretch of the result made in one way. `at` and `end` in result time, `from` in the file's time, s. `base` is the
 * result time that the first copied packet's own timestamp stands for; what is shown at `at` may have begun before.
 */
type Piece =
  | { kind: 'copy'; picture: OpenPicture; first: EncodedPacket; until: EncodedPacket | null; lastShown: number; base: number; at: number; end: number }
  | { kind: 'pass'; picture: OpenPicture; from: number; at: number; end: number }
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
const toleranceOf = (picture: OpenPicture) => Math.min(0.01, 0.25 / picture.frameRate)

const names: Partial<Record<VideoCodec, string>> = { avc: 'H.264', hevc: 'H.265', vp8: 'VP8', vp9: 'VP9', av1: 'AV1' }

/** Decides what is copied. Reads only a few packets around each edge. */
export async function planPicture(script: Script, feeds: (index: number) => OpenPicture, target: PictureTarget): Promise<PicturePlan> {
  const frame = script.frame
  if (!frame) throw new Error('There is no picture to plan.')
  const wholes = [...new Set(script.picture.flatMap((s) => (s.whole ? [s.whole.feed] : [])))].map((i) => ({ index: i, picture: feeds(i) }))
  const allWhole = script.picture.every((s) => s.whole)
  const first = wholes[0]?.picture
  // Turned pictures can be copied as they lie only when nothing else stands in the track.
  const turned = first !== undefined && first.rotation !== 0 && allWhole && wholes.every((w) => w.picture.rotation === first.rotation && !w.picture.distorted)
  const why = first ? notCopyable(first, target, turned) : ''
  const codec = first?.codec && !why ? first.codec : (target.codecs[0] ?? 'avc')
  const copyable = (picture: OpenPicture) => !notCopyable(picture, target, turned) && picture.codec === codec && picture.codedWidth === (turned ? first.codedWidth : frame.width) && picture.codedHeight === (turned ? first.codedHeight : frame.height)
  const pieces: Piece[] = []
  for (const span of script.picture) {
    const end = span.at + span.length
    const picture = span.whole && feeds(span.whole.feed)
    if (!span.whole || !picture) pieces.push({ kind: 'compose', span, at: span.at, end })
    else if (copyable(picture)) pieces.push(...(await splice(picture, span.whole.from, span.at, end)))
    else if (isAsIs(picture, frame)) pieces.push({ kind: 'pass', picture, from: span.whole.from, at: span.at, end })
    else pieces.push({ kind: 'compose', span, at: span.at, end })
  }
  return {
    pieces, codec,
    width: turned ? first.codedWidth : frame.width,
    height: turned ? first.codedHeight : frame.height,
    rotation: turned ? first.rotation : 0,
    frameRate: Math.max(10, ...script.picture.flatMap((s) => s.layers.map((l) => (l.kind === 'feed' ? feeds(l.feed).frameRate : 30)))),
    encoded: pieces.reduce((sum, p) => sum + (p.kind === 'copy' ? 0 : p.end - p.at), 0),
    note: why,
  }
}

const isAsIs = (picture: OpenPicture, frame: { width: number; height: number }) => picture.rotation === 0 && !picture.distorted && picture.codedWidth === frame.width && picture.codedHeight === frame.height

/** Why a feed cannot be copied, as a sentence; empty when it can. */
function notCopyable(picture: OpenPicture, target: PictureTarget, turned: boolean): string {
  const name = (picture.codec && names[picture.codec]) ?? picture.codec ?? 'an unknown codec'
  if (!picture.codec || !target.codecs.includes(picture.codec)) return `The picture is coded as ${name}, which this kind of file cannot hold; all of it was encoded anew.`
  if (!spliceable.includes(picture.codec)) return `The picture is coded as ${name}, which this browser cannot encode; all of it was encoded anew.`
  if (!picture.usualFormat) return 'The picture has more than 8 bits or finer colour than can be encoded here; all of it was encoded anew.'
  if (picture.distorted) return 'The picture’s pixels are not square; all of it was encoded anew.'
  if (picture.rotation !== 0 && !turned) return 'The picture was filmed turned and something is laid over it; all of it was encoded anew.'
  if (picture.codec === 'avc' && !picture.config?.description) return 'The H.264 picture has no parameter sets of its own; all of it was encoded anew.'
  return ''
}

/** Splits a stretch of one feed into what is copied and what is encoded around it. */
async function splice(picture: OpenPicture, from: number, at: number, end: number): Promise<Piece[]> {
  const { packets } = picture
  const tolerance = toleranceOf(picture)
  const to = from + (end - at)
  const resultOf = (time: number) => at + (time - from)
  const strict = { verifyKeyPackets: true }
  const shown = (await packets.getPacket(from + tolerance, { metadataOnly: true })) ?? (await packets.getFirstPacket({ metadataOnly: true }))
  let key = await packets.getKeyPacket(Math.max(from, picture.first) + tolerance, strict)
  const pieces: Piece[] = []
  if (!key || !shown) return [{ kind: 'pass', picture, from, at, end }]
  // Unless the frame seen first is a key frame itself, frames up to the next one are encoded.
  if (key.sequenceNumber !== shown.sequenceNumber) {
    key = await packets.getNextKeyPacket(key, strict)
    if (!key || key.timestamp >= to - tolerance) return [{ kind: 'pass', picture, from, at, end }]
    pieces.push({ kind: 'pass', picture, from, at, end: resultOf(key.timestamp) })
  }
  const base = resultOf(key.timestamp)
  const lastKey = (await packets.getKeyPacket(to - tolerance, strict)) ?? key
  const group: EncodedPacket[] = []
  const next = await packets.getNextKeyPacket(lastKey, strict)
  let until: EncodedPacket | null = null
  for await (const packet of packets.packets(lastKey, next ?? undefined, { metadataOnly: true })) {
    // Behind the cut by more than any reordering reaches: enough is known.
    if (packet.timestamp > to + 2) {
      until = packet
      break
    }
    group.push(packet)
  }
  // Leading pictures of an open group belong to the group before; they are not counted from here on.
  const own = group.filter((p) => p.timestamp >= lastKey.timestamp - tolerance)
  const { count, encodeFrom } = copyablePart(own, to, tolerance)
  const lastShown = Math.max(...own.slice(0, count).map((p) => p.timestamp))
  if (count < own.length) until = own[count] ?? until
  else until ??= next
  const copyEnd = encodeFrom === null ? end : resultOf(encodeFrom)
  pieces.push({ kind: 'copy', picture, first: key, until, lastShown, base, at: pieces.length > 0 ? base : at, end: copyEnd })
  if (encodeFrom !== null) pieces.push({ kind: 'pass', picture, from: encodeFrom, at: copyEnd, end })
  return pieces
}

/** Longer runs than this are encoded at a usual size; shorter ones so that they cannot be told from their neighbours, s. */
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
  for (const step of steps) if (step.kind === 'encode') step.short = step.run.reduce((sum, p) => sum + p.end - p.at, 0) <= LONG
  return steps
}

/** The packets of a plan, in decoding order, timestamped in result time. */
export async function* picturePackets(plan: PicturePlan, target: PictureTarget, composer: () => Composer): AsyncGenerator<OutPacket> {
  const steps = stepsOf(plan.pieces)
  const copied = plan.pieces.find((p): p is Copy => p.kind === 'copy')?.picture
  const sources = new Set(plan.pieces.flatMap((p) => (p.kind === 'copy' ? [p.picture] : [])))
  const mixed = sources.size > 1 || (sources.size > 0 && plan.encoded > 0)
  const average = copied ? (await copied.track.computePacketStats(500)).averageBitrate : 0
  let meta = copied && copiedMeta(copied, mixed)

  async function* encoded({ run, short }: Extract<Step, { kind: 'encode' }>): AsyncGenerator<OutPacket> {
    const { codec, width, height, frameRate } = plan
    const bitrate = Math.max(Math.round(average), usualBitrate(width, height, Math.min(30, frameRate)))
    const encoder = await encodeRun({ codec, width, height, frameRate, effort: short ? 'seam' : 'long', keyFrameInterval: target.keyFrameInterval, inBand: mixed, ...(!short && { bitrate }) })
    const own = composer()
    const end = run.at(-1)?.end ?? 0
    let latest = -Infinity
    const give = function* (packets: readonly EncodedPacket[]): Generator<OutPacket> {
      // Without copied packets the one run there is describes the track. Encoders think every frame as long as the others.
      for (const packet of packets)
        yield { packet: packet.timestamp >= latest - 1e-4 ? packet.clone({ duration: Math.max(0.001, end - packet.timestamp) }) : packet, ...(!copied && encoder.config && { meta: { decoderConfig: encoder.config } }) }
    }
    for (const part of run)
      for await (const sample of part.kind === 'compose' ? own.frames(part.span) : passFrames(part)) {
        latest = sample.timestamp
        const ready = await encoder.add(sample)
        sample.close()
        yield* give(ready)
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
    const packets = step.kind === 'copy' ? copyPackets(step.piece, mixed) : ((await ahead.get(step)) ?? encoded(step))
    ahead.delete(step)
    for await (const made of packets) {
      yield { ...made, ...(meta && { meta }) }
      meta = undefined
    }
  }
}

async function collect<T>(items: AsyncGenerator<T>): Promise<T[]> {
  const all: T[] = []
  for await (const item of items) all.push(item)
  return all
}

/** The frames of a stretch as they are, at their own times; the frame that is seen at its start begins with it. */
async function* passFrames(piece: Extract<Piece, { kind: 'pass' }>): AsyncGenerator<VideoSample> {
  const { picture, from, at, end } = piece
  const tolerance = toleranceOf(picture)
  const to = from + (end - at)
  let first = true
  for await (const sample of picture.frames.samples(Math.max(from, picture.first) + tolerance, Math.max(picture.first + 2 * tolerance, to - tolerance))) {
    const time = first ? at : at + (sample.timestamp - from)
    first = false
    sample.setTimestamp(time)
    sample.setDuration(Math.max(0.001, Math.min(sample.duration || 1 / picture.frameRate, end - time)))
    // Copied packets are turned by the player; what stands between them has to lie the same way.
    sample.setRotation(0)
    yield sample
  }
}

async function* copyPackets(piece: Copy, mixed: boolean): AsyncGenerator<OutPacket> {
  const { picture, first, until, base, at, end, lastShown } = piece
  const tolerance = toleranceOf(picture)
  const avc = picture.codec === 'avc' && mixed ? readAvcConfig(bytesOf(picture.config?.description ?? new Uint8Array())) : null
  for await (const packet of picture.packets.packets(first, until ?? undefined)) {
    // Leading pictures of an open group need the group before, which is not there.
    if (packet.timestamp < first.timestamp - tolerance) continue
    const leads = packet.sequenceNumber === first.sequenceNumber
    const timestamp = leads ? at : base + (packet.timestamp - first.timestamp)
    const duration = packet.timestamp === lastShown ? Math.max(0.001, end - timestamp) : packet.duration
    yield { packet: packet.clone({ timestamp, duration, ...(avc && { data: repackLed(packet, avc, leads) }) }) }
  }
}

const repackLed = (packet: EncodedPacket, { lengthSize, sets }: AvcConfig, lead: boolean) => repack(packet.data, lengthSize, lead ? sets : [])

/** The track's description when copied packets are in it. */
function copiedMeta(picture: OpenPicture, mixed: boolean): EncodedVideoChunkMetadata | undefined {
  if (!picture.config) return undefined
  return { decoderConfig: picture.codec === 'avc' && mixed ? inBand(picture.config) : picture.config }
}

/** H.264 whose parameter sets change on the way says so: sample entry 'avc3'. */
function inBand(config: VideoDecoderConfig): VideoDecoderConfig {
  return { ...config, codec: config.codec.replace(/^avc1/, 'avc3'), ...(config.description && { description: withLongLengths(bytesOf(config.description)) }) }
}
