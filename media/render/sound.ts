/**
 * The sound of a result as packets in order: copied where the edit leaves it alone, with new packets around each
 * seam; or encoded throughout, when it is treated or cannot be copied.
 */
import { max } from 'd3-array'
import { registerAacEncoder } from '@mediabunny/aac-encoder'
import {
  AudioSample,
  AudioSampleSource,
  canEncodeAudio,
  EncodedPacket,
  MkvOutputFormat,
  NullTarget,
  Output,
  Quality,
  type AudioCodec,
} from 'mediabunny'
import { isUntouched, runsOn, type Script, type SoundSource, type SoundSpan } from '#core/render/script'
import { planSound, type CopiedSound, type EncodedSound, type SoundGrid } from '#core/render/splice'
import { atDecodedRate } from '../opus'
import type { OpenSound } from './feed'
import { soundMix, type Pcm, type SoundMix } from './pcm'
import { treatedSound } from './treat'

export interface SoundOut {
  packet: EncodedPacket
  meta?: EncodedAudioChunkMetadata
}

export interface SoundPlan {
  codec: AudioCodec
  sampleRate: number
  /** At most this many packets come. */
  packetCount: number
  /** Why it was encoded throughout although only cut, or what else a person should know; empty otherwise. */
  note: string
  packets(onPass: (share: number) => void): AsyncGenerator<SoundOut>
}

type Source = SoundSource

/** Samples in an AAC packet; and by how many the encoder's output lags its input (ISO/IEC 14496-24, encoder delay). */
const AAC_PACKET = 1024
const AAC_DELAY = 1024
/** Length of the Opus packets made for seams, s: every run lands within half of it. */
const OPUS_UNIT = 0.01
/** Bits per second for each channel of speech that is encoded throughout. */
const BITRATE = 64_000
/** Samples handed to an encoder together. */
const BLOCK = 9600

/** Length of an Opus packet in seconds, from its first two bytes (RFC 6716 §3.1, §3.2). */
export function opusPacketLength(data: Uint8Array): number {
  const config = (data[0] ?? 0) >> 3
  const frame =
    config < 12
      ? ([0.01, 0.02, 0.04, 0.06][config & 3] ?? 0)
      : config < 16
        ? ([0.01, 0.02][config & 1] ?? 0)
        : ([0.0025, 0.005, 0.01, 0.02][config & 3] ?? 0)
  const code = (data[0] ?? 0) & 3
  return frame * (code === 0 ? 1 : code < 3 ? 2 : (data[1] ?? 0) & 63)
}

interface Copyable {
  codec: 'aac' | 'opus'
  config: AudioDecoderConfig
  grid: SoundGrid
  /** Where packets begin in each source, s. */
  starts: ReadonlyMap<OpenSound, { grid: number; end: number }>
  bitrate: number
}

/** What can be copied, or why nothing can. */
async function copyable(sounds: readonly OpenSound[], codecs: readonly AudioCodec[]): Promise<Copyable | string> {
  const [first] = sounds
  if (!first) return ''
  const codec = await first.track.getCodec()
  const found = await first.track.getDecoderConfig()
  const config = found && atDecodedRate(found)
  if (!config || !codec) return 'The sound’s coding is not known.'
  if ((codec !== 'aac' && codec !== 'opus') || !codecs.includes(codec))
    return `The sound is coded as ${codec}, which this kind of file does not hold or which cannot be encoded here.`
  if (codec === 'aac' && config.codec !== 'mp4a.40.2') return 'The sound is a kind of AAC that cannot be encoded here.'
  const packet0 = await first.packets.getFirstPacket()
  if (!packet0) return 'The sound has no packets.'
  const packet = codec === 'aac' ? AAC_PACKET / config.sampleRate : opusPacketLength(packet0.data)
  if (codec === 'aac' && packet > 0.025)
    return `The sound has ${config.sampleRate} Hz, whose packets are too long to cut at.`
  if (!(packet > 0)) return 'The sound’s packets have no length.'
  const starts = new Map<OpenSound, { grid: number; end: number }>()
  for (const sound of sounds) {
    const stated = await sound.track.getDecoderConfig()
    const other = stated && atDecodedRate(stated)
    if (
      other?.codec !== config.codec ||
      other.sampleRate !== config.sampleRate ||
      other.numberOfChannels !== config.numberOfChannels
    )
      return 'The sound comes from files that are coded differently.'
    starts.set(sound, { grid: await sound.track.getFirstTimestamp(), end: await sound.track.computeDuration() })
  }
  // AAC decodes a packet from it and the one before; Opus wants 80 ms to settle (RFC 7845 §4.6).
  const grid: SoundGrid =
    codec === 'aac'
      ? { packet, unit: packet, lead: packet, settle: 2 * packet }
      : { packet, unit: OPUS_UNIT, lead: OPUS_UNIT, settle: 0.08 }
  return {
    codec,
    config,
    grid,
    starts,
    bitrate: Math.max(48_000, Math.round((await first.track.computePacketStats(500)).averageBitrate)),
  }
}

