/** What a file says of its Opus sound. */
import type { InputAudioTrack } from 'mediabunny'

/** Bytes of an identification header before the rate of what was encoded (RFC 7845 §5.1). */
const RATE_AT = 12

/**
 * A description of Opus sound at the rate at which it is decoded, 48 kHz (RFC 7845 §4): the rate of the device, which
 * files may name beside it, says nothing of how it plays, and where both stand some players refuse it. Of another codec
 * it stays as it is.
 */
export function atDecodedRate(config: AudioDecoderConfig): AudioDecoderConfig {
  if (config.codec !== 'opus') return config
  const { description } = config
  if (!description) return { ...config, sampleRate: 48_000 }
  const bytes = ArrayBuffer.isView(description)
    ? new Uint8Array(description.buffer, description.byteOffset, description.byteLength).slice()
    : new Uint8Array(description).slice()
  if (bytes.length >= RATE_AT + 4) new DataView(bytes.buffer).setUint32(RATE_AT, 48_000, true)
  return { ...config, sampleRate: 48_000, description: bytes }
}

/** Hz of what a track is decoded to: Opus always 48 kHz, whatever the file says of the device. */
export const decodedRate = async (track: InputAudioTrack): Promise<number> =>
  (await track.getCodec()) === 'opus' ? 48_000 : track.getSampleRate()
