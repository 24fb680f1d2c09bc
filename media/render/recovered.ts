/**
 * Decoding H.264 that does not begin with an IDR picture: a film that was cut out of a longer one without encoding it
 * anew. Decoders can be led in at recovery points (ITU-T H.264 §D.2.8) – at most of them: one whose first pictures take
 * leave of pictures that are not there is refused by the browser's decoder.
 */
import { EncodedPacketSink, VideoSample, type EncodedPacket, type InputVideoTrack } from 'mediabunny'
import { avcEntry, readAvcConfig } from '#core/picture/avc'
import { bytesOf } from './bytes'

/** Where a picture can be decoded from. */
export interface Entry {
  /** s */
  at: number
  /** Whether it is an IDR picture, or whatever else the codec calls a true key frame. */
  isKey: boolean
}

/** Packets that are decoded to see whether a decoder can be led in; by then it has met the pictures that follow. */
const TRIAL = 40
/** Packets under way in a decoder. */
const AHEAD = 12

const lengthSizeOf = (config: VideoDecoderConfig): number =>
  readAvcConfig(bytesOf(config.description ?? new Uint8Array())).lengthSize

/**
 * Frames from a recovery point on, in the order of showing, until `until` (s). Pictures that lead it need what came
 * before and are left out.
 * @throws {Error} when the decoder cannot be led in there
 */
async function* decodeFrom(
  packets: EncodedPacketSink,
  config: VideoDecoderConfig,
  entry: EncodedPacket,
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
    decoder.configure(config)
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
          data: packet.data,
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

/** The nearest recovery point at or before `time` (s) at which the decoder can be led in; null when there is none. */
async function entryBefore(
  packets: EncodedPacketSink,
  config: VideoDecoderConfig,
  time: number,
): Promise<EncodedPacket | null> {
  for (let at = time; ;) {
    const marked = await packets.getKeyPacket(at)
    if (!marked || marked.timestamp > at + 1e-6) return null
    if (await canEnter(packets, config, marked)) return marked
    if (at === marked.timestamp - 1e-4) return null
    at = marked.timestamp - 1e-4
  }
}

async function canEnter(
  packets: EncodedPacketSink,
  config: VideoDecoderConfig,
  packet: EncodedPacket,
): Promise<boolean> {
  if (avcEntry(packet.data, lengthSizeOf(config)) === null) return false
  try {
    let seen = 0
    for await (const sample of decodeFrom(packets, config, packet, Infinity, TRIAL)) {
      sample.close()
      seen++
    }
    return seen > 0
  } catch {
    // That is what was asked.
    return false
  }
}

/** The first instant from which a track can be shown; null when there is none. */
export async function firstEntry(track: InputVideoTrack): Promise<Entry | null> {
  const packets = new EncodedPacketSink(track)
  const first = await packets.getFirstPacket()
  if (!first) return null
  const trueKey = first.type === 'key' && (await packets.getKeyPacket(first.timestamp, { verifyKeyPackets: true }))
  if (trueKey && trueKey.sequenceNumber === first.sequenceNumber) return { at: first.timestamp, isKey: true }
  const config = await track.getDecoderConfig()
  if ((await track.getCodec()) !== 'avc' || !config?.description) return { at: first.timestamp, isKey: true }
  for (let packet: EncodedPacket | null = first; packet; packet = await packets.getNextKeyPacket(packet)) {
    const kind = avcEntry(packet.data, lengthSizeOf(config))
    if (kind === 'idr') return { at: packet.timestamp, isKey: true }
    if (kind === 'recovery' && (await canEnter(packets, config, packet))) return { at: packet.timestamp, isKey: false }
  }
  return null
}

/**
 * Frames of a stretch before the first true key frame: the one seen at `from` (s) first, then those up to `until`.
 * @throws {Error} when there is no recovery point to begin at
 */
export async function* recoveredFrames(
  track: InputVideoTrack,
  from: number,
  until: number,
): AsyncGenerator<VideoSample> {
  const packets = new EncodedPacketSink(track)
  const config = await track.getDecoderConfig()
  const entry = config && (await entryBefore(packets, config, from + 1e-4))
  if (!entry) throw new Error('There is no picture that can be decoded here.')
  let waiting: VideoSample | null = null
  try {
    for await (const sample of decodeFrom(packets, config, entry, until)) {
      if (sample.timestamp >= until) {
        sample.close()
        continue
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