/**
 * @param codecs that the container can hold, the preferred for encoding first
 * @param scratch name under which scratch files may be made
 */
export async function planSoundTrack(
  script: Script,
  open: (source: Source) => OpenSound,
  codecs: readonly AudioCodec[],
  scratch: string,
): Promise<SoundPlan> {
  registerAacEncoder()
  const sources = script.sound.flatMap((s) => [
    ...(s.source ? [s.source] : []),
    ...(s.beneath ? [s.beneath.source] : []),
  ])
  const sounds = [...new Set(sources.map(open))]
  const { noise, loudness } = script.treatment
  const treated = noise === 'reduce' || loudness !== null
  const found = treated ? '' : await copyable(sounds, codecs)
  if (typeof found !== 'string') {
    const pieces = planSound(
      script.sound.map((s) => ({
        at: s.at,
        length: s.length,
        source: s.source && isUntouched(s) ? sourceOf(s.source, open, found) : null,
      })),
      script.length,
      found.grid,
    )
    return {
      codec: found.codec,
      sampleRate: found.config.sampleRate,
      note: '',
      packetCount: Math.ceil(script.length / Math.min(found.grid.packet, found.grid.unit)) + 64,
      packets: () => splicedPackets(script, open, found, pieces),
    }
  }
  const sampleRate = 48_000
  const channels = Math.min(2, Math.max(1, max(sounds, (s) => s.channels) ?? 1))
  const codec = await firstEncodable(codecs, sampleRate, channels)
  return {
    codec,
    sampleRate,
    note: found ? `${found} All of it was encoded anew.` : '',
    packetCount: Math.ceil((script.length * sampleRate) / 900) + 64,
    packets: (onPass) => encodedPackets(script, open, { codec, sampleRate, channels, scratch }, onPass),
  }
}

function sourceOf(source: Source, open: (source: Source) => OpenSound, { starts, grid }: Copyable) {
  const { grid: begin, end } = starts.get(open(source)) ?? { grid: 0, end: 0 }
  return { from: source.from, grid: begin, begin: Math.max(begin, -grid.packet), end }
}

async function firstEncodable(
  codecs: readonly AudioCodec[],
  sampleRate: number,
  numberOfChannels: number,
): Promise<AudioCodec> {
  for (const codec of codecs) if (await canEncodeAudio(codec, { sampleRate, numberOfChannels })) return codec
  throw new Error('This browser cannot encode any sound that this kind of file holds.')
}

/** Copied runs and new packets between them. */
async function* splicedPackets(
  script: Script,
  open: (source: Source) => OpenSound,
  found: Copyable,
  pieces: readonly (CopiedSound | EncodedSound)[],
): AsyncGenerator<SoundOut> {
  const { config, grid } = found
  const shifts = shiftsOf(script.sound, pieces)
  const mix = soundMix(script.sound, open, config.sampleRate, config.numberOfChannels, shifts)
  const units =
    found.codec === 'aac'
      ? await aacUnits(mix, found)
      : { encode: (piece: EncodedSound) => opusUnits(mix, piece, found), close: async () => undefined }
  let meta: EncodedAudioChunkMetadata | undefined = { decoderConfig: config }
  try {
    for (const piece of pieces) {
      const packets =
        piece.kind === 'copy'
          ? copyRun(script.sound[piece.span]?.source ?? null, open, piece, grid)
          : encodeUnits(units.encode, piece, found)
      for await (const packet of packets) {
        yield { packet, ...(meta && { meta }) }
        meta = undefined
      }
    }
  } finally {
    await units.close()
    await mix.close()
  }
}

