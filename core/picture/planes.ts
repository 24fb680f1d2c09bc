/**
 * Pictures as the encoders take them – a luma plane and two chroma planes of half its size (I420) – and the few
 * operations that composing needs. Staying in these planes is several times faster than drawing in RGB and back.
 */
import type { Box, Size } from './layout'

/** 8-bit 4:2:0. `u` and `v` are ⌈width/2⌉ × ⌈height/2⌉; rows are packed without gaps. */
export interface Planes {
  width: number
  height: number
  y: Uint8Array
  u: Uint8Array
  v: Uint8Array
}

/** Planes with a coverage of their own, 0 clear to 255 covering, at luma and at chroma size. */
export interface Overlay extends Planes {
  a: Uint8Array
  ca: Uint8Array
}

/** How RGB becomes luma and chroma: the matrix of ITU-R BT.601-7 or BT.709-6, in limited or full range. */
export interface ColourMatrix {
  matrix: 'bt601' | 'bt709'
  full: boolean
}

const half = (n: number) => (n + 1) >> 1

/** A black picture over one buffer, `y`, `u` and `v` one after the other, as an I420 frame is laid out. */
export function newPlanes(
  width: number,
  height: number,
  buffer: Uint8Array = new Uint8Array(planesLength(width, height)),
): Planes {
  const luma = width * height
  const chroma = half(width) * half(height)
  return {
    width,
    height,
    y: buffer.subarray(0, luma),
    u: buffer.subarray(luma, luma + chroma),
    v: buffer.subarray(luma + chroma, luma + 2 * chroma),
  }
}

/** Bytes of an I420 picture. */
export const planesLength = (width: number, height: number): number => width * height + 2 * half(width) * half(height)

/** Y, Cb, Cr of an sRGB colour `#rrggbb`. */
export function toYuv(colour: string, how: ColourMatrix): [number, number, number] {
  const at = (i: number) => Number.parseInt(colour.slice(i, i + 2), 16)
  return yuv(at(1), at(3), at(5), how)
}

function yuv(r: number, g: number, b: number, { matrix, full }: ColourMatrix): [number, number, number] {
  const kr = matrix === 'bt709' ? 0.2126 : 0.299
  const kb = matrix === 'bt709' ? 0.0722 : 0.114
  const y = kr * r + (1 - kr - kb) * g + kb * b
  const cb = (b - y) / (2 * (1 - kb))
  const cr = (r - y) / (2 * (1 - kr))
  // In full range a saturated blue or red is 255.5, which eight bits do not hold.
  return full
    ? [y, Math.min(255, 128 + cb), Math.min(255, 128 + cr)]
    : [16 + (219 / 255) * y, 128 + (224 / 255) * cb, 128 + (224 / 255) * cr]
}

/** Turns RGBA (straight alpha, as a canvas gives it) into an overlay. */
export function fromRgba(rgba: Uint8ClampedArray, width: number, height: number, how: ColourMatrix): Overlay {
  const planes = newPlanes(width, height)
  const a = new Uint8Array(width * height)
  const cw = half(width)
  const ca = new Uint8Array(cw * half(height))
  const sums = new Float32Array(3 * ca.length)
  const counts = new Uint8Array(ca.length)
  for (let row = 0, i = 0; row < height; row++)
    for (let col = 0; col < width; col++, i++) {
      const [y, u, v] = yuv(rgba[4 * i] ?? 0, rgba[4 * i + 1] ?? 0, rgba[4 * i + 2] ?? 0, how)
      const alpha = rgba[4 * i + 3] ?? 0
      planes.y[i] = Math.round(y)
      a[i] = alpha
      // Chroma is the mean over 2×2 px, weighted by coverage so that the clear ones do not stain the edge.
      const c = (row >> 1) * cw + (col >> 1)
      sums[3 * c] = (sums[3 * c] ?? 0) + u * alpha
      sums[3 * c + 1] = (sums[3 * c + 1] ?? 0) + v * alpha
      sums[3 * c + 2] = (sums[3 * c + 2] ?? 0) + alpha
      counts[c] = (counts[c] ?? 0) + 1
    }
  for (let c = 0; c < ca.length; c++) {
    const weight = sums[3 * c + 2] ?? 0
    planes.u[c] = weight > 0 ? Math.round((sums[3 * c] ?? 0) / weight) : 128
    planes.v[c] = weight > 0 ? Math.round((sums[3 * c + 1] ?? 0) / weight) : 128
    ca[c] = Math.round(weight / (counts[c] || 1))
  }
  return { ...planes, a, ca }
}

/** Fills the part of `box` that is inside the picture with one colour (Y, Cb, Cr). */
export function fill(to: Planes, box: Box, [y, u, v]: readonly [number, number, number]): void {
  fillPlane(to.y, to.width, to.height, box, 1, Math.round(y))
  fillPlane(to.u, half(to.width), half(to.height), box, 2, Math.round(u))
  fillPlane(to.v, half(to.width), half(to.height), box, 2, Math.round(v))
}

