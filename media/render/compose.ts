/** Composes frames of several layers in I420 planes and hands them out as samples for an encoder. */
import { max } from 'd3-array'
import { VideoSample } from 'mediabunny'
import {
  blend,
  blit,
  blur,
  crop,
  cropOverlay,
  dim,
  fill,
  fromRgba,
  newPlanes,
  planesLength,
  toYuv,
  type ColourMatrix,
  type Overlay,
  type Planes,
} from '#core/picture/planes'
import { common, type Box, type Size } from '#core/picture/layout'
import type { PlacedBurnt } from '#core/render/burnt'
import type { Layer, Span } from '#core/render/script'
import type { OpenPicture } from './feed'
import { drawStill, drawStrokes, strokesState } from './stills'

export interface ComposeSources {
  frame: Size
  /** How the colours of what is composed are said; as those of its first picture when null. */
  colour: VideoColorSpaceInit | null
  feed(index: number): OpenPicture
  asset(name: string): OpenPicture
  blob(name: string): Blob
}

/** A moving layer: where its frames come from and the planes of the frame it shows now. */
interface Moving {
  next: AsyncGenerator<VideoSample | null>
  planes: Planes | null
  shownAt: number
}

/** Frames a second of spans in which nothing moves. */
const STILL_RATE = 10
/** And of those in which there is nothing. */
const BLANK_RATE = 1
/** White edge round an inset, px. */
const EDGE = 2

/** Frames a second at which pictures are composed: as the quickest of them, 30 at most; null when nothing moves. */
export const movingRate = (pictures: readonly Pick<OpenPicture, 'rate'>[]): number | null =>
  pictures.length > 0 ? Math.min(30, max(pictures, (p) => p.rate) ?? -Infinity) : null

interface PlacedOverlay {
  overlay: Overlay
  x: number
  y: number
}

/** What of an overlay lies inside `clip`; all of it when null. */
function clipped(placed: PlacedOverlay | null, clip: Box | null): PlacedOverlay | null {
  if (!placed || !clip) return placed
  const { overlay, x, y } = placed
  const left = common({ x, y, width: overlay.width, height: overlay.height }, clip)
  return left && { overlay: cropOverlay(overlay, { ...left, x: left.x - x, y: left.y - y }), x: left.x, y: left.y }
}

/** Draws a picture into its box, or what its clip leaves of that. */
function draw(out: Planes, picture: Planes, { box, clip }: { box: Box; clip: Box | null }): void {
  if (!clip) {
    blit(out, picture, box)
    return
  }
  const left = common(box, clip)
  if (!left) return
  const scaled = newPlanes(box.width, box.height)
  blit(scaled, picture, { ...box, x: 0, y: 0 })
  blit(out, crop(scaled, { ...left, x: left.x - box.x, y: left.y - box.y }), left)
}

export interface Composer {
  /** The span's frames in order. The caller closes each. */
  frames(span: Span): AsyncGenerator<VideoSample>
}

