import { onScopeDispose, ref } from 'vue'
import { startMediaWorker } from '~/services/media-worker'

/** How often the storage is asked about, ms. */
const EVERY = 4000
/** More than this is not asked for, bytes. */
const LARGEST = 2 ** 40

/**
 * The storage that is left to this application, bytes: what the browser states, or what it really grants when that is
 * less.
 * @param most up to how many bytes it matters
 */
export function useRoomStorage(most: () => number) {
  const free = ref(Infinity)
  const { engine, end } = startMediaWorker()
  async function measure(): Promise<void> {
    const { quota, usage = 0 } = await navigator.storage.estimate()
    const stated = quota === undefined ? Infinity : Math.max(0, quota - usage)
    const upTo = Math.floor(Math.min(stated, most(), LARGEST))
    // One measuring at a time, in whichever tab; two would take the room from each other.
    const granted = await navigator.locks.request('measure-room', () => engine.measureFree('room', upTo))
    free.value = granted < upTo ? granted : stated
  }
  let measuring: Promise<void> | null = null
  const refresh = (): Promise<void> => {
    measuring ??= measure().finally(() => {
      measuring = null
    })
    return measuring
  }
  void refresh()
  const timer = setInterval(() => void refresh(), EVERY)
  onScopeDispose(() => {
    clearInterval(timer)
    // A worker that is ended in the middle would leave what it tried behind.
    void Promise.allSettled([measuring]).then(end)
  })
  return { free, refresh }
}