/** Seconds by which each span stands later; what is made anew stands as what it goes on from, or what goes on from it. */
function shiftsOf(spans: readonly SoundSpan[], pieces: readonly (CopiedSound | EncodedSound)[]): number[] {
  const copied = new Map(pieces.flatMap((p) => (p.kind === 'copy' ? [[p.span, p.shift] as const] : [])))
  const shifts: (number | undefined)[] = []
  for (const [i, span] of spans.entries())
    shifts.push(copied.get(i) ?? (runsOn(spans[i - 1], span) ? shifts[i - 1] : undefined))
  for (let i = spans.length - 2; i >= 0; i--)
    if (shifts[i] === undefined && runsOn(spans[i], spans[i + 1] as SoundSpan)) shifts[i] = shifts[i + 1]
  return shifts.map((s) => s ?? 0)
}

async function* copyRun(
  source: Source | null,
  open: (source: Source) => OpenSound,
  piece: CopiedSound,
  { packet: length }: SoundGrid,
): AsyncGenerator<EncodedPacket> {
  if (!source) return
  const { packets } = open(source)
  const first = await packets.getPacket(piece.from + length / 2)
  if (!first) return
  const end = piece.from + (piece.count - 0.5) * length
  for await (const packet of packets.packets(first)) {
    if (packet.timestamp >= end) return
    // A gap in the source stays where it is: each packet keeps its own distance to the first.
    if (packet.timestamp > piece.from - length / 2)
      yield packet.clone({ timestamp: Math.max(0, piece.at + (packet.timestamp - piece.from)), duration: length })
  }
}

const sampleOf = (pcm: Pcm, sampleRate: number, timestamp: number): AudioSample => {
  const frames = pcm[0]?.length ?? 0
  const data = new Float32Array(frames * pcm.length)
  pcm.forEach((plane, c) => data.set(plane, c * frames))
  return new AudioSample({ data, format: 'f32-planar', numberOfChannels: pcm.length, sampleRate, timestamp })
}

type UnitEncoder = (piece: EncodedSound) => Promise<EncodedPacket[]>

async function* encodeUnits(
  encode: UnitEncoder,
  piece: EncodedSound,
  { grid }: Copyable,
): AsyncGenerator<EncodedPacket> {
  const packets = await encode(piece)
  for (let i = 0; i < piece.units; i++) {
    const packet = packets[i]
    if (!packet) throw new Error('The sound’s encoder gave fewer packets than it was given sound for.')
    yield packet.clone({ timestamp: piece.at + i * grid.unit, duration: grid.unit, type: 'key' })
  }
}

/** Packets before the first that is used, so that the encoder has settled; and behind the last, which overlaps it. */
const AAC_WARM_UP = 2
const AAC_TAIL = 1 + AAC_DELAY / AAC_PACKET