function fillPlane(plane: Uint8Array, width: number, height: number, box: Box, step: number, value: number): void {
  const x0 = Math.max(0, Math.floor(box.x / step))
  const x1 = Math.min(width, Math.ceil((box.x + box.width) / step))
  for (
    let row = Math.max(0, Math.floor(box.y / step));
    row < Math.min(height, Math.ceil((box.y + box.height) / step));
    row++
  )
    plane.fill(value, row * width + x0, row * width + x1)
}

/**
 * Draws `from`, scaled to `box`, which stands on even px inside `to`. Bilinear; halvings first, so that small insets do
 * not shimmer.
 */
export function blit(to: Planes, from: Planes, box: Box): void {
  let source = from
  while (source.width >= 2 * box.width && source.height >= 2 * box.height && source.width > 3 && source.height > 3)
    source = halved(source)
  blitPlane(to.y, to.width, source.y, source.width, source.height, box.x, box.y, box.width, box.height)
  const [w, h] = [half(source.width), half(source.height)]
  for (const plane of ['u', 'v'] as const)
    blitPlane(to[plane], half(to.width), source[plane], w, h, box.x >> 1, box.y >> 1, half(box.width), half(box.height))
}

function halved(from: Planes): Planes {
  const to = newPlanes(from.width >> 1, from.height >> 1)
  halvePlane(to.y, to.width, to.height, from.y, from.width)
  halvePlane(to.u, half(to.width), half(to.height), from.u, half(from.width))
  halvePlane(to.v, half(to.width), half(to.height), from.v, half(from.width))
  return to
}

function halvePlane(to: Uint8Array, width: number, height: number, from: Uint8Array, stride: number): void {
  const rows = Math.floor(from.length / stride)
  for (let row = 0, i = 0; row < height; row++) {
    const a = Math.min(2 * row, rows - 1) * stride
    const b = Math.min(2 * row + 1, rows - 1) * stride
    for (let col = 0; col < width; col++, i++) {
      const c = Math.min(2 * col, stride - 1)
      const d = Math.min(2 * col + 1, stride - 1)
      to[i] =
        ((from[a + c] as number) + (from[a + d] as number) + (from[b + c] as number) + (from[b + d] as number) + 2) >> 2
    }
  }
}

function blitPlane(
  to: Uint8Array,
  stride: number,
  from: Uint8Array,
  w: number,
  h: number,
  x: number,
  y: number,
  width: number,
  height: number,
): void {
  if (w === width && h === height) {
    for (let row = 0; row < height; row++) to.set(from.subarray(row * w, row * w + w), (y + row) * stride + x)
    return
  }
  // Positions in 1/256 px, sample centres aligned.
  const stepX = (w / width) * 256
  const stepY = (h / height) * 256
  const columns = new Int32Array(width)
  const shares = new Int32Array(width)
  for (let col = 0; col < width; col++) {
    const at = Math.min((w - 1) * 256, Math.max(0, Math.round((col + 0.5) * stepX - 128)))
    columns[col] = Math.min(w - 2, at >> 8)
    shares[col] = at - 256 * (columns[col] as number)
  }
  if (w < 2 || h < 2) {
    for (let row = 0; row < height; row++)
      for (let col = 0; col < width; col++)
        to[(y + row) * stride + x + col] = from[
          Math.min(h - 1, Math.floor((row * h) / height)) * w + Math.min(w - 1, Math.floor((col * w) / width))
        ] as number
    return
  }
  for (let row = 0; row < height; row++) {
    const at = Math.min((h - 1) * 256, Math.max(0, Math.round((row + 0.5) * stepY - 128)))
    const line = Math.min(h - 2, at >> 8)
    const down = at - 256 * line
    const up = 256 - down
    const a = line * w
    const b = a + w
    const out = (y + row) * stride + x
    for (let col = 0; col < width; col++) {
      const c = columns[col] as number
      const right = shares[col] as number
      const left = 256 - right
      const top = (from[a + c] as number) * left + (from[a + c + 1] as number) * right
      const bottom = (from[b + c] as number) * left + (from[b + c + 1] as number) * right
      to[out + col] = (top * up + bottom * down + 32768) >> 16
    }
  }
}

/** The part of a picture that lies in `box`, which stands on even px and inside it. */
export function crop(from: Planes, box: Box): Planes {
  const to = newPlanes(box.width, box.height)
  cropPlane(to.y, from.y, from.width, box.x, box.y, box.width)
  for (const plane of ['u', 'v'] as const)
    cropPlane(to[plane], from[plane], half(from.width), box.x >> 1, box.y >> 1, half(box.width))
  return to
}

