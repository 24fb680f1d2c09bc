/**
 * The simulated lecture hall: two pictures (the slides on the hall's screen, a camera on the speaker) and one
 * sound, as live media streams. It stands in for a room's cameras and microphones behind `HallControl`.
 */
import { slideAt, type TimedDeck } from './deck'
import { drawSlide, drawSpeaker } from './draw'

export interface HallControl {
  screen: MediaStream
  camera: MediaStream
  sound: MediaStream
  /** Begins the talk from its first slide. */
  begin(): Promise<void>
  /** Switches everything off. */
  leave(): void
}

/** Frames a second: slides need few, a face looks choppy under 24. */
export const hallRates = { screen: 15, camera: 24 } as const

function canvas(width: number, height: number): { element: HTMLCanvasElement; g: CanvasRenderingContext2D } {
  const element = document.createElement('canvas')
  element.width = width
  element.height = height
  const g = element.getContext('2d')
  if (!g) throw new Error('This browser has no drawing canvas, which the simulated hall needs.')
  return { element, g }
}

/**
 * Opens the hall.
 * @param deck what is shown
 * @param voice the talk's sound file
 * @throws {Error} with a sentence when the voice cannot be played
 */
export async function openHall(deck: TimedDeck, voice: Blob): Promise<HallControl> {
  const context = new AudioContext({ sampleRate: 48_000 })
  const talk = await context.decodeAudioData(await voice.arrayBuffer())
  const out = context.createMediaStreamDestination()
  const meter = context.createAnalyser()
  meter.fftSize = 1024
  // A hall is never quite silent; the hiss also keeps the sound track running between sentences.
  const hiss = context.createBuffer(1, 48_000 * 2, 48_000)
  const noise = hiss.getChannelData(0)
  for (let i = 0; i < noise.length; i++) noise[i] = (Math.random() - 0.5) * 0.0016
  const room = new AudioBufferSourceNode(context, { buffer: hiss, loop: true })
  room.connect(out)
  room.start()
  meter.connect(out)

  const slides = canvas(1280, 720)
  const stage = canvas(640, 480)
  let source: AudioBufferSourceNode | null = null
  let startedAt = 0
  const samples = new Float32Array(meter.fftSize)
  const draw = (what: 'screen' | 'camera') => {
    const time = source ? (context.currentTime - startedAt) % deck.duration : 0
    if (what === 'screen') {
      const index = slideAt(deck, time)
      const slide = deck.slides[index]
      if (slide) drawSlide(slides.g, deck, slide, index, 1280, 720)
    } else {
      meter.getFloatTimeDomainData(samples)
      const loudness = source ? Math.min(1, 3 * Math.max(...samples)) : 0
      drawSpeaker(stage.g, deck, time, loudness, 640, 480)
    }
  }
  draw('screen')
  draw('camera')
  const timers = [setInterval(() => draw('screen'), 1000 / hallRates.screen), setInterval(() => draw('camera'), 1000 / hallRates.camera)]
  const streams = {
    screen: slides.element.captureStream(hallRates.screen),
    camera: stage.element.captureStream(hallRates.camera),
    sound: out.stream,
  }
  return {
    ...streams,
    async begin() {
      await context.resume()
      source?.stop()
      source = new AudioBufferSourceNode(context, { buffer: talk, loop: true })
      source.connect(meter)
      startedAt = context.currentTime
      source.start()
    },
    leave() {
      timers.forEach(clearInterval)
      for (const stream of Object.values(streams)) stream.getTracks().forEach((t) => t.stop())
      void context.close()
    },
  }
}
