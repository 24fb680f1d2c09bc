/** Draws what does not move – cards, lines of text, pictures, strokes – once, as overlays over I420 planes. */
import atkinson from '@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2?url'
import fraunces from '@fontsource-variable/fraunces/files/fraunces-latin-wght-normal.woff2?url'
import type { Box, Size } from '#core/picture/layout'
import { fromRgba, type ColourMatrix, type Overlay } from '#core/picture/planes'
import type { Still } from '#core/render/script'
import type { Stroke } from '#core/schema/edit'

const TEXT = 'Atkinson Hyperlegible Next'
const TITLE = 'Fraunces'

let fonts: Promise<void> | null = null

/** Loads the two typefaces into this worker, once. */
function loadFonts(): Promise<void> {
  fonts ??= (async () => {
    for (const [family, url] of [
      [TEXT, atkinson],
      [TITLE, fraunces],
    ] as const) {
      const face = new FontFace(family, `url(${new URL(url, self.location.href).href})`, { weight: '200 900' })
      self.fonts.add(await face.load())
    }
  })()
  return fonts
}

function canvasOf(width: number, height: number): OffscreenCanvasRenderingContext2D {
  const g = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })
  if (!g) throw new Error('This browser cannot draw in a worker, which rendering needs.')
  return g
}

/** Breaks text into lines no wider than `width` px; a word longer than a line stays whole. */
function wrap(g: OffscreenCanvasRenderingContext2D, text: string, width: number): string[] {
  return text.split('\n').flatMap((paragraph) => {
    const lines: string[] = []
    let line = ''
    for (const word of paragraph.split(' ')) {
      const longer = line ? `${line} ${word}` : word
      if (line && g.measureText(longer).width > width) {
        lines.push(line)
        line = word
      } else line = longer
    }
    return [...lines, line]
  })
}

/** The largest size (px) from `largest` down at which `text` fits into the box. */
function fitText(
  g: OffscreenCanvasRenderingContext2D,
  text: string,
  font: (px: number) => string,
  largest: number,
  box: Size,
): { px: number; lines: string[] } {
  for (let px = largest; ; px *= 0.92) {
    g.font = font(px)
    const lines = wrap(g, text, box.width)
    const fits = lines.length * px * 1.3 <= box.height && lines.every((l) => g.measureText(l).width <= box.width)
    if (fits || px < 8) return { px, lines }
  }
}

/** Draws a still into an overlay of the size of `box`. `blobOf` finds the file of a picture by its name. */
export async function drawStill(
  still: Still,
  box: Box,
  how: ColourMatrix,
  blobOf: (name: string) => Blob,
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
    await loadFonts()
    if (still.kind === 'card') drawCard(g, still, { width, height })
    else drawText(g, still, { width, height })
  }
  return fromRgba(g.getImageData(0, 0, width, height).data, width, height, how)
}

function drawCard(
  g: OffscreenCanvasRenderingContext2D,
  card: Extract<Still, { kind: 'card' }>,
  { width, height }: Size,
): void {
  g.fillStyle = card.ground
  g.fillRect(0, 0, width, height)
  g.fillStyle = card.ink
  g.textBaseline = 'middle'
  const left = width * 0.1
  const column = width * 0.8
  const title = fitText(g, card.title, (px) => `600 ${px}px "${TITLE}"`, height * 0.11, {
    width: column,
    height: height * 0.4,
  })
  const body = fitText(g, card.text, (px) => `400 ${px}px "${TEXT}"`, height * 0.05, {
    width: column,
    height: height * 0.35,
  })
  const gap = card.title && card.text ? height * 0.05 : 0
  const total =
    (card.title ? title.lines.length * title.px * 1.2 : 0) + gap + (card.text ? body.lines.length * body.px * 1.4 : 0)
  let y = (height - total) / 2
  const put = (lines: readonly string[], px: number, leading: number, font: string) => {
    g.font = font
    for (const line of lines) {
      g.fillText(line, left, y + (px * leading) / 2)
      y += px * leading
    }
  }
  if (card.title) put(title.lines, title.px, 1.2, `600 ${title.px}px "${TITLE}"`)
  y += gap
  if (card.text) put(body.lines, body.px, 1.4, `400 ${body.px}px "${TEXT}"`)
}

function drawText(
  g: OffscreenCanvasRenderingContext2D,
  still: Extract<Still, { kind: 'text' }>,
  { width, height }: Size,
): void {
  if (still.ground) {
    g.fillStyle = still.ground
    g.beginPath()
    g.roundRect(0, 0, width, height, Math.min(width, height) * 0.08)
    g.fill()
  }
  const inset = still.ground ? Math.min(width, height) * 0.12 : 0
  const { px, lines } = fitText(g, still.text, (size) => `500 ${size}px "${TEXT}"`, height, {
    width: width - 2 * inset,
    height: height - 2 * inset,
  })
  g.font = `500 ${px}px "${TEXT}"`
  g.fillStyle = still.ink
  g.textAlign = 'center'
  g.textBaseline = 'middle'
  lines.forEach((line, i) => g.fillText(line, width / 2, height / 2 + (i - (lines.length - 1) / 2) * px * 1.25))
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
  const reach = Math.max(...drawn.map((s) => s.width)) * box.height
  const xs = drawn.flatMap((s) => s.points.map((p) => p.x * box.width))
  const ys = drawn.flatMap((s) => s.points.map((p) => p.y * box.height))
  const x = Math.max(0, 2 * Math.floor((Math.min(...xs) - reach) / 2))
  const y = Math.max(0, 2 * Math.floor((Math.min(...ys) - reach) / 2))
  const width = Math.min(box.width - x, 2 * Math.ceil((Math.max(...xs) + reach - x) / 2))
  const height = Math.min(box.height - y, 2 * Math.ceil((Math.max(...ys) + reach - y) / 2))
  if (width < 2 || height < 2) return null
  const g = canvasOf(width, height)
  g.lineCap = 'round'
  g.lineJoin = 'round'
  for (const stroke of drawn) {
    g.globalAlpha = stroke.opacity
    g.strokeStyle = stroke.colour
    g.lineWidth = Math.max(1, stroke.width * box.height)
    g.beginPath()
    const [first, ...rest] = stroke.points
    if (!first) continue
    g.moveTo(first.x * box.width - x, first.y * box.height - y)
    // A single point is a dot: a line of no length has round ends.
    for (const p of rest.length > 0 ? rest : [first]) g.lineTo(p.x * box.width - x, p.y * box.height - y)
    g.stroke()
  }
  return { overlay: fromRgba(g.getImageData(0, 0, width, height).data, width, height, how), x: box.x + x, y: box.y + y }
}

/** How often strokes have changed by `at`: equal numbers mean equal drawings. */
export const strokesState = (strokes: readonly Stroke[], at: number): number =>
  strokes.reduce(
    (n, s) => n + s.points.filter((p) => p.at <= at).length + (s.until !== undefined && at >= s.until ? 1 : 0),
    0,
  )
