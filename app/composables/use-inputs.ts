import { computed, onScopeDispose, shallowReactive, shallowRef } from 'vue'
import { isHall, isSound, kindOf, matchDevices, newInput, type KnownDevice } from '#core/record/inputs'
import { wrongMicrophone } from '#core/record/watch'
import type { InputPlan, InputSource, Setup } from '#core/schema/setup'
import { openHall, type HallControl } from '#standins/hall/hall'
import type { TimedDeck } from '#standins/hall/deck'
import { InputUnavailable, listDevices, openInput, sayEnded } from '~/services/devices'
import { newId } from '~/services/ids'
import { openSoundMeter, type SoundMeter } from './use-sound-meter'

/** One input of the room: what was chosen, and its live stream while it is on. */
export interface RoomInput {
  plan: InputPlan
  state: 'off' | 'opening' | 'on' | 'lost'
  /** What happened, when something did. */
  says: string
  stream: MediaStream | null
  meter: SoundMeter | null
}

/** What a room begins with, before a setup is chosen. */
const usualSources: readonly InputSource[] = ['display', 'camera', 'microphone']
const hallSources: readonly InputSource[] = ['hall-screen', 'hall-camera', 'hall-lectern', 'hall-ceiling']

/**
 * The inputs of the recording room: any number, each switched on and off by itself, opened as live streams to look at
 * and to record. One that goes away is said to be lost; the others go on.
 */
