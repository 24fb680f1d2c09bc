/**
 * Replaces what is behind the speaker in a camera's film. Who is a person is told by the model of
 * `@mediapipe/selfie_segmentation`, on the processor; frames keep their times.
 *
 *     frame ──small──▶ model ──▶ mask ──smoothed over time──┐
 *       └──────────────────────── person (frame where mask) ─┴▶ over what is to be behind ──▶ H.264
 */
import {
  ALL_FORMATS,
  BlobSource,
  Conversion,
  Input,
  Mp4OutputFormat,
  Output,
  QUALITY_HIGH,
  type VideoSample,
} from 'mediabunny'
import loader from '@mediapipe/tasks-vision/vision_wasm_module_internal.js?url'
import binary from '@mediapipe/tasks-vision/vision_wasm_module_internal.wasm?url'
import weights from '@mediapipe/selfie_segmentation/selfie_segmentation.tflite?url'
import type { Background } from '#core/schema/edit'
import { openStore } from '../store'
import { withNormalization } from './model'
import { BACKGROUND_FILE } from './names'

/** The model sees pictures of this size, px. */
const SIZE = 256
/** How much of the last mask stays in the next one: edges flicker less, and lag a frame or so. */
const KEPT = 0.4
/** From here to there the mask goes from nothing to all, so that edges are soft and nothing shines through. */
const EDGE = { from: 0.35, to: 0.75 }
/** How far what is behind is blurred, as a share of the picture's height. */
const BLUR = 0.045
/** How many times smaller it is blurred: nothing that would be seen is lost, and it costs a tenth. */
const COARSER = 4
/** Seconds between key frames: cuts copy from one to the next. */
const KEY_FRAMES = 2

const address = (url: string) => new URL(url, self.location.href).href

interface Segmenter {
  /** How sure it is of a person at each of SIZE × SIZE points, 0…1. */
  mask(frame: OffscreenCanvas, time: number): Float32Array
  close(): void
}

async function openSegmenter(): Promise<Segmenter> {
  const { ImageSegmenter } = await import('@mediapipe/tasks-vision')
  const model = new Uint8Array(await (await fetch(address(weights))).arrayBuffer())
  const segmenter = await ImageSegmenter.createFromOptions(
    { wasmLoaderPath: address(loader), wasmBinaryPath: address(binary) },
    {
      baseOptions: { modelAssetBuffer: withNormalization(model), delegate: 'CPU' },
      runningMode: 'VIDEO',
      outputConfidenceMasks: true,
      outputCategoryMask: false,
    },
  )
  return {
    mask(frame, time) {
      let found = new Float32Array(SIZE * SIZE)
      segmenter.segmentForVideo(frame, time, ({ confidenceMasks }) => {
        const [first] = confidenceMasks ?? []
        if (first) found = first.getAsFloat32Array().slice()
      })
      return found
    },
    close: () => segmenter.close(),
  }
}

type Pen = OffscreenCanvasRenderingContext2D
function pen(width: number, height: number, often = false): Pen {
  const g = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: often })
  if (!g) throw new Error('This browser cannot draw in a worker, which replacing a background needs.')
  return g
}

/** Draws what is to be behind. */
function behind(how: Background['how'], picture: ImageBitmap | null): (g: Pen, frame: OffscreenCanvas) => void {
  if (how.kind === 'colour')
    return (g) => {
      g.fillStyle = how.colour
      g.fillRect(0, 0, g.canvas.width, g.canvas.height)
    }
  if (how.kind === 'blur') {
    let coarse: Pen | null = null
    return (g, frame) => {
      const [width, height] = [Math.ceil(frame.width / COARSER), Math.ceil(frame.height / COARSER)]
      coarse ??= pen(width, height)
      const by = Math.max(1, Math.round(BLUR * height))
      coarse.filter = `blur(${by}px)`
      // A little larger, as a blur lets its ground shine through at the edges.
      coarse.drawImage(frame, -by, -by, width + 2 * by, height + 2 * by)
      g.drawImage(coarse.canvas, 0, 0, frame.width, frame.height)
    }
  }
  if (!picture) throw new Error('The picture that is to be behind the speaker cannot be read.')
  return (g) => {
    const { width, height } = g.canvas
    const scale = Math.max(width / picture.width, height / picture.height)
    const [w, h] = [picture.width * scale, picture.height * scale]
    g.drawImage(picture, (width - w) / 2, (height - h) / 2, w, h)
  }
}

/**
 * Makes a film with another background into a scratch file, `BACKGROUND_FILE`.
 * @param picture what is to be behind, when that is a picture
 * @param onProgress told 0…1
 * @throws {Error} with a sentence
 */
export async function replaceBackground(
  film: Blob,
  how: Background['how'],
  picture: Blob | null,
  scratch: string,
  onProgress: (share: number) => void,
): Promise<void> {
  const segmenter = await openSegmenter()
  const store = openStore({ kind: 'scratch', name: scratch })
  const input = new Input({ source: new BlobSource(film), formats: ALL_FORMATS })
  try {
    const bitmap = picture && (await createImageBitmap(picture))
    const draw = behind(how, bitmap)
    const small = pen(SIZE, SIZE, true)
    const alpha = pen(SIZE, SIZE, true)
    const pixels = alpha.createImageData(SIZE, SIZE)
    const kept = new Float32Array(SIZE * SIZE)
    let [whole, person, out]: (Pen | null)[] = [null, null, null]
    let time = 0
    const process = (sample: VideoSample): OffscreenCanvas => {
      const [width, height] = [sample.displayWidth, sample.displayHeight]
      whole ??= pen(width, height)
      person ??= pen(width, height)
      out ??= pen(width, height)
      sample.draw(whole, 0, 0, width, height)
      small.drawImage(whole.canvas, 0, 0, SIZE, SIZE)
      // Its clock only has to go on.
      const mask = segmenter.mask(small.canvas, (time += 33))
      for (let i = 0; i < kept.length; i++) {
        const share = KEPT * (kept[i] as number) + (1 - KEPT) * (mask[i] as number)
        kept[i] = time === 33 ? (mask[i] as number) : share
        pixels.data[4 * i + 3] =
          255 * Math.min(1, Math.max(0, ((kept[i] as number) - EDGE.from) / (EDGE.to - EDGE.from)))
      }
      alpha.putImageData(pixels, 0, 0)
      person.globalCompositeOperation = 'copy'
      person.drawImage(alpha.canvas, 0, 0, width, height)
      person.globalCompositeOperation = 'source-in'
      person.drawImage(whole.canvas, 0, 0)
      draw(out, whole.canvas)
      out.drawImage(person.canvas, 0, 0)
      return out.canvas
    }
    const output = new Output({
      format: new Mp4OutputFormat({ fastStart: false }),
      target: await store.open(BACKGROUND_FILE),
    })
    const conversion = await Conversion.init({
      input,
      output,
      audio: { discard: true },
      video: { codec: 'avc', bitrate: QUALITY_HIGH, keyFrameInterval: KEY_FRAMES, forceTranscode: true, process },
      showWarnings: false,
    })
    if (!conversion.isValid) throw new Error('There is no picture in this film whose background could be replaced.')
    conversion.onProgress = onProgress
    await conversion.execute()
    await store.finish()
  } catch (error) {
    await store.discard()
    throw error
  } finally {
    segmenter.close()
    input.dispose()
  }
}
