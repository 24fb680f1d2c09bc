/**
 * Where a picture can begin: at true key frames, and in H.264 at the recovery points of open groups too, whose packets
 * are rewritten for it (`core/picture/avc-entry.ts`).
 */
import type { EncodedPacket, EncodedPacketSink, VideoCodec } from 'mediabunny'
import { avcEntry, readAvcConfig, writeAvcConfig, type AvcConfig } from '#core/picture/avc'
import { canEnterAt, enterAt, withGaps } from '#core/picture/avc-entry'
import { bytesOf } from './bytes'

/** What is read of a film to find where it can begin. */
export interface Coded {
  packets: EncodedPacketSink
  codec: VideoCodec | null
  config: VideoDecoderConfig | null
}

export interface Entry {
  packet: EncodedPacket
  /** Whether it is a recovery point: what follows has to be rewritten. */
  isRecovery: boolean
}

/** Packets looked at to judge a recovery point: by then as many references have come as a film can hold. */
const LOOK = 120
/** How far back a recovery point is looked for that the container does not mark, s. */
const BACK = 12
/** What is shown before another can be decoded after it by no more than this, s. */
const REORDER = 1

/** H.264's configuration; null for other codecs, and where there is none. */
export const avcConfigOf = ({ codec, config }: Pick<Coded, 'codec' | 'config'>): AvcConfig | null =>
  codec === 'avc' && config?.description ? readAvcConfig(bytesOf(config.description)) : null

/** Whether a packet is a recovery point that can be entered at. */
export async function canEnter(packets: EncodedPacketSink, config: AvcConfig, packet: EncodedPacket): Promise<boolean> {
  if (avcEntry(packet.data, config.lengthSize) !== 'recovery') return false
  const behind: Uint8Array[] = []
  for await (const { data } of packets.packets(packet)) if (behind.push(data) >= LOOK) break
  return canEnterAt(config, behind)
}

async function entryAt(coded: Coded, config: AvcConfig, packet: EncodedPacket): Promise<Entry | null> {
  const kind = avcEntry(packet.data, config.lengthSize)
  if (kind === 'idr') return { packet, isRecovery: false }
  return (await canEnter(coded.packets, config, packet)) ? { packet, isRecovery: true } : null
}

/** The first entry that is shown at `from` or later, and not after `to`, s; null when there is none. */
export async function entryFrom(coded: Coded, from: number, to: number): Promise<Entry | null> {
  const { packets } = coded
  const config = avcConfigOf(coded)
  if (!config) {
    const strict = { verifyKeyPackets: true }
    let packet = (await packets.getKeyPacket(from, strict)) ?? (await packets.getFirstPacket())
    if (packet && packet.timestamp < from) packet = await packets.getNextKeyPacket(packet, strict)
    return packet && packet.timestamp <= to ? { packet, isRecovery: false } : null
  }
  const start = (await packets.getPacket(from - REORDER)) ?? (await packets.getFirstPacket())
  if (!start) return null
  for await (const packet of packets.packets(start)) {
    if (packet.timestamp > to + REORDER) return null
    if (packet.timestamp < from || packet.timestamp > to) continue
    const entry = await entryAt(coded, config, packet)
    if (entry) return entry
  }
  return null
}

/** The last entry that is shown at `time` (s) or before, as far as one is marked or near; null when there is none. */
export async function entryBefore(coded: Coded, time: number): Promise<Entry | null> {
  const { packets } = coded
  const config = avcConfigOf(coded)
  const marked = await packets.getKeyPacket(time)
  if (config) {
    const entry = marked && (await entryAt(coded, config, marked))
    if (entry && time - entry.packet.timestamp < BACK) return entry
    const start = await packets.getPacket(time - BACK)
    const found: EncodedPacket[] = []
    if (start)
      for await (const packet of packets.packets(start)) {
        if (packet.timestamp > time + REORDER) break
        if (packet.timestamp <= time && avcEntry(packet.data, config.lengthSize)) found.push(packet)
      }
    for (const packet of found.reverse()) {
      const near = await entryAt(coded, config, packet)
      if (near) return near
    }
    if (entry) return entry
  }
  const packet = await packets.getKeyPacket(time, { verifyKeyPackets: true })
  return packet && { packet, isRecovery: false }
}

/** A decoder's configuration for packets that were rewritten. */
export function enteredConfig(coded: Coded): VideoDecoderConfig | null {
  const config = avcConfigOf(coded)
  return config && coded.config && { ...coded.config, description: writeAvcConfig(withGaps(config)) }
}

/** Rewrites the packets from an entry on; null where they stay as they are. @param run tells runs from one another */
export function entering(coded: Coded, entry: Entry, run: number): ((data: Uint8Array) => Uint8Array) | null {
  const config = avcConfigOf(coded)
  return entry.isRecovery && config ? enterAt(config, run) : null
}
