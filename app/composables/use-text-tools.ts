/** One bar of tools for all texts of a form: it acts on the one that was written in last. */
import type { Editor } from '@tiptap/core'
import type { InjectionKey, ShallowRef } from 'vue'

/** A text that the tools act on. */
export interface ToolText {
  editor: Editor
  writeFormula(): void
  choosePicture(): void
  hasPicture(): boolean
}

export interface TextTools {
  active: ShallowRef<ToolText | null>
  /** Moves the keyboard to the bar. */
  focusBar(): void
  bar: ShallowRef<HTMLElement | null>
}

export const textToolsKey: InjectionKey<TextTools> = Symbol('text tools')

export function provideTextTools(): TextTools {
  const bar = shallowRef<HTMLElement | null>(null)
  const tools: TextTools = {
    active: shallowRef(null),
    bar,
    focusBar: () => bar.value?.querySelector<HTMLElement>('button:not(:disabled)')?.focus(),
  }
  provide(textToolsKey, tools)
  return tools
}
