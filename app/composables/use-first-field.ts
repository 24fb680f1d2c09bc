import { nextTick, useTemplateRef } from 'vue'

/**
 * Has a dialog begin in its first field: what is typed at once is meant for that. The field is what has `ref="first"`,
 * and `focusFirst` is for the dialog's `open-auto-focus`.
 */
export function useFirstField() {
  const field = useTemplateRef<{ focus(): void }>('first')
  async function focusFirst(): Promise<void> {
    // The dialog gives the focus to its first button in the next tick.
    await nextTick()
    await nextTick()
    field.value?.focus()
  }
  return { focusFirst }
}
