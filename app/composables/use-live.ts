import Dexie, { liveQuery } from 'dexie'
import { onScopeDispose, shallowRef, watch, type ShallowRef, type WatchSource } from 'vue'

/**
 * A Dexie query as a ref that follows the database. Undefined until the first answer.
 * @param query reads from `db`; run again when what it read changes, or when one of `sources` does
 * @param rest for how long it lets others read first when something changed, ms
 */
export function useLive<T>(query: () => Promise<T>, sources: WatchSource[] = [], rest = 0): ShallowRef<T | undefined> {
  const value = shallowRef<T>()
  const atRest = async () => {
    // A promise of Dexie's own: after any other, what is read would not be followed.
    if (value.value !== undefined) await Dexie.Promise.resolve(new Promise((resolve) => setTimeout(resolve, rest)))
    return query()
  }
  let subscription: { unsubscribe(): void } | undefined
  const subscribe = () => {
    subscription?.unsubscribe()
    subscription = liveQuery(rest > 0 ? atRest : query).subscribe({
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
  onScopeDispose(() => subscription?.unsubscribe())
  return value
}
