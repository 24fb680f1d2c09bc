/**
 * Runs in headless Chromium: draws a deck's slides and its speaker frame by frame and encodes them with the
 * voice, as three small MP4 files, the way a take's feeds are.
 */
import { AudioBufferSource, BufferTarget, CanvasSource, Mp4OutputFormat, Output, Quality } from 'mediabunny'
import { slideAt, type TimedDeck } from '../standins/hall/deck'
import { drawSlide, drawSpeaker, type Canvas2D } from '../standins/hall/draw'

export const studioRates = { screen: 10, camera: 15 } as const

async function encodePicture(
  width: number,
  height: number,
  frameRate: number,
  duration: number,
  bitrate: number,
  draw: (g: Canvas2D, time: number) => void,
): Promise<Uint8Array> {
  const canvas = new OffscreenCanvas(width, height)
  const g = canvas.getContext('2d')
  if (!g) throw new Error('no canvas')
  const target = new BufferTarget()
  const output = new Output({ format: new Mp4OutputFormat({ fastStart: 'in-memory' }), target })
  const source = new CanvasSource(canvas, { codec: 'avc', quality: new Quality({ bitrate }), keyFrameInterval: 5 })
  output.addVideoTrack(source, { frameRate })
  await output.start()
  for (let i = 0; i < Math.round(duration * frameRate); i++) {
    draw(g, i / frameRate)
    await source.add(i / frameRate, 1 / frameRate)
  }
  await output.finalize()
  return new Uint8Array(target.buffer ?? new ArrayBuffer(0))
}

async function encodeSound(voice: AudioBuffer): Promise<Uint8Array> {
  const target = new BufferTarget()
  const output = new Output({ format: new Mp4OutputFormat({ fastStart: 'in-memory' }), target })
  const source = new AudioBufferSource({ codec: 'opus', quality: new Quality({ bitrate: 40_000 }) })
  output.addAudioTrack(source)
  await output.start()
  await source.add(voice)
  await output.finalize()
  return new Uint8Array(target.buffer ?? new ArrayBuffer(0))
}

const base64 = (bytes: Uint8Array): string => {
  let text = ''
  for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000))
  return btoa(text)
}

/** @returns the three files, base64 */
async function makeLecture(deck: TimedDeck, wavBase64: string): Promise<Record<'screen' | 'camera' | 'sound', string>> {
  const wav = Uint8Array.from(atob(wavBase64), (c) => c.charCodeAt(0))
  const voice = await new OfflineAudioContext(1, 48_000, 48_000).decodeAudioData(wav.buffer)
  const samples = voice.getChannelData(0)
  const loudness = (time: number) => {
    const at = Math.floor(time * 48_000)
    return Math.min(1, 3 * samples.subarray(at, at + 1600).reduce((m, s) => Math.max(m, s), 0))
  }
  const screen = await encodePicture(1280, 720, studioRates.screen, deck.duration, 260_000, (g, t) => {
    const index = slideAt(deck, t)
    const slide = deck.slides[index]
    if (slide) drawSlide(g, deck, slide, index, 1280, 720)
  })
  const camera = await encodePicture(480, 360, studioRates.camera, deck.duration, 110_000, (g, t) =>
    drawSpeaker(g, deck, t, loudness(t), 480, 360),
  )
  return { screen: base64(screen), camera: base64(camera), sound: base64(await encodeSound(voice)) }
}

Object.assign(globalThis, { makeLecture })
