/**
 * The simulated lecture hall: its screen, a camera that pans, tilts and zooms, two microphones and a blank-picture
 * switch. It stands in for a room's cameras, panel and microphones behind `HallControl`, behind which a real controller
 * could stand.
 */
import { max } from 'd3-array'
import { slideAt, type TimedDeck } from './deck'
import { drawHall, drawSlide } from './draw'
import {
  following,
  isConfused,
  shots,
  speakerAt,
  towards,
  visitorLater,
  visitorOutside,
  within,
  type HallView,
  type Shot,
} from './view'

export type HallMicrophone = 'lectern' | 'ceiling'

export interface HallControl {
  screen: MediaStream
  camera: MediaStream
  microphones: Record<HallMicrophone, MediaStream>
  /** Begins the talk from its first slide. */
  begin(): Promise<void>
  /** The speaker falls silent. */
  hush(): void
  /** Where the camera is going. */
  target(): HallView
  /** Sends the camera somewhere; it stops following. */
  look(view: HallView): void
  shot(name: Shot): void
  /**
   * Keeps the speaker in the picture, as long as nobody else is near; then it stays where it is until they are apart.
   */
  follow(on: boolean): void
  /** Whether it follows, and whether it knows whom. */
  tracking(): 'off' | 'speaker' | 'lost'
  /** Somebody comes to the speaker with a question, or goes again. */
  visit(comes: boolean): void
  /** Whether the hall's own sound processor takes the fan's noise out. */
  setNoiseControl(on: boolean): void
  /** Shows nothing in both pictures, for a private moment; the recording goes on. */
  blank(on: boolean): void
  /** Claps: a flash of both pictures and a knock in both microphones at one moment, to see that they go together. */
  clap(): void
  deck: TimedDeck
  /** Index of the slide that is shown. */
  slide(): number
  /** Shows a slide; from then on they are turned by hand, until the talk begins again. */
  showSlide(index: number): void
  /** Who is told when another slide is shown. */
  onSlide(listener: ((index: number) => void) | null): void
  /** Switches everything off. */
  leave(): void
}

/** Frames a second: slides need few, a face looks choppy under 24. */
export const hallRates = { screen: 15, camera: 24 } as const

/** Draws what a camera sees, and streams it. */
interface Eye {
  element: HTMLCanvasElement
  g: CanvasRenderingContext2D
  stream: MediaStream
  /** Gives what has been drawn to whoever looks at the stream. */
  show(): Promise<void>
  /** When the stream says how large it is. */
  ready(): Promise<void>
}

function openEye(width: number, height: number, rate: number): Eye {
  const element = document.createElement('canvas')
  element.width = width
  element.height = height
  const g = element.getContext('2d')
  if (!g) throw new Error('This browser has no drawing canvas, which the simulated hall needs.')
  const atOnce = async () => undefined
  if (typeof MediaStreamTrackGenerator === 'undefined')
    return { element, g, stream: element.captureStream(rate), show: atOnce, ready: atOnce }
  // A canvas's own stream waits until the page is painted, which on a busy machine makes pictures later than their
  // sound by 40 ms and more.
  const track = new MediaStreamTrackGenerator({ kind: 'video' })
  const frames = track.writable.getWriter()
  const show = async () => {
    if (track.readyState === 'live')
      await frames.write(new VideoFrame(element, { timestamp: 1000 * performance.now() }))
  }
  return {
    element,
    g,
    stream: new MediaStream([track]),
    show,
    async ready() {
      while (!track.getSettings().width) {
        await show()
        await new Promise((resolve) => setTimeout(resolve, 5))
      }
    },
  }
}

/** Length of a clap's flash and of its knock, s. */
const CLAP = { flash: 0.12, knock: 0.05 } as const

/** How loud each microphone hears the speaker, and the hall's fan, as amplitudes. */
const hears = { lectern: { voice: 1, fan: 0.0008 }, ceiling: { voice: 0.22, fan: 0.006 } } as const

/**
 * Opens the hall.
 * @param deck what is shown
 * @param voice the talk's sound file
 * @throws {Error} with a sentence when the voice cannot be played
 */
