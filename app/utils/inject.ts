import { inject, type InjectionKey } from 'vue'

/** Injects what an ancestor has to provide. */
export function injectStrict<T>(key: InjectionKey<T>): T {
  const value = inject(key)
  if (value === undefined) throw new Error(`${key.description ?? 'something'} was not provided`)
  return value
}
