/** A still of a picture feed for a lecture's card. */
import { CanvasSink } from 'mediabunny'
import { openInput } from './read'

/** @param at seconds in the file; @returns a JPEG of at most 320 px width */
export async function poster(blob: Blob, at: number): Promise<Blob> {
  const input = openInput(blob)
  try {
    const track = await input.getPrimaryVideoTrack()
    if (!track) throw new Error('There is no picture to make a still of.')
    const found = await new CanvasSink(track, { width: 320 }).getCanvas(Math.max(at, await track.getFirstTimestamp()))
    if (!(found?.canvas instanceof OffscreenCanvas)) throw new Error('The picture could not be decoded.')
    return await found.canvas.convertToBlob({ type: 'image/jpeg', quality: 0.8 })
  } finally {
    input.dispose()
  }
}
