import { onScopeDispose, ref } from 'vue'

/** How often the storage is asked about, ms. */
const EVERY = 4000

/** The storage that the browser leaves to this application, bytes. */
export function useRoomStorage() {
  const free = ref(Infinity)
  async function refresh(): Promise<void> {
    const { quota, usage = 0 } = await navigator.storage.estimate()
    free.value = quota === undefined ? Infinity : Math.max(0, quota - usage)
  }
  void refresh()
  const timer = setInterval(() => void refresh(), EVERY)
  onScopeDispose(() => clearInterval(timer))
  return { free, refresh }
}
