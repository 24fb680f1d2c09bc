import type { VideoSample } from 'mediabunny'
import { shrink } from '#core/picture/shrink'

function contextOf(width: number, height: number): OffscreenCanvasRenderingContext2D {
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })
  if (!context) throw new Error('This browser cannot draw in a worker.')
  return context
}

/**
 * Draws frames small, each as it is to be seen. Their bytes are read and not drawn: of each frame that is drawn, Chromium
 * (seen in 156) keeps the whole picture decoded, up to some hundred megabytes of the page's memory, also when the worker
 * has ended.
 */
export function smallPictures(width: number): (sample: VideoSample) => Promise<OffscreenCanvas> {
  let rgba = new Uint8Array(0)
  return async (sample) => {
    const height = Math.max(1, Math.round((width * sample.displayHeight) / sample.displayWidth))
    const upright = contextOf(width, height)
    if (sample.format === null) {
      sample.draw(upright, 0, 0, width, height)
      return upright.canvas
    }
    const { width: wide, height: high } = sample.visibleRect
    const size = sample.allocationSize({ format: 'RGBA' })
    if (rgba.length < size) rgba = new Uint8Array(size)
    await sample.copyTo(rgba, { format: 'RGBA', layout: [{ offset: 0, stride: 4 * wide }] })
    const turned = sample.rotation % 180 !== 0
    const to = turned ? { width: height, height: width } : { width, height }
    const small = contextOf(to.width, to.height)
    small.putImageData(new ImageData(shrink(rgba, { width: wide, height: high }, to), to.width, to.height), 0, 0)
    if (sample.rotation === 0 && !sample.flip) return small.canvas
    // Turned first, then flipped, about the middle.
    upright.translate(width / 2, height / 2)
    if (sample.flip) upright.scale(-1, 1)
    upright.rotate((sample.rotation * Math.PI) / 180)
    upright.drawImage(small.canvas, -to.width / 2, -to.height / 2)
    return upright.canvas
  }
}
