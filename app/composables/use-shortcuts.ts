import { onBeforeUnmount, onMounted } from 'vue'
import { tinykeys } from 'tinykeys'

/** What a key does. `press` says which one, as tinykeys names them. */
export interface Shortcut {
  /** As a person is told of it. */
  shown: string
  says: string
  /** What gives `false` did nothing, and leaves the key to the browser. */
  press: Record<string, () => unknown>
}

/** Whether a key belongs to what has the focus: to what is written, chosen or pressed there. */
function isTaken({ key, target, ctrlKey, metaKey }: KeyboardEvent): boolean {
  const at = target as HTMLElement
  if (at.closest('[role="dialog"]')) return true
  // What is ticked or slid has no use for keys that are held down with another.
  const isWritten = !at.matches('input:is([type="radio"], [type="checkbox"], [type="range"])')
  if (at.matches('input, textarea, select') && (isWritten || !(ctrlKey || metaKey))) return true
  if (at.isContentEditable) return true
  if (at.closest('.el-select, .el-radio-group') && !(ctrlKey || metaKey)) return true
  return key === ' ' && at.matches('button, a')
}

/** Shortcuts of a page, for as long as it is there. */
export function useShortcuts(shortcuts: readonly Shortcut[]): void {
  const bindings = shortcuts.flatMap(({ press }) =>
    Object.entries(press).map(([key, act]) => [
      key,
      (event: KeyboardEvent) => {
        if (isTaken(event)) return
        if (act() !== false) event.preventDefault()
      },
    ]),
  )
  let stop = () => undefined as void
  onMounted(() => (stop = tinykeys(window, Object.fromEntries(bindings))))
  onBeforeUnmount(() => stop())
}
