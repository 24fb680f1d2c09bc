/**
 * The header of a RIFF/WAVE file (Microsoft/IBM, Multimedia Programming Interface 1.0), as far as the recogniser's
 * border needs it.
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