export function openComposer(sources: ComposeSources): Composer {
  const { frame } = sources
  const buffer = new Uint8Array(planesLength(frame.width, frame.height))
  const out = newPlanes(frame.width, frame.height, buffer)
  const whole: Box = { x: 0, y: 0, ...frame }
  let { colour } = sources
  const matrix = (): ColourMatrix => ({
    matrix: colour?.matrix === 'smpte170m' || colour?.matrix === 'bt470bg' ? 'bt601' : 'bt709',
    full: colour?.fullRange ?? false,
  })
  const pictureOf = (layer: Layer): OpenPicture | null =>
    layer.kind === 'feed' ? sources.feed(layer.feed) : layer.kind === 'video' ? sources.asset(layer.file) : null

  return {
    async *frames(span) {
      const moving = new Map<Layer, Moving>()
      const overlays = new Map<Layer, PlacedOverlay | null>()
      const burnt = new Map<PlacedBurnt, Overlay>()
      const strokes = new Map<Layer, { state: number; drawn: PlacedOverlay | null }>()
      const pictures = span.layers.map(pictureOf).filter((p) => p !== null)
      const changes =
        pictures.length > 0 ||
        span.light[0] !== span.light[1] ||
        span.layers.some((l) => l.kind === 'strokes' || l.kind === 'burnt')
      const rate = movingRate(pictures) ?? (changes ? 30 : span.layers.length > 0 ? STILL_RATE : BLANK_RATE)
      const count = Math.max(1, Math.round(span.length * rate))
      for (const layer of span.layers) {
        const picture = pictureOf(layer)
        if (picture && (layer.kind === 'feed' || layer.kind === 'video'))
          moving.set(layer, { next: framesOf(picture, layer.from, rate, count), planes: null, shownAt: NaN })
      }
      try {
        for (let i = 0; i < count; i++) {
          for (const [layer, source] of moving) {
            const { value: sample } = await source.next.next()
            // What cannot be decoded is no picture that may be left out.
            if (!sample && !source.planes)
              throw new Error(`No picture could be decoded for ${span.at.toFixed(2)} s of the result.`)
            if (!sample) continue
            colour ??= sample.colorSpace.toJSON()
            const base = layer === span.layers[0] && isWhole(sample, layer, frame)
            if (base || sample.timestamp !== source.shownAt) {
              source.planes = await toPlanes(sample, base ? out : source.planes, matrix())
              source.shownAt = sample.timestamp
            }
            sample.close()
          }
          const how = matrix()
          if (moving.get(span.layers[0] as Layer)?.planes !== out) fill(out, whole, toYuv('#000000', how))
          for (const layer of span.layers) {
            const source = moving.get(layer)
            if (source?.planes === out) continue
            if (source?.planes && (layer.kind === 'feed' || layer.kind === 'video')) {
              const { x, y, width, height } = layer.clip ?? layer.box
              if (layer.kind === 'feed' && layer.edged)
                fill(
                  out,
                  { x: x - EDGE, y: y - EDGE, width: width + 2 * EDGE, height: height + 2 * EDGE },
                  toYuv('#ffffff', how),
                )
              draw(out, source.planes, layer)
            } else if (layer.kind === 'mask') {
              if (layer.how === 'solid') fill(out, layer.box, toYuv('#000000', how))
              else blur(out, layer.box)
            } else if (layer.kind === 'still') {
              const known = overlays.get(layer)
              const placed =
                known !== undefined
                  ? known
                  : clipped(
                      { overlay: await drawStill(layer.still, layer.box, how, sources.blob, frame), ...layer.box },
                      layer.clip,
                    )
              overlays.set(layer, placed)
              if (placed)
                blend(out, placed.overlay, placed.x, placed.y, layer.still.kind === 'picture' ? layer.still.opacity : 1)
            } else if (layer.kind === 'strokes') {
              const at = layer.from + i / rate
              const state = strokesState(layer.strokes, at)
              let known = strokes.get(layer)
              if (known?.state !== state)
                strokes.set(
                  layer,
                  (known = { state, drawn: clipped(drawStrokes(layer.strokes, at, layer.box, how), layer.clip) }),
                )
              if (known.drawn) blend(out, known.drawn.overlay, known.drawn.x, known.drawn.y)
            } else if (layer.kind === 'burnt') {
              const at = layer.from + (i + 0.5) / rate
              for (const item of burnt.keys()) if (item.to <= at) burnt.delete(item)
              for (const item of layer.items.filter(({ from, to }) => at >= from && at < to)) {
                const { x, y } = item.box
                const overlay = burnt.get(item) ?? (await drawStill(item.still, item.box, how, sources.blob, frame))
                burnt.set(item, overlay)
                blend(out, overlay, x, y)
              }
            }
          }
          const light = span.light[0] + (span.light[1] - span.light[0]) * ((i + 0.5) / count)
          if (light < 1) dim(out, light, how)
          const video = new VideoFrame(buffer, {
            format: 'I420',
            codedWidth: frame.width,
            codedHeight: frame.height,
            timestamp: 0,
            ...(colour && { colorSpace: colour }),
          })
          yield new VideoSample(video, {
            timestamp: span.at + i / rate,
            duration: Math.min(1 / rate, span.length - i / rate),
          })
        }
      } finally {
        for (const { next } of moving.values()) await next.return(undefined)
      }
    },
  }
}

/**
 * The frames seen at the middle of each output frame; before the file's first one, that; after its last one, the last.
 */
function framesOf(picture: OpenPicture, from: number, rate: number, count: number): AsyncGenerator<VideoSample | null> {
  function* times(): Generator<number> {
    for (let i = 0; i < count; i++) yield Math.max(picture.first, from + (i + 0.5) / rate)
  }
  return picture.frames.samplesAtTimestamps(times())
}

const isPlain = (sample: VideoSample) =>
  sample.rotation === 0 &&
  !sample.flip &&
  sample.squarePixelWidth === sample.visibleRect.width &&
  sample.squarePixelHeight === sample.visibleRect.height

const isWhole = (sample: VideoSample, layer: Layer, frame: Size) =>
  layer.kind === 'feed' &&
  !layer.clip &&
  sample.format === 'I420' &&
  isPlain(sample) &&
  sample.displayWidth === frame.width &&
  sample.displayHeight === frame.height &&
  layer.box.width === frame.width &&
  layer.box.height === frame.height

/** A sample as planes, upright and with square pixels; into `reuse` when it has the right size. */
async function toPlanes(sample: VideoSample, reuse: Planes | null, how: ColourMatrix): Promise<Planes> {
  const [width, height] = [sample.displayWidth, sample.displayHeight]
  const into = reuse?.width === width && reuse.height === height ? reuse : newPlanes(width, height)
  if (isPlain(sample) && sample.format === 'I420') {
    await sample.copyTo(new Uint8Array(into.y.buffer, into.y.byteOffset, planesLength(width, height)))
    return into
  }
  if (isPlain(sample) && sample.format === 'NV12') {
    const bytes = new Uint8Array(sample.allocationSize())
    await sample.copyTo(bytes)
    into.y.set(bytes.subarray(0, width * height))
    for (let i = 0, at = width * height; i < into.u.length; i++, at += 2) {
      into.u[i] = bytes[at] as number
      into.v[i] = bytes[at + 1] as number
    }
    return into
  }
  const g = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })
  if (!g) throw new Error('This browser cannot draw in a worker, which rendering needs.')
  sample.draw(g, 0, 0, width, height)
  return fromRgba(g.getImageData(0, 0, width, height).data, width, height, how)
}
