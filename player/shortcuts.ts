/** Keys that do something wherever the focus is, but where they belong to what has it. */
import { onBeforeUnmount } from 'vue'
import { tinykeys } from 'tinykeys'

/**
 * @param shortcuts by tinykeys' names of keys
 * @param isFree whether keys are listened to now
 */
export function useShortcuts(shortcuts: Record<string, () => void>, isFree = () => true): void {
  const bindings = Object.entries(shortcuts).map(([key, act]) => [
    key,
    (event: KeyboardEvent) => {
      const at = event.target as HTMLElement
      if (!isFree() || at.matches('input, select, textarea') || (event.key === ' ' && at.matches('button, a'))) return
      event.preventDefault()
      act()
    },
  ])
  onBeforeUnmount(tinykeys(window, Object.fromEntries(bindings)))
}