/** One encoder for all seams, as starting it takes longer than a seam: each is fed with what leads up to it. */
async function aacUnits(
  mix: SoundMix,
  { config, bitrate }: Copyable,
): Promise<{ encode: UnitEncoder; close(): Promise<void> }> {
  const { sampleRate } = config
  const ready: EncodedPacket[] = []
  let tell = () => undefined as void
  const source = new AudioSampleSource({
    codec: 'aac',
    quality: new Quality({ bitrate: Math.max(bitrate, 96_000) }),
    onEncodedPacket(packet) {
      ready.push(packet)
      tell()
    },
  })
  const output = new Output({ format: new MkvOutputFormat(), target: new NullTarget() })
  output.addAudioTrack(source)
  await output.start()
  let fed = 0
  let taken = 0
  const take = async (): Promise<EncodedPacket> => {
    while (ready.length === 0) await new Promise<void>((resolve) => (tell = resolve))
    taken++
    return ready.shift() as EncodedPacket
  }
  return {
    async encode(piece) {
      const base = fed / AAC_PACKET
      const start = Math.round(piece.at * sampleRate) - AAC_WARM_UP * AAC_PACKET
      const total = (AAC_WARM_UP + piece.units + AAC_TAIL) * AAC_PACKET
      for (let done = 0; done < total; done += BLOCK) {
        const sample = sampleOf(
          await mix.read(start + done, Math.min(BLOCK, total - done)),
          sampleRate,
          (fed + done) / sampleRate,
        )
        await source.add(sample)
        sample.close()
      }
      fed += total
      const first = base + AAC_WARM_UP + AAC_DELAY / AAC_PACKET
      while (taken < first) await take()
      const packets: EncodedPacket[] = []
      while (packets.length < piece.units) packets.push(await take())
      return packets
    },
    close: () => output.cancel(),
  }
}

/** Opus packets before the first that is used, so that the encoder has settled. */
const OPUS_WARM_UP = 4

async function opusUnits(mix: SoundMix, piece: EncodedSound, { config, bitrate }: Copyable): Promise<EncodedPacket[]> {
  const { sampleRate, numberOfChannels } = config
  const frames = Math.round(OPUS_UNIT * sampleRate)
  const ready: EncodedPacket[] = []
  let failed: unknown = null
  const encoder = new AudioEncoder({
    output: (chunk) => void ready.push(EncodedPacket.fromEncodedChunk(chunk)),
    error: (error) => void (failed = error),
  })
  encoder.configure({
    codec: 'opus',
    sampleRate,
    numberOfChannels,
    bitrate: Math.max(bitrate, 64_000 * numberOfChannels),
    opus: { frameDuration: OPUS_UNIT * 1e6 },
  })
  // The first packets are thrown away: they only bring the encoder to where the sound is.
  const lead = OPUS_WARM_UP * frames
  const start = Math.round(piece.at * sampleRate) - lead
  const total = lead + piece.units * frames
  for (let done = 0; done < total; done += BLOCK) {
    const pcm = await mix.read(start + done, Math.min(BLOCK, total - done))
    const sample = sampleOf(pcm, sampleRate, done / sampleRate)
    const data = sample.toAudioData()
    encoder.encode(data)
    data.close()
    sample.close()
  }
  await encoder.flush()
  encoder.close()
  if (failed) throw failed
  return ready.slice(OPUS_WARM_UP)
}

/** All of it through an encoder, after treatment. */
async function* encodedPackets(
  script: Script,
  open: (source: Source) => OpenSound,
  {
    codec,
    sampleRate,
    channels,
    scratch,
  }: { codec: AudioCodec; sampleRate: number; channels: number; scratch: string },
  onPass: (share: number) => void,
): AsyncGenerator<SoundOut> {
  const ready: SoundOut[] = []
  const source = new AudioSampleSource({
    codec,
    quality: new Quality({ bitrate: BITRATE * channels }),
    onEncodedPacket: (packet, meta) => void ready.push({ packet, ...(meta && { meta }) }),
  })
  const output = new Output({ format: new MkvOutputFormat(), target: new NullTarget() })
  output.addAudioTrack(source)
  await output.start()
  // The AAC encoder stamps its first packet 0 although it lags. Its input is begun that much later, so that the sound
  // stays in place and 21 ms of its start are lost.
  const skip = codec === 'aac' ? AAC_DELAY : 0
  let written = 0
  for await (const pcm of treatedSound(
    script,
    () => soundMix(script.sound, open, sampleRate, channels),
    { sampleRate, channels, skip, scratch },
    onPass,
  )) {
    const sample = sampleOf(pcm, sampleRate, written / sampleRate)
    written += sample.numberOfFrames
    await source.add(sample)
    sample.close()
    yield* ready.splice(0)
  }
  await output.finalize()
  yield* ready.splice(0)
}
