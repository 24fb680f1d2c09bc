<script setup lang="ts">
import { Bold, Code, Image, Italic, List, ListOrdered, Sigma, Subscript, Superscript } from 'lucide-vue-next'
import { textToolsKey } from '~/composables/use-text-tools'
import { injectStrict } from '~/utils/inject'

/** What can be done with the text that is being written. */
const tools = injectStrict(textToolsKey)
const bar = useTemplateRef<HTMLElement>('bar')
onMounted(() => (tools.bar.value = bar.value))
const active = tools.active
const editor = computed(() => active.value?.editor ?? null)

const marks = [
  { mark: 'bold', says: 'Bold', icon: Bold },
  { mark: 'italic', says: 'Italic', icon: Italic },
  { mark: 'code', says: 'Code', icon: Code },
  { mark: 'subscript', says: 'Subscript', icon: Subscript },
  { mark: 'superscript', says: 'Superscript', icon: Superscript },
]
const lists = [
  { list: 'bulletList', says: 'List', icon: List },
  { list: 'orderedList', says: 'Numbered list', icon: ListOrdered },
]
/** What takes the place of another of its kind. */
const others: Partial<Record<string, string>> = { subscript: 'superscript', superscript: 'subscript' }
function toggleMark(mark: string): void {
  editor.value?.view.focus()
  const chain = editor.value?.chain()
  const other = others[mark]
  if (other) chain?.unsetMark(other)
  chain?.toggleMark(mark).run()
}
function toggleList(list: string): void {
  editor.value?.view.focus()
  editor.value?.commands.toggleList(list, 'listItem')
}
</script>

<template>
  <div
    ref="bar"
    class="tools"
    role="toolbar"
    aria-label="What the text looks like (Alt F10 from the text)"
    title="Alt F10 from the text"
    @mousedown.prevent
    @keydown.esc.stop="editor?.view.focus()"
  >
    <button
      v-for="m in marks"
      :key="m.mark"
      type="button"
      :aria-label="m.says"
      :title="m.says"
      :aria-pressed="editor?.isActive(m.mark) ?? false"
      :disabled="!editor"
      @click="toggleMark(m.mark)"
    >
      <component :is="m.icon" :size="15" aria-hidden="true" />
    </button>
    <button
      v-for="l in lists"
      :key="l.list"
      type="button"
      :aria-label="l.says"
      :title="l.says"
      :aria-pressed="editor?.isActive(l.list) ?? false"
      :disabled="!editor"
      @click="toggleList(l.list)"
    >
      <component :is="l.icon" :size="15" aria-hidden="true" />
    </button>
    <button type="button" aria-label="Formula" title="Formula" :disabled="!editor" @click="active?.writeFormula()">
      <Sigma :size="15" aria-hidden="true" />
    </button>
    <button
      type="button"
      aria-label="Picture"
      title="Picture"
      :disabled="!editor || active?.hasPicture()"
      @click="active?.choosePicture()"
    >
      <Image :size="15" aria-hidden="true" />
    </button>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px;
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--paper);
  padding: 3px 0;
  border-bottom: 1px solid var(--hairline);
}
.tools button {
  display: grid;
  place-items: center;
  width: 28px;
  height: 28px;
  border: 0;
  border-radius: var(--control-radius);
  background: none;
  cursor: pointer;
}
.tools button:hover:not(:disabled) {
  background: var(--snow);
}
.tools button[aria-pressed='true'] {
  background: var(--tarn-wash);
}
.tools button:disabled {
  opacity: 0.4;
  cursor: default;
}
</style>