export function useInputs() {
  const inputs = shallowRef<RoomInput[]>([])
  let left = false
  const devices = shallowRef<KnownDevice[]>([])
  const hall = shallowRef<HallControl | null>(null)
  const plans = computed(() => inputs.value.map((i) => i.plan))
  const running = computed(() => inputs.value.filter((i) => i.state === 'on'))

  async function enterHall(): Promise<HallControl> {
    if (hall.value) return hall.value
    const answers = await Promise.all([
      fetch('/demo/media/meltwater.deck.json'),
      fetch('/demo/media/meltwater-sound.mp4'),
    ])
    if (answers.some((a) => !a.ok))
      throw new InputUnavailable('The simulated hall could not be opened: its deck and its voice could not be read.')
    const [deck, voice] = answers as [Response, Response]
    hall.value = await openHall((await deck.json()) as TimedDeck, await voice.blob())
    return hall.value
  }
  /** Two inputs of the hall that are switched on at once enter it once. */
  let entering: Promise<HallControl> | null = null
  const theHall = () => {
    entering ??= enterHall().finally(() => {
      entering = null
    })
    return entering
  }

  const room = (plan: InputPlan): RoomInput =>
    shallowReactive<RoomInput>({ plan, state: 'off', says: '', stream: null, meter: null })

  function letGo(input: RoomInput): void {
    input.meter?.close()
    // The hall's streams are its own; it is left when nothing of it is on.
    if (!isHall(input.plan.source)) input.stream?.getTracks().forEach((t) => t.stop())
    input.stream = input.meter = null
    if (hall.value && !inputs.value.some((i) => isHall(i.plan.source) && i.stream)) {
      hall.value.leave()
      hall.value = null
    }
  }

  async function open(input: RoomInput): Promise<void> {
    input.state = 'opening'
    input.says = ''
    try {
      const { stream, plan } = await openInput(input.plan, theHall)
      if (left) {
        // The page was left while the browser still asked for permission, or the hall was still being opened.
        input.stream = stream
        letGo(input)
        return
      }
      input.stream = stream
      input.plan = { ...plan, on: true }
      if (isSound(plan.source)) input.meter = await openSoundMeter(stream, plan.gain)
      const track = stream.getTracks()[0]
      track?.addEventListener('ended', () => {
        if (input.stream !== stream) return
        input.state = 'lost'
        input.says = sayEnded(input.plan)
        letGo(input)
      })
      track?.addEventListener('mute', () => {
        if (input.stream === stream)
          input.says = `${input.plan.label} gives nothing at present. If it stays so, close other programs that use it.`
      })
      track?.addEventListener('unmute', () => {
        if (input.stream === stream) input.says = ''
      })
      input.state = 'on'
      devices.value = await listDevices()
    } catch (error) {
      letGo(input)
      input.plan = { ...input.plan, on: false }
      input.state = 'off'
      if (!(error instanceof InputUnavailable)) throw error
      input.says = error.message
    }
  }

  function close(input: RoomInput): void {
    letGo(input)
    input.state = 'off'
    input.says = ''
    input.plan = { ...input.plan, on: false }
  }

  /** Changes what was chosen; what needs the device anew reopens it. */
  async function change(input: RoomInput, what: Partial<InputPlan>): Promise<void> {
    const before = input.plan
    input.plan = { ...before, ...what }
    if (what.gain !== undefined) input.meter?.setGain(what.gain)
    const size = (p: InputPlan) => p.picture && [p.picture.width, p.picture.height, p.picture.frameRate].join()
    if (
      input.state === 'on' &&
      ((what.deviceId !== undefined && what.deviceId !== before.deviceId) || size(input.plan) !== size(before)) &&
      !isHall(before.source)
    ) {
      letGo(input)
      await open(input)
    }
  }

  function add(source: InputSource): RoomInput {
    const input = room({ ...newInput(newId(), source, plans.value), on: false })
    inputs.value = [...inputs.value, input]
    return input
  }
  function remove(input: RoomInput): void {
    close(input)
    inputs.value = inputs.value.filter((i) => i !== input)
  }

  async function setHall(on: boolean): Promise<void> {
    for (const input of inputs.value.filter((i) => isHall(i.plan.source))) remove(input)
    if (!on) return
    const added = hallSources.map(add)
    await Promise.all(added.filter((i) => i.plan.source !== 'hall-ceiling').map(open))
  }

  /**
   * Takes over a setup; its screens stay off until the person shares them, as a browser wants.
   * @returns what is missing, a sentence each
   */
  async function load(setup: Setup): Promise<string[]> {
    inputs.value.forEach(close)
    devices.value = await listDevices()
    const { inputs: matched, missing } = matchDevices(setup, devices.value)
    inputs.value = matched.map(room)
    await Promise.all(
      inputs.value.filter((i) => i.plan.on && i.plan.source !== 'display' && i.plan.source !== 'computer').map(open),
    )
    for (const input of inputs.value)
      if (input.plan.on && input.state === 'off') {
        input.plan = { ...input.plan, on: false }
        if (input.plan.source === 'display' || input.plan.source === 'computer')
          input.says = 'Switch it on to choose what is shared.'
      }
    return missing
  }

  usualSources.forEach(add)
  const refresh = () =>
    void listDevices().then((found) => {
      devices.value = found
    })
  refresh()
  navigator.mediaDevices.addEventListener('devicechange', refresh)
  onScopeDispose(() => {
    left = true
    navigator.mediaDevices.removeEventListener('devicechange', refresh)
    inputs.value.forEach(close)
  })

  /** Whether another microphone hears the speaker better than the first, which is the one that students hear. */
  function wrongOne(): string | null {
    const [first, ...others] = inputs.value
      .filter((i) => i.meter)
      .map((i) => ({ label: i.plan.label, level: i.meter?.loud() ?? -Infinity }))
    return first ? wrongMicrophone(first, others) : null
  }

  return {
    inputs,
    plans,
    running,
    devices,
    hall,
    open,
    close,
    change,
    add,
    remove,
    setHall,
    load,
    wrongOne,
    pictures: computed(() =>
      running.value
        .filter((i) => kindOf(i.plan.source) !== 'sound')
        .sort((a, b) => kindOf(b.plan.source).localeCompare(kindOf(a.plan.source))),
    ),
    sounds: computed(() => running.value.filter((i) => i.meter)),
  }
}
