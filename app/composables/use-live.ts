import { liveQuery } from 'dexie'
import { onScopeDispose, shallowRef, watch, type ShallowRef, type WatchSource } from 'vue'

/**
 * A Dexie query as a ref that follows the database. Undefined until the first answer.
 * @param query reads from `db`; run again when what it read changes, or when one of `sources` does
 */
export function useLive<T>(query: () => Promise<T>, sources: WatchSource[] = []): ShallowRef<T | undefined> {
  const value = shallowRef<T>()
  let subscription: { unsubscribe(): void } | undefined
  const subscribe = () => {
    subscription?.unsubscribe()
    subscription = liveQuery(query).subscribe({
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
