/** The inputs of a recording: switched on and off, each as a live stream to look at and to record. */
import { onScopeDispose, reactive, ref, shallowRef } from 'vue'
import { openHall, hallRates, type HallControl } from '#standins/hall/hall'
import type { TimedDeck } from '#standins/hall/deck'

export type InputKind = 'hall' | 'camera' | 'screen'

export interface PictureInput {
  kind: 'screen' | 'camera'
  label: string
  stream: MediaStream
  frameRate: number
  bitrate: number
}

/** What a face and a screen want, after what practitioners go by: frames/s and bits/s. */
const wants = {
  camera: { frameRate: 24, bitrate: 1_200_000 },
  screen: { frameRate: 15, bitrate: 1_500_000 },
} as const

/** Turns a device error into what happened and what to do. */
function sayDeviceError(error: unknown, what: string): string {
  const name = error instanceof DOMException ? error.name : ''
  if (name === 'NotAllowedError') return `You or the browser refused the ${what}. Allow it in the address bar and try again.`
  if (name === 'NotFoundError') return `No ${what} was found. Plug it in and try again.`
  if (name === 'NotReadableError') return `Another program is using the ${what}. Close it there and try again.`
  return `The ${what} could not be opened: ${error instanceof Error ? error.message : String(error)}`
}

export function useSources() {
  const pictures = shallowRef<PictureInput[]>([])
  const sound = shallowRef<{ label: string; stream: MediaStream } | null>(null)
  const on = reactive<Record<InputKind | 'microphone', boolean>>({ hall: false, camera: false, screen: false, microphone: false })
  const problem = ref('')
  let hall: HallControl | null = null

  const stopStream = (stream: MediaStream) => stream.getTracks().forEach((t) => t.stop())
  const dropPicture = (kind: 'screen' | 'camera') => {
    pictures.value.filter((p) => p.kind === kind).forEach((p) => stopStream(p.stream))
    pictures.value = pictures.value.filter((p) => p.kind !== kind)
  }
  const dropSound = () => {
    if (sound.value) stopStream(sound.value.stream)
    sound.value = null
  }

  function leaveHall(): void {
    hall?.leave()
    hall = null
    pictures.value = []
    sound.value = null
    on.hall = false
  }

  async function enterHall(): Promise<void> {
    const answers = await Promise.all([fetch('/demo/media/meltwater.deck.json'), fetch('/demo/media/meltwater-sound.mp4')])
    if (answers.some((a) => !a.ok)) throw new Error('its deck and its voice could not be read')
    const [deck, voice] = answers as [Response, Response]
    hall = await openHall((await deck.json()) as TimedDeck, await voice.blob())
    pictures.value = [
      { kind: 'screen', label: 'Hall screen', stream: hall.screen, frameRate: hallRates.screen, bitrate: 1_000_000 },
      { kind: 'camera', label: 'Hall camera', stream: hall.camera, frameRate: hallRates.camera, bitrate: 800_000 },
    ]
    sound.value = { label: 'Hall microphone', stream: hall.sound }
  }

  async function set(input: InputKind | 'microphone', wanted: boolean): Promise<void> {
    problem.value = ''
    const names = { hall: 'simulated hall', camera: 'camera', screen: 'screen', microphone: 'microphone' }
    try {
      if (input === 'hall') {
        leaveHall()
        if (wanted) {
          for (const other of ['camera', 'screen', 'microphone'] as const) if (on[other]) await set(other, false)
          await enterHall()
        }
      } else {
        if (wanted && on.hall) leaveHall()
        if (input === 'microphone') {
          dropSound()
          if (wanted) sound.value = { label: 'Microphone', stream: await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } }) }
        } else {
          dropPicture(input)
          if (wanted) {
            const { frameRate, bitrate } = wants[input]
            const stream = input === 'camera'
              ? await navigator.mediaDevices.getUserMedia({ video: { width: { ideal: 640 }, height: { ideal: 480 }, frameRate: { ideal: frameRate } } })
              : await navigator.mediaDevices.getDisplayMedia({ video: { frameRate: { ideal: frameRate } }, audio: false })
            stream.getVideoTracks()[0]?.addEventListener('ended', () => { on[input] = false; dropPicture(input) })
            pictures.value = [...pictures.value, { kind: input, label: input === 'camera' ? 'Camera' : 'Screen', stream, frameRate, bitrate }].sort((a, b) => b.kind.localeCompare(a.kind))
          }
        }
      }
      on[input] = wanted
    } catch (error) {
      on[input] = false
      problem.value = sayDeviceError(error, names[input])
    }
  }

  function close(): void {
    leaveHall()
    dropPicture('camera')
    dropPicture('screen')
    dropSound()
  }

  onScopeDispose(close)
  return { pictures, sound, on, problem, set, beginTalk: async () => hall?.begin() }
}
