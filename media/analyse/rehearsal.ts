/** Looks at what a rehearsal really recorded, for its verdicts. */
import { CanvasSink, EncodedPacketSink } from 'mediabunny'
import type { HeardSound, SeenPicture } from '#core/record/rehearsal'
import { openInput } from '../read'
import { analyseSound } from './sound'

/** Looks at a picture, evenly spread, and their width, px. */
const LOOKS = 12
const WIDTH = 96

export async function hear(blob: Blob, label: string): Promise<HeardSound> {
  const { peaks, noiseFloor, clipping } = await analyseSound(blob, () => undefined)
  const finest = peaks[0]?.data ?? new Int8Array(0)
  const tops = new Float32Array(finest.length / 2)
  for (let i = 0; i < tops.length; i++)
    tops[i] = Math.max(Math.abs(finest[2 * i] as number), Math.abs(finest[2 * i + 1] as number)) / 127
  return { label, tops, noiseFloor, clipped: clipping.reduce((sum, c) => sum + c.to - c.from, 0) }
}

/** @param frameRate frames per second that were asked for */
export async function see(
  blob: Blob,
  label: string,
  kind: 'screen' | 'camera',
  frameRate: number,
): Promise<SeenPicture> {
  const input = openInput(blob)
  try {
    const track = await input.getPrimaryVideoTrack()
    const none: SeenPicture = { label, kind, frames: 0, due: 0, movement: 0, brightest: 0 }
    if (!track) return none
    const first = await track.getFirstTimestamp()
    const duration = await track.computeDuration()
    let frames = 0
    for await (const packet of new EncodedPacketSink(track).packets(undefined, undefined, { metadataOnly: true }))
      if (packet.duration >= 0) frames++
    if (frames === 0) return none
    let before: Uint8Array | null = null
    let movement = 0
    let brightest = 0
    const times = Array.from({ length: LOOKS }, (_, i) => first + ((duration - first) * (i + 0.5)) / LOOKS)
    for await (const found of new CanvasSink(track, { width: WIDTH, poolSize: 1 }).canvasesAtTimestamps(times)) {
      const g = found?.canvas instanceof OffscreenCanvas ? found.canvas.getContext('2d') : null
      if (!g) continue
      const { data } = g.getImageData(0, 0, g.canvas.width, g.canvas.height)
      const grey = new Uint8Array(data.length / 4)
      let sum = 0
      let difference = 0
      for (let i = 0; i < grey.length; i++) {
        // Rec. 709 luma.
        const value = Math.round(
          0.2126 * (data[4 * i] as number) +
            0.7152 * (data[4 * i + 1] as number) +
            0.0722 * (data[4 * i + 2] as number),
        )
        grey[i] = value
        sum += value
        if (before) difference += Math.abs(value - (before[i] ?? 0))
      }
      brightest = Math.max(brightest, sum / grey.length)
      if (before) movement = Math.max(movement, difference / grey.length)
      before = grey
    }
    return { label, kind, frames, due: Math.round((duration - first) * frameRate), movement, brightest }
  } finally {
    input.dispose()
  }
}