/** The part of an overlay that lies in `box`, which stands on even px and inside it. */
export function cropOverlay(from: Overlay, box: Box): Overlay {
  const a = new Uint8Array(box.width * box.height)
  const ca = new Uint8Array(half(box.width) * half(box.height))
  cropPlane(a, from.a, from.width, box.x, box.y, box.width)
  cropPlane(ca, from.ca, half(from.width), box.x >> 1, box.y >> 1, half(box.width))
  return { ...crop(from, box), a, ca }
}

function cropPlane(to: Uint8Array, from: Uint8Array, stride: number, x: number, y: number, width: number): void {
  for (let row = 0; row * width < to.length; row++) {
    const at = (y + row) * stride + x
    to.set(from.subarray(at, at + width), row * width)
  }
}

/** Draws an overlay at (`x`, `y`), which are even; what reaches outside the picture is cut off. `opacity` 0…1. */
export function blend(to: Planes, from: Overlay, x: number, y: number, opacity = 1): void {
  const strength = Math.round(opacity * 256)
  blendPlane(to.y, to.width, to.height, from.y, from.a, from.width, from.height, x, y, strength)
  for (const plane of ['u', 'v'] as const)
    blendPlane(
      to[plane],
      half(to.width),
      half(to.height),
      from[plane],
      from.ca,
      half(from.width),
      half(from.height),
      x >> 1,
      y >> 1,
      strength,
    )
}

function blendPlane(
  to: Uint8Array,
  stride: number,
  rows: number,
  from: Uint8Array,
  alpha: Uint8Array,
  w: number,
  h: number,
  x: number,
  y: number,
  strength: number,
): void {
  const columns = Math.min(w, stride - x)
  for (let row = Math.max(0, -y); row < Math.min(h, rows - y); row++)
    for (
      let col = Math.max(0, -x), i = row * w + col, o = (y + row) * stride + x + col;
      col < columns;
      col++, i++, o++
    ) {
      const a = ((alpha[i] as number) * strength) >> 8
      if (a === 0) continue
      const under = to[o] as number
      to[o] = under + Math.round((((from[i] as number) - under) * a) / 255)
    }
}

/** Cells across the shorter side of a blurred area: few enough that neither a face nor a line of text can be told. */
const BLUR_CELLS = 6

/** Size of the cells that a blurred area consists of, px. */
export const blurCell = ({ width, height }: Size): number =>
  Math.max(8, Math.ceil(Math.min(width, height) / BLUR_CELLS))

/** Blurs the part of `box` inside the picture beyond recognition: means over coarse cells, smoothly joined. */
export function blur(to: Planes, box: Box): void {
  const x = Math.max(0, box.x)
  const y = Math.max(0, box.y)
  const inside: Box = {
    x,
    y,
    width: Math.min(to.width, box.x + box.width) - x,
    height: Math.min(to.height, box.y + box.height) - y,
  }
  if (inside.width < 2 || inside.height < 2) return
  const cell = blurCell(inside)
  blurPlane(to.y, to.width, inside.x, inside.y, inside.width, inside.height, cell)
  for (const plane of ['u', 'v'] as const)
    blurPlane(
      to[plane],
      half(to.width),
      inside.x >> 1,
      inside.y >> 1,
      half(inside.width),
      half(inside.height),
      Math.max(4, cell >> 1),
    )
}

function blurPlane(
  plane: Uint8Array,
  stride: number,
  x: number,
  y: number,
  width: number,
  height: number,
  cell: number,
): void {
  const across = Math.max(2, Math.ceil(width / cell))
  const down = Math.max(2, Math.ceil(height / cell))
  const means = new Uint8Array(across * down)
  for (let r = 0; r < down; r++)
    for (let c = 0; c < across; c++) {
      const [x0, x1] = [Math.floor((c * width) / across), Math.max(1, Math.floor(((c + 1) * width) / across))]
      const [y0, y1] = [Math.floor((r * height) / down), Math.max(1, Math.floor(((r + 1) * height) / down))]
      let sum = 0
      for (let row = y0; row < y1; row++)
        for (let col = x0; col < x1; col++) sum += plane[(y + row) * stride + x + col] as number
      means[r * across + c] = Math.round(sum / Math.max(1, (x1 - x0) * (y1 - y0)))
    }
  blitPlane(plane, stride, means, across, down, x, y, width, height)
}

/** Dims the whole picture: 1 leaves it, 0 is black. */
export function dim(planes: Planes, light: number, { full }: ColourMatrix): void {
  const black = full ? 0 : 16
  const table = new Uint8Array(256)
  const scale = (values: Uint8Array, rest: number) => {
    for (let i = 0; i < 256; i++) table[i] = Math.round(rest + (i - rest) * light)
    for (let i = 0; i < values.length; i++) values[i] = table[values[i] as number] as number
  }
  scale(planes.y, black)
  scale(planes.u, 128)
  scale(planes.v, 128)
}
