/** Where the keyboard goes when what had it is gone: without help it would begin anew at the top of the page. */

/** Whether nothing has the focus, as what had it is not there any more. */
const isLost = (): boolean => !document.activeElement || document.activeElement === document.body

/** Gives the focus to an element once it is drawn, if nothing else has it. @param find called when it is drawn */
export async function focusIfLost(find: () => HTMLElement | null | undefined): Promise<void> {
  await nextTick()
  if (isLost()) find()?.focus()
}
