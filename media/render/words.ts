/** Draws words – title cards and lines over a picture – the same for what is rendered and for what the desk shows. */
import atkinson from '@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2?url'
import fraunces from '@fontsource-variable/fraunces/files/fraunces-latin-wght-normal.woff2?url'
import type { Size } from '#core/picture/layout'
import type { BurntStill } from '#core/render/burnt'
import type { Still } from '#core/render/script'

const TEXT = 'Atkinson Hyperlegible Next'
const TITLE = 'Fraunces'

type Pen = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D
/** A still that is made of words. */
export type Words = Exclude<Still, { kind: 'picture' }>

let fonts: Promise<void> | null = null

/** Loads the two typefaces into a page or a worker, once. @param into its fonts */
export function loadFonts(into: FontFaceSet): Promise<void> {
  fonts ??= (async () => {
    for (const [family, url] of [
      [TEXT, atkinson],
      [TITLE, fraunces],
    ] as const) {
      const face = new FontFace(family, `url(${new URL(url, self.location.href).href})`, { weight: '200 900' })
      into.add(await face.load())
    }
  })()
  return fonts
}

/** Draws into a canvas of `size` px. The fonts have to be loaded before. */
export function paintWords(g: Pen, still: Words, size: Size): void {
  if (still.kind === 'card') drawCard(g, still, size)
  // The size of letters is a share of the picture's height, of which the box is a share too.
  else drawText(g, still, size, still.size === undefined ? null : (still.size / still.box.height) * size.height)
}

/**
 * Draws what is burnt in, into a canvas of `size` px. The fonts have to be loaded before.
 * @param frame that it stands in, px
 */
export function paintBurnt(g: Pen, still: BurntStill, size: Size, frame: Size): void {
  if (still.kind === 'caption') drawCaption(g, still, size, frame)
  else drawPlate(g, still, size, frame)
}

/** Breaks text into lines no wider than `width` px; a word longer than a line stays whole. */
function wrap(g: Pen, text: string, width: number): string[] {
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
  g: Pen,
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

function drawCard(g: Pen, card: Extract<Still, { kind: 'card' }>, { width, height }: Size): void {
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

/** Height of a line by the size of its letters. */
const LEADING = 1.25

function drawText(g: Pen, still: Extract<Still, { kind: 'text' }>, { width, height }: Size, line: number | null): void {
  const inset = still.ground ? Math.min(width, height) * 0.12 : 0
  const column = { width: width - 2 * inset, height: height - 2 * inset }
  const font = (px: number) => (still.font === 'title' ? `600 ${px}px "${TITLE}"` : `500 ${px}px "${TEXT}"`)
  const { px, lines } = fitText(g, still.text, font, line === null ? height : line / LEADING, column)
  if (still.ground) {
    g.fillStyle = still.ground
    g.beginPath()
    g.roundRect(0, 0, width, height, Math.min(width, height) * 0.08)
    g.fill()
  }
  g.font = font(px)
  g.fillStyle = still.ink
  const align = still.align ?? 'center'
  g.textAlign = align
  g.textBaseline = 'middle'
  const x = { left: inset, center: width / 2, right: width - inset }[align]
  lines.forEach((words, i) => g.fillText(words, x, height / 2 + (i - (lines.length - 1) / 2) * px * LEADING))
}

function drawPlate(
  g: Pen,
  { words, ink, ground, corner }: Extract<BurntStill, { kind: 'plate' }>,
  { width, height }: Size,
  frame: Size,
): void {
  g.fillStyle = ground
  g.beginPath()
  g.roundRect(0, 0, width, height, Math.min(corner * frame.height, Math.min(width, height) / 2))
  g.fill()
  const inset = Math.min(width, height) * 0.12
  const column = { width: width - 2 * inset, height: height - 2 * inset }
  const font = (px: number) => `500 ${px}px "${TEXT}"`
  const { px, lines } = fitText(g, words, font, 0.045 * frame.height, column)
  g.font = font(px)
  g.fillStyle = ink
  g.textAlign = 'center'
  g.textBaseline = 'middle'
  lines.forEach((line, i) => g.fillText(line, width / 2, height / 2 + (i - (lines.length - 1) / 2) * px * LEADING))
}

/** A caption's letters, as a share of the frame's height, and the room beside them on their plate, in letters. */
const [CAPTION, BESIDE] = [0.046, 0.45]
const PLATE = 'rgb(0 0 0 / 75%)'

/** Each line on a plate as wide as it is; letters get smaller where they would not fit. */
function drawCaption(
  g: Pen,
  { lines, line, align }: Extract<BurntStill, { kind: 'caption' }>,
  { width, height }: Size,
  frame: Size,
): void {
  type Set = (typeof lines)[number][number]
  const font = (set: Set, px: number) =>
    `${set.italic ? 'italic ' : ''}${set.bold ? 700 : 500} ${px}px "${TEXT}", sans-serif`
  const measured = (set: Set, px: number) => {
    g.font = font(set, px)
    return g.measureText(set.text).width
  }
  const widthOf = (sets: (typeof lines)[number], px: number) => sets.reduce((sum, set) => sum + measured(set, px), 0)
  let px = CAPTION * frame.height
  const fits = () =>
    lines.length * px * LEADING <= height && lines.every((sets) => widthOf(sets, px) + 2 * BESIDE * px <= width)
  while (px > 8 && !fits()) px *= 0.94
  const tall = px * LEADING
  const first = line === 'top' ? 0 : height - lines.length * tall
  g.textAlign = 'left'
  g.textBaseline = 'middle'
  lines.forEach((sets, i) => {
    const wide = widthOf(sets, px) + 2 * BESIDE * px
    const left = { left: 0, center: (width - wide) / 2, right: width - wide }[align]
    const middle = first + (i + 0.5) * tall
    g.fillStyle = PLATE
    g.fillRect(left, middle - tall / 2, wide, tall)
    g.fillStyle = '#ffffff'
    let x = left + BESIDE * px
    for (const set of sets) {
      const long = measured(set, px)
      g.fillText(set.text, x, middle)
      if (set.underlined) g.fillRect(x, middle + 0.42 * px, long, Math.max(1, 0.06 * px))
      x += long
    }
  })
}
