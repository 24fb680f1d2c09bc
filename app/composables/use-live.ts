import Dexie, { liveQuery } from 'dexie'
import { onScopeDispose, shallowRef, watch, type ShallowRef, type WatchSource } from 'vue'

/**
 * A Dexie query as a ref that follows the database. Undefined until the first answer.
 * @param query reads from `db`; run again when what it read changes, or when one of `sources` does. Its signal is raised
 * once nobody waits for its answer any more, so that what takes long can end
 * @param rest for how long it lets others read first when something changed, ms
 */
export function useLive<T>(
  query: (signal: AbortSignal) => Promise<T>,
  sources: WatchSource[] = [],
  rest = 0,
): ShallowRef<T | undefined> {
  const value = shallowRef<T>()
  const atRest = async () => {
    // A promise of Dexie's own: after any other, what is read would not be followed.
    if (value.value !== undefined) await Dexie.Promise.resolve(new Promise((resolve) => setTimeout(resolve, rest)))
    return ask()
  }
  let subscription: { unsubscribe(): void } | undefined
  let asking = new AbortController()
  const ask = () => query(asking.signal)
  const end = () => {
    asking.abort()
    subscription?.unsubscribe()
  }
  const subscribe = () => {
    end()
    asking = new AbortController()
    subscription = liveQuery(rest > 0 ? atRest : ask).subscribe({
      next: (answer) => {
        value.value = answer
      },
      error: (error: unknown) => {
        throw error
      },
    })
  }
  subscribe()
  if (sources.length) watch(sources, subscribe)
  onScopeDispose(end)
  return value
}
