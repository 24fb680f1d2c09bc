/**
 * RIFF/WAVE files (Microsoft/IBM, Multimedia Programming Interface 1.0), as far as the recogniser's
 * border needs them.
 */

export interface WavHeader {
  sampleRate: number
  channels: number
  bitsPerSample: number
  /** 1 is linear PCM. */
  formatTag: number
  /** Byte at which samples begin. */
  dataOffset: number
  /** Bytes of samples as the header says. */
  dataSize: number
}

/**
 * Reads a WAVE header from the first bytes of a file (4 KiB are plenty).
 * @throws {Error} with a sentence when it is not one
 */
export function readWavHeader(bytes: Uint8Array): WavHeader {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const tag = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4))
  if (bytes.length < 44 || tag(0) !== 'RIFF' || tag(8) !== 'WAVE') throw new Error('This is not a WAVE file.')
  let at = 12
  let format: Omit<WavHeader, 'dataOffset' | 'dataSize'> | null = null
  while (at + 8 <= bytes.length) {
    const size = view.getUint32(at + 4, true)
    if (tag(at) === 'fmt ' && at + 24 <= bytes.length)
      format = {
        formatTag: view.getUint16(at + 8, true),
        channels: view.getUint16(at + 10, true),
        sampleRate: view.getUint32(at + 12, true),
        bitsPerSample: view.getUint16(at + 22, true),
      }
    if (tag(at) === 'data') {
      if (!format) break
      return { ...format, dataOffset: at + 8, dataSize: size }
    }
    at += 8 + size + (size % 2)
  }
  throw new Error('This WAVE file has no format or no samples.')
}

/**
 * The head of a WAVE file of one channel of 16 bit; its samples follow.
 * @param size bytes of samples
 */
export function wavHead(size: number, sampleRate: number): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(44)
  const view = new DataView(out.buffer)
  const tag = (at: number, text: string) =>
    out.set(
      Array.from(text, (c) => c.charCodeAt(0)),
      at,
    )
  tag(0, 'RIFF')
  view.setUint32(4, 36 + size, true)
  tag(8, 'WAVEfmt ')
  view.setUint32(16, 16, true)
  view.setUint16(20, 1, true)
  view.setUint16(22, 1, true)
  view.setUint32(24, sampleRate, true)
  view.setUint32(28, 2 * sampleRate, true)
  view.setUint16(32, 2, true)
  view.setUint16(34, 16, true)
  tag(36, 'data')
  view.setUint32(40, size, true)
  return out
}

/**
 * A WAVE file of one channel of 16 bit.
 * @param samples as they are to stand in the file (little-endian)
 */
export function writeWav(samples: Uint8Array, sampleRate: number): Uint8Array {
  const out = new Uint8Array(44 + samples.length)
  out.set(wavHead(samples.length, sampleRate))
  out.set(samples, 44)
  return out
}
