import { computed, onScopeDispose, ref, shallowRef } from 'vue'
import { kindOf, minutesThatFit, RESERVE } from '#core/record/inputs'
import type { Stroke } from '#core/schema/edit'
import type { Take } from '#core/schema/lecture'
import { dropBallast, layBallast } from '~/services/ballast'
import { startTake, type LiveTake, type Source } from '~/services/recording'
import type { RoomInput } from './use-inputs'
import { useRoomStorage } from './use-room-storage'

/** Minutes of storage left from which on it is said. */
const SAY_LEFT = 10
const FULL = 'The recording was stopped because the storage is full. Everything up to now is kept.'

/**
 * A recording as the room sees it: counting down, running, paused, stopped. Storage that comes to its end stops it while
 * everything can still be kept.
 * @param inputs those that are on
 * @param onStopped told when the recorder stopped by itself
 */
export function useRecorder(inputs: () => readonly RoomInput[], onStopped: (take: Take, says: string) => void) {
  const state = ref<'ready' | 'counting' | 'live' | 'ending'>('ready')
  const countdown = ref(0)
  const clock = ref(0)
  const paused = ref(false)
  const warnings = ref<string[]>([])
  const markers = ref<number[]>([])
  const health = shallowRef<ReturnType<LiveTake['health']>>([])
  const bytes = computed(() => health.value.reduce((sum, h) => sum + h.bytes, 0))
  const storage = useRoomStorage()
  let live: LiveTake | null = null
  let skipCountdown: (() => void) | null = null
  let startedAt = 0

  /** Minutes that still fit at the rate at which it really grows. */
  const minutesLeft = computed(() => {
    if (state.value !== 'live' || clock.value < 3 || bytes.value === 0) return Infinity
    return minutesThatFit(storage.free.value, health.value.map((h) => h.bytes), clock.value)
  })
  const storageWarning = computed(() => (minutesLeft.value >= SAY_LEFT ? '' : minutesLeft.value < 1
    ? 'Storage is nearly full: the recording stops within a minute, and everything up to then is kept.'
    : `Storage is nearly full: about ${Math.floor(minutesLeft.value)} minutes fit. Delete lectures you no longer need, or stop and publish.`))

  const timer = setInterval(() => {
    if (!live) return
    clock.value = (performance.now() - startedAt) / 1000
    health.value = live.health()
    if (state.value === 'live' && minutesLeft.value === 0) void stopByItself(FULL)
  }, 250)
  onScopeDispose(() => clearInterval(timer))

  async function stopByItself(says: string): Promise<void> {
    const take = await stop()
    if (take) onStopped(take, says)
  }

  const sourceOf = ({ plan, stream, sound }: RoomInput): Source[] => {
    const track = sound ? sound.track : stream?.getVideoTracks()[0]
    return track ? [{ kind: kindOf(plan.source), label: plan.label, track, frameRate: plan.picture?.frameRate ?? 0, bitrate: plan.bitrate, area: plan.picture?.area ?? null }] : []
  }

  /** The countdown; ends early when it is skipped. */
  async function count(seconds: number): Promise<void> {
    state.value = 'counting'
    const skipped = new Promise<void>((resolve) => { skipCountdown = resolve })
    let skip = false
    void skipped.then(() => { skip = true })
    for (countdown.value = seconds; countdown.value > 0 && !skip; countdown.value--) await Promise.race([new Promise((resolve) => setTimeout(resolve, 1000)), skipped])
    countdown.value = 0
    skipCountdown = null
  }

  /**
   * Counts down and records into a lecture.
   * @param begin called in the moment before the first frame
   * @throws {Error} with a sentence when it could not start; nothing is kept then
   */
  async function start(lectureId: string, seconds: number, begin: () => Promise<void>): Promise<void> {
    try {
      // Persistent storage is asked for before anything has to be kept in it.
      await navigator.storage.persist()
      await Promise.all([count(seconds), layBallast(RESERVE)])
      warnings.value = []
      markers.value = []
      await begin()
      live = await startTake(lectureId, inputs().flatMap(sourceOf), (says) => warnings.value.push(says), () => void stopByItself(FULL))
      startedAt = performance.now()
      clock.value = 0
      health.value = []
      paused.value = false
      await storage.refresh()
      state.value = 'live'
    } catch (error) {
      state.value = 'ready'
      await dropBallast()
      throw error
    }
  }

  async function togglePause(): Promise<void> {
    if (!live) return
    await (paused.value ? live.resume() : live.pause())
    paused.value = !paused.value
  }

  async function stop(): Promise<Take | null> {
    if (!live || state.value !== 'live') return null
    state.value = 'ending'
    // From here on there is room for the last chunks, and for making a take of some minutes whole.
    await dropBallast().catch((error: unknown) => warnings.value.push(`What was held free could not be given back: ${String(error)}`))
    const take = await live.stop()
    live = null
    return take
  }

  return {
    state, countdown, clock, bytes, paused, warnings, markers, health, storage, minutesLeft, storageWarning, start, togglePause, stop,
    skip: () => skipCountdown?.(),
    now: () => live?.now() ?? 0,
    async mark() {
      if (live) markers.value = [...markers.value, await live.mark()]
    },
    slide: async (title: string) => live?.slide(title),
    draw: async (strokes: readonly Stroke[]) => live?.draw(strokes),
    done: () => { state.value = 'ready' },
  }
}
