import { onBeforeUnmount, onMounted } from 'vue'
import { tinykeys } from 'tinykeys'

/** What a key does. `press` says which one, as tinykeys names them. */
export interface Shortcut {
  /** As a person is told of it. */
  shown: string
  says: string
  press: Record<string, () => unknown>
}

/** Whether a key belongs to what has the focus: to what is written, chosen or pressed there. */
function isTaken({ key, target }: KeyboardEvent): boolean {
  const at = target as HTMLElement
  if (at.matches('input, textarea, select') || at.closest('[role="dialog"], .el-select, .el-radio-group')) return true
  return key === ' ' && at.matches('button, a')
}

/** Shortcuts of a page, for as long as it is there. */
export function useShortcuts(shortcuts: readonly Shortcut[]): void {
  const bindings = shortcuts.flatMap(({ press }) =>
    Object.entries(press).map(([key, act]) => [
      key,
      (event: KeyboardEvent) => {
        if (isTaken(event)) return
        event.preventDefault()
        act()
      },
    ]),
  )
  let stop = () => undefined as void
  onMounted(() => (stop = tinykeys(window, Object.fromEntries(bindings))))
  onBeforeUnmount(() => stop())
}