export async function openHall(deck: TimedDeck, voice: Blob): Promise<HallControl> {
  // As many microphones do; what is recorded is 48 kHz all the same.
  const context = new AudioContext({ sampleRate: 44_100 })
  const talk = await context.decodeAudioData(await voice.arrayBuffer())
  const speaker = context.createAnalyser()
  speaker.fftSize = 1024
  // A hall is never quite silent; the fan also keeps the sound track running between sentences.
  const buffer = context.createBuffer(1, 48_000 * 2, 48_000)
  const noise = buffer.getChannelData(0)
  for (let i = 0; i < noise.length; i++) noise[i] = 2 * Math.random() - 1
  const fan = new AudioBufferSourceNode(context, { buffer, loop: true })
  fan.start()
  const microphone = (name: HallMicrophone) => {
    const fanLevel = new GainNode(context, { gain: hears[name].fan })
    const out = context.createMediaStreamDestination()
    speaker.connect(new GainNode(context, { gain: hears[name].voice })).connect(out)
    fan.connect(fanLevel).connect(out)
    return { fanLevel, stream: out.stream }
  }
  const microphones = { lectern: microphone('lectern'), ceiling: microphone('ceiling') }

  const slides = openEye(1280, 720, hallRates.screen)
  const stage = openEye(640, 480, hallRates.camera)
  let source: AudioBufferSourceNode | null = null
  let startedAt = 0
  let view: HallView = shots.lectern.view
  let target: HallView = view
  let follows = false
  let visited = false
  let visitor: number = visitorOutside
  let blanked = false
  let chosen: number | null = null
  let shown = 0
  let flashUntil = -1
  let listener: ((index: number) => void) | null = null
  let drawnAt = context.currentTime
  const samples = new Float32Array(speaker.fftSize)
  const now = () => (source ? (context.currentTime - startedAt) % deck.duration : 0)
  const slide = () => chosen ?? slideAt(deck, now())
  const black = ({ g, element }: Eye) => {
    g.fillStyle = '#22323A'
    g.fillRect(0, 0, element.width, element.height)
  }

  /** Draws over everything for as long as a clap is seen. */
  const flash = ({ g, element }: Eye) => {
    if (blanked || context.currentTime > flashUntil) return
    g.fillStyle = '#FFFFFF'
    g.fillRect(0, 0, element.width, element.height)
  }

  const drawScreen = () => {
    const index = slide()
    const what = deck.slides[index]
    if (blanked) black(slides)
    else if (what) drawSlide(slides.g, deck, what, index, 1280, 720)
    flash(slides)
    void slides.show()
    if (index === shown) return
    shown = index
    listener?.(index)
  }
  const tracking = () => (!follows ? 'off' : isConfused(visitor, speakerAt(context.currentTime)) ? 'lost' : 'speaker')
  const drawCamera = () => {
    const time = context.currentTime
    visitor = visitorLater(visitor, visited, speakerAt(time), time - drawnAt)
    if (tracking() === 'speaker') target = following(time, target.zoom)
    view = towards(view, target, time - drawnAt)
    drawnAt = time
    speaker.getFloatTimeDomainData(samples)
    if (blanked) black(stage)
    else
      drawHall(
        stage.g,
        deck,
        slide(),
        time,
        source ? Math.min(1, 3 * (max(samples) ?? -Infinity)) : 0,
        visitor,
        view,
        640,
        480,
      )
    flash(stage)
    void stage.show()
  }
  const look = (to: HallView) => {
    follows = false
    target = within(to)
  }
  let timers: ReturnType<typeof setInterval>[] = []
  const control: HallControl = {
    screen: slides.stream,
    camera: stage.stream,
    microphones: { lectern: microphones.lectern.stream, ceiling: microphones.ceiling.stream },
    async begin() {
      await context.resume()
      source?.stop()
      source = new AudioBufferSourceNode(context, { buffer: talk, loop: true })
      source.connect(speaker)
      startedAt = context.currentTime
      chosen = null
      source.start()
    },
    hush() {
      source?.stop()
      source = null
    },
    target: () => target,
    look,
    shot: (name) => look(shots[name].view),
    follow(on) {
      follows = on
    },
    tracking,
    visit(comes) {
      visited = comes
    },
    setNoiseControl(on) {
      for (const name of ['lectern', 'ceiling'] as const)
        microphones[name].fanLevel.gain.value = hears[name].fan * (on ? 0.1 : 1)
    },
    blank(on) {
      blanked = on
    },
    clap() {
      const knock = new OscillatorNode(context, { frequency: 1000 })
      knock.connect(speaker)
      // A block of sound is made before it would be heard.
      const at = context.currentTime + context.baseLatency
      knock.start(at)
      knock.stop(at + CLAP.knock)
      flashUntil = context.currentTime + CLAP.flash
    },
    deck,
    slide,
    showSlide(index) {
      chosen = Math.min(deck.slides.length - 1, Math.max(0, index))
    },
    onSlide(who) {
      listener = who
    },
    leave() {
      timers.forEach(clearInterval)
      for (const stream of [control.screen, control.camera, control.microphones.lectern, control.microphones.ceiling])
        stream.getTracks().forEach((t) => t.stop())
      void context.close()
    },
  }
  drawScreen()
  drawCamera()
  await Promise.all([slides.ready(), stage.ready()])
  timers = [setInterval(drawScreen, 1000 / hallRates.screen), setInterval(drawCamera, 1000 / hallRates.camera)]
  return control
}
