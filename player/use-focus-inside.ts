/** Keeps the keyboard inside what covers the picture; a mouse may go on with the rest. */
import { createFocusTrap, type FocusTrap } from 'focus-trap'
import { onBeforeUnmount, onMounted, type ShallowRef } from 'vue'

export function useFocusInside(sheet: Readonly<ShallowRef<HTMLElement | null>>): void {
  let trap: FocusTrap | null = null
  onMounted(() => {
    if (!sheet.value) return
    const options = { initialFocus: sheet.value, escapeDeactivates: false, allowOutsideClick: true }
    trap = createFocusTrap(sheet.value, options).activate()
  })
  onBeforeUnmount(() => trap?.deactivate({ returnFocus: false }))
}
