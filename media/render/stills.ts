/** Draws what does not move – cards, lines of text, pictures, strokes – once, as overlays over I420 planes. */
import { max, min } from 'd3-array'
import type { Box, Size } from '#core/picture/layout'
import { fromRgba, type ColourMatrix, type Overlay } from '#core/picture/planes'
import type { BurntStill } from '#core/render/burnt'
import type { Still } from '#core/render/script'
import { strokePath } from '#core/picture/strokes'
import type { Stroke } from '#core/schema/edit'
import { loadFonts, paintBurnt, paintWords } from './words'

function canvasOf(width: number, height: number): OffscreenCanvasRenderingContext2D {
  const g = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })
  if (!g) throw new Error('This browser cannot draw in a worker, which rendering needs.')
  return g
}

/**
 * Draws a still into an overlay of the size of `box`. `blobOf` finds the file of a picture by its name.
 * @param frame that it stands in, px
 */
export async function drawStill(
  still: Still | BurntStill,
  box: Box,
  how: ColourMatrix,
  blobOf: (name: string) => Blob,
  frame: Size,
): Promise<Overlay> {
  const { width, height } = box
  const g = canvasOf(width, height)
  if (still.kind === 'picture') {
    const image = await createImageBitmap(blobOf(still.file), {
      resizeWidth: width,
      resizeHeight: height,
      resizeQuality: 'high',
    })
    g.drawImage(image, 0, 0, width, height)
    image.close()
  } else {
    await loadFonts(self.fonts)
    if (still.kind === 'caption' || still.kind === 'plate') paintBurnt(g, still, box, frame)
    else paintWords(g, still, box)
  }
  return fromRgba(g.getImageData(0, 0, width, height).data, width, height, how)
}

/**
 * Strokes over `box`, as they stand `at` seconds into their stretch: an overlay and where it stands in the frame; null
 * when nothing is drawn yet.
 */
export function drawStrokes(
  strokes: readonly Stroke[],
  at: number,
  box: Box,
  how: ColourMatrix,
): { overlay: Overlay; x: number; y: number } | null {
  const drawn = strokes
    .filter((s) => s.until === undefined || at < s.until)
    .map((s) => ({ ...s, points: s.points.filter((p) => p.at <= at) }))
    .filter((s) => s.points.length > 0)
  if (drawn.length === 0) return null
  const reach = (max(drawn, (s) => s.width) ?? -Infinity) * box.height
  const xs = drawn.flatMap((s) => s.points.map((p) => p.x * box.width))
  const ys = drawn.flatMap((s) => s.points.map((p) => p.y * box.height))
  const x = Math.max(0, 2 * Math.floor(((min(xs) ?? Infinity) - reach) / 2))
  const y = Math.max(0, 2 * Math.floor(((min(ys) ?? Infinity) - reach) / 2))
  const width = Math.min(box.width - x, 2 * Math.ceil(((max(xs) ?? -Infinity) + reach - x) / 2))
  const height = Math.min(box.height - y, 2 * Math.ceil(((max(ys) ?? -Infinity) + reach - y) / 2))
  if (width < 2 || height < 2) return null
  const g = canvasOf(width, height)
  g.lineCap = 'round'
  g.lineJoin = 'round'
  // Paths are in heights of the picture.
  g.setTransform(box.height, 0, 0, box.height, -x, -y)
  for (const stroke of drawn) {
    const { data, filled } = strokePath(stroke, box.width / box.height)
    const path = new Path2D(data)
    g.globalAlpha = stroke.opacity
    g.fillStyle = g.strokeStyle = stroke.colour
    g.lineWidth = Math.max(1 / box.height, stroke.width)
    if (filled) g.fill(path)
    else g.stroke(path)
  }
  return { overlay: fromRgba(g.getImageData(0, 0, width, height).data, width, height, how), x: box.x + x, y: box.y + y }
}

/** How often strokes have changed by `at`: equal numbers mean equal drawings. */
export const strokesState = (strokes: readonly Stroke[], at: number): number =>
  strokes.reduce(
    (n, s) => n + s.points.filter((p) => p.at <= at).length + (s.until !== undefined && at >= s.until ? 1 : 0),
    0,
  )
