/**
 * Decoding H.264 from a recovery point (ITU-T H.264 §D.2.8), as in a film that was cut out of a longer one without
 * encoding it anew. Where the packets can be rewritten any decoder begins there; at others it can be led in – at most
 * of them: one whose first pictures take leave of pictures that are not there is refused by the browser's decoder.
 */
import { EncodedPacketSink, VideoSample, type EncodedPacket, type InputVideoTrack } from 'mediabunny'
import { avcEntry } from '#core/picture/avc'
import { avcConfigOf, canEnter, enteredConfig, entering, type Coded } from './entry'

/** Where a film can be decoded from. */
export interface FirstEntry {
  /** s */
  at: number
  /** Whether it is an IDR picture, or whatever else the codec calls a true key frame. */
  isKey: boolean
}

/** Packets that are decoded to see whether a decoder can be led in; by then it has met the pictures that follow. */
const TRIAL = 40
/** Packets under way in a decoder. */
const AHEAD = 12

/** A recovery point and how a decoder begins there. */
interface Lead {
  packet: EncodedPacket
  config: VideoDecoderConfig
  rewrite: ((data: Uint8Array) => Uint8Array) | null
}

/**
 * Frames from a recovery point on, in the order of showing, until `until` (s). Pictures that lead it need what came
 * before and are left out.
 * @throws {Error} when the decoder cannot begin there
 */
async function* decodeFrom(
  packets: EncodedPacketSink,
  { packet: entry, config, rewrite }: Lead,
  until: number,
  most = Infinity,
): AsyncGenerator<VideoSample> {
  const ready: VideoFrame[] = []
  let failed: Error | null = null
  let wake: () => void = () => undefined
  const decoder = new VideoDecoder({
    output(frame) {
      ready.push(frame)
      wake()
    },
    error(error) {
      failed = error
      wake()
    },
  })
  const check = () => {
    if (failed) throw failed
  }
  try {
    const { primaries, transfer, matrix, fullRange } = config.colorSpace ?? {}
    decoder.configure({
      ...config,
      // As mediabunny's decoders take what is not said, so that frames of both say the same.
      colorSpace: {
        primaries: primaries ?? 'bt709',
        transfer: transfer ?? 'bt709',
        matrix: matrix ?? 'bt709',
        fullRange: fullRange ?? false,
      },
    })
    let given = 0
    for await (const packet of packets.packets(entry)) {
      if (packet.sequenceNumber !== entry.sequenceNumber && packet.timestamp < entry.timestamp) continue
      // Behind the end by more than any reordering reaches.
      if (packet.timestamp > until + 2 || given >= most) break
      decoder.decode(
        new EncodedVideoChunk({
          type: given === 0 ? 'key' : 'delta',
          timestamp: Math.round(packet.timestamp * 1e6),
          duration: Math.round(packet.duration * 1e6),
          data: rewrite?.(packet.data) ?? packet.data,
        }),
      )
      given++
      while (decoder.decodeQueueSize > AHEAD && ready.length === 0 && !failed)
        await new Promise<void>(
          (resolve) => ((wake = resolve), decoder.addEventListener('dequeue', () => resolve(), { once: true })),
        )
      check()
      for (const frame of ready.splice(0)) yield new VideoSample(frame)
    }
    await decoder.flush().catch((error: unknown) => {
      failed ??= error instanceof Error ? error : new Error(String(error))
    })
    check()
    for (const frame of ready.splice(0)) yield new VideoSample(frame)
  } finally {
    for (const frame of ready.splice(0)) frame.close()
    if (decoder.state !== 'closed') decoder.close()
  }
}

/** How a decoder begins at a packet; null where it cannot. */
async function leadAt(coded: Coded, packet: EncodedPacket): Promise<Lead | null> {
  const { packets, config } = coded
  const avc = avcConfigOf(coded)
  if (!config || !avc || avcEntry(packet.data, avc.lengthSize) === null) return null
  const entered = enteredConfig(coded)
  if (entered && (await canEnter(packets, avc, packet)))
    return { packet, config: entered, rewrite: entering(coded, { packet, isRecovery: true }, 0) }
  const lead = { packet, config, rewrite: null }
  try {
    let seen = 0
    for await (const sample of decodeFrom(packets, lead, Infinity, TRIAL)) {
      sample.close()
      seen++
    }
    return seen > 0 ? lead : null
  } catch {
    // That is what was asked.
    return null
  }
}

/** The nearest recovery point at or before `time` (s) at which a decoder can begin; null when there is none. */
async function leadBefore(coded: Coded, time: number): Promise<Lead | null> {
  for (let at = time; ;) {
    const marked = await coded.packets.getKeyPacket(at)
    if (!marked || marked.timestamp > at + 1e-6) return null
    const lead = await leadAt(coded, marked)
    if (lead) return lead
    if (at === marked.timestamp - 1e-4) return null
    at = marked.timestamp - 1e-4
  }
}

/** The first instant from which a track can be shown; null when there is none. */
export async function firstEntry(track: InputVideoTrack): Promise<FirstEntry | null> {
  const packets = new EncodedPacketSink(track)
  const first = await packets.getFirstPacket()
  if (!first) return null
  const trueKey = first.type === 'key' && (await packets.getKeyPacket(first.timestamp, { verifyKeyPackets: true }))
  if (trueKey && trueKey.sequenceNumber === first.sequenceNumber) return { at: first.timestamp, isKey: true }
  const coded = { packets, codec: await track.getCodec(), config: await track.getDecoderConfig() }
  const avc = avcConfigOf(coded)
  if (!avc) return { at: first.timestamp, isKey: true }
  for (let packet: EncodedPacket | null = first; packet; packet = await packets.getNextKeyPacket(packet)) {
    if (avcEntry(packet.data, avc.lengthSize) === 'idr') return { at: packet.timestamp, isKey: true }
    if (await leadAt(coded, packet)) return { at: packet.timestamp, isKey: false }
  }
  return null
}

/**
 * Frames of a stretch that begins before any true key frame or long behind one: the one seen at `from` (s) first, then
 * those up to `until`.
 * @param entry the recovery point to begin at, where one is known
 * @throws {Error} when there is no recovery point to begin at
 */
export async function* recoveredFrames(
  coded: Coded,
  entry: EncodedPacket | null,
  from: number,
  until: number,
): AsyncGenerator<VideoSample> {
  const lead = entry ? await leadAt(coded, entry) : await leadBefore(coded, from + 1e-4)
  if (!lead) throw new Error('There is no picture that can be decoded here.')
  let waiting: VideoSample | null = null
  try {
    for await (const sample of decodeFrom(coded.packets, lead, until)) {
      if (sample.timestamp >= until) {
        sample.close()
        break
      }
      if (sample.timestamp <= from + 1e-4) {
        waiting?.close()
        waiting = sample
        continue
      }
      if (waiting) yield waiting
      waiting = null
      yield sample
    }
    if (waiting) yield waiting
    waiting = null
  } finally {
    waiting?.close()
  }
}
