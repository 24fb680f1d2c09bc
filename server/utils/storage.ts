/** The server's storage, once it is open. Ids have been checked before they come here. */
import type { Store } from '../store/store'

let opened: Store | null = null

export function useStore(): Store {
  if (!opened) throw new Error('The storage is not open yet.')
  return opened
}

export function setStore(store: Store): void {
  opened = store
}
