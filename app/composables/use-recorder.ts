import { computed, onScopeDispose, ref, shallowRef } from 'vue'
import { freeFor, kindOf, minutesThatFit, RESERVE } from '#core/record/inputs'
import type { Stroke } from '#core/schema/edit'
import type { Take } from '#core/schema/lecture'
import { dropBallast, layBallast } from '~/services/ballast'
import { startTake, type LiveOut, type LiveTake, type Source } from '~/services/recording'
import type { RoomInput } from './use-inputs'
import { useRoomStorage } from './use-room-storage'

/** Minutes of storage left from which on it is said. */
const SAY_LEFT = 10
const FULL = 'The recording was stopped because the storage is full. Everything up to now is kept.'

/** A take that has ended, and how long it is by the recorder's clock, s. */
export interface EndedTake {
  take: Take
  seconds: number
  /** Lets go of it, once it is decided what becomes of it. */
  release(): void
}

/**
 * A recording as the room sees it: counting down, running, paused, stopped. A pause that truly stops ends the take, and
 * going on begins a further one. Storage that comes to its end stops it while everything can still be kept.
 * @param inputs those that are on
 * @param watched who may watch it meanwhile
 * @param onStopped told when the recorder stopped by itself
 */
export function useRecorder(
  inputs: () => readonly RoomInput[],
  watched: LiveOut,
  onStopped: (takes: EndedTake[], says: string) => void,
) {
  const state = ref<'ready' | 'counting' | 'live' | 'ending'>('ready')
  const countdown = ref(0)
  const clock = ref(0)
  const paused = ref(false)
  const warnings = ref<string[]>([])
  const marks = ref(0)
  const health = shallowRef<ReturnType<LiveTake['health']>>([])
  /** Bytes of each feed of the takes that have ended. */
  const keptBefore = shallowRef<number[]>([])
  const kept = computed(() => [...keptBefore.value, ...health.value.map((h) => h.bytes)])
  const bytes = computed(() => kept.value.reduce((sum, b) => sum + b, 0))
  /** A little more than what is warned of has to be known while recording; before, how many hours fit. */
  const storage = useRoomStorage(() =>
    state.value === 'live' && clock.value >= 3 ? freeFor(SAY_LEFT + 1, kept.value, clock.value) : Infinity,
  )
  let live: LiveTake | null = null
  let ended: EndedTake[] = []
  let lectureId = ''
  let skipCountdown: (() => void) | null = null
  let startedAt = 0

  /** Pausing, going on and stopping come one after the other, whoever asks. */
  let last: Promise<unknown> = Promise.resolve()
  const inTurn = <T>(act: () => Promise<T>): Promise<T> => {
    const next = last.then(act, act)
    last = next
    return next
  }

  const secondsBefore = () => ended.reduce((sum, e) => sum + e.seconds, 0)
  /** Minutes that still fit at the rate at which it really grows. */
  const minutesLeft = computed(() => {
    if (state.value !== 'live' || clock.value < 3 || bytes.value === 0) return Infinity
    return minutesThatFit(storage.free.value, kept.value, clock.value)
  })
  const storageWarning = computed(() =>
    minutesLeft.value >= SAY_LEFT
      ? ''
      : minutesLeft.value < 1
        ? 'Storage is nearly full: the recording stops within a minute, and everything up to then is kept.'
        : `Storage is nearly full: about ${Math.floor(minutesLeft.value)} minutes fit. Delete lectures you no longer need, or stop and publish.`,
  )

  const timer = setInterval(() => {
    if (!live) return
    clock.value = secondsBefore() + (performance.now() - startedAt) / 1000
    health.value = live.health()
    if (state.value === 'live' && minutesLeft.value === 0) void stopByItself(FULL)
  }, 250)
  onScopeDispose(() => clearInterval(timer))

  async function stopByItself(says: string): Promise<void> {
    const takes = await stop()
    if (takes.length) onStopped(takes, says)
  }

  const sourceOf = (input: RoomInput): Source[] => {
    const { plan, stream } = input
    const track = stream?.getTracks()[0]
    // The gain can be changed while it is recorded.
    return track
      ? [
          {
            kind: kindOf(plan.source),
            label: plan.label,
            track,
            frameRate: plan.picture?.frameRate ?? 0,
            bitrate: plan.bitrate,
            area: plan.picture?.area ?? null,
            gain: () => input.plan.gain,
          },
        ]
      : []
  }

  /** The countdown; ends early when it is skipped. */
  async function count(seconds: number): Promise<void> {
    state.value = 'counting'
    const skipped = new Promise<void>((resolve) => {
      skipCountdown = resolve
    })
    let skip = false
    void skipped.then(() => {
      skip = true
    })
    for (countdown.value = seconds; countdown.value > 0 && !skip; countdown.value--)
      await Promise.race([new Promise((resolve) => setTimeout(resolve, 1000)), skipped])
    countdown.value = 0
    skipCountdown = null
  }

  async function beginTake(): Promise<void> {
    const sources = inputs().flatMap(sourceOf)
    if (sources.length === 0) throw new Error('no camera, screen or microphone is left. Stop, and switch one on.')
    live = await startTake(
      lectureId,
      sources,
      (says) => warnings.value.push(says),
      () => void stopByItself(FULL),
      watched,
    )
    startedAt = performance.now()
    health.value = []
    paused.value = false
  }
  async function endTake(): Promise<void> {
    if (!live) return
    const ending = live
    live = null
    const seconds = (performance.now() - startedAt) / 1000
    const take = await ending.stop()
    keptBefore.value = [...keptBefore.value, ...ending.health().map((h) => h.bytes)]
    health.value = []
    ended.push({ take, seconds, release: ending.release })
  }

  /**
   * Counts down and records into a lecture.
   * @param begin called in the moment before the first frame
   * @throws {Error} with a sentence when it could not start; nothing is kept then
   */
  async function start(into: string, seconds: number, begin: () => Promise<void>): Promise<void> {
    try {
      lectureId = into
      // Persistent storage is asked for before anything has to be kept in it.
      await navigator.storage.persist()
      await Promise.all([count(seconds), layBallast(RESERVE)])
      warnings.value = []
      marks.value = 0
      ended = []
      keptBefore.value = []
      clock.value = 0
      await begin()
      await beginTake()
      await storage.refresh()
      state.value = 'live'
    } catch (error) {
      state.value = 'ready'
      await dropBallast()
      throw error
    }
  }

  /** Pauses; when it `rolls`, what follows is folded away and can be opened again, else nothing of it is recorded. */
  const pause = (rolls: boolean): Promise<void> =>
    inTurn(async () => {
      if (!live || paused.value) return
      paused.value = true
      await (rolls ? live.pause() : endTake())
      watched.paused()
    })
  const goOn = (): Promise<void> =>
    inTurn(async () => {
      if (!paused.value || state.value !== 'live') return
      if (live) {
        await live.resume()
        paused.value = false
      } else await beginTake()
    })

  /** Ends the recording. @returns its takes, in order; empty when there is none under way */
  const stop = (): Promise<EndedTake[]> =>
    inTurn(async () => {
      if (state.value !== 'live') return []
      state.value = 'ending'
      // From here on there is room for the last chunks, and for making a take of some minutes whole.
      await dropBallast().catch((error: unknown) =>
        warnings.value.push(`What was held free could not be given back: ${String(error)}`),
      )
      await endTake()
      watched.ended()
      return ended
    })

  return {
    state,
    countdown,
    clock,
    bytes,
    paused,
    warnings,
    marks,
    health,
    storage,
    minutesLeft,
    storageWarning,
    start,
    pause,
    goOn,
    stop,
    skip: () => skipCountdown?.(),
    now: () => live?.now() ?? 0,
    async mark() {
      if (!live) return
      await live.mark()
      marks.value++
    },
    slide: async (title: string) => live?.slide(title),
    draw: async (strokes: readonly Stroke[]) => live?.draw(strokes),
    done: () => {
      state.value = 'ready'
    },
  }
}
