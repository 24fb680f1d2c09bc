<script setup lang="ts">
import { EditorContent } from '@tiptap/vue-3'
import { Trash2 } from 'lucide-vue-next'
import { errorMessage } from '#core/text/error-message'
import { picturesOf } from '#core/text/rich-text'
import type { RichText as Rich } from '#core/schema/rich-text'
import { RichText } from '#player/RichText'
import { putFormula, useTextEditor } from '~/composables/use-text-editor'
import { textToolsKey, type ToolText } from '~/composables/use-text-tools'
import { addTextPicture, pictureUrl } from '~/services/text-pictures'
import { useDesk } from '~/stores/desk'
import { useJobs } from '~/stores/jobs'
import { injectStrict } from '~/utils/inject'

/** A field for a text of a question; the tools of its form act on it while one writes in it. */
const props = withDefaults(
  defineProps<{ text: Rich; label: string; rows?: number; maxlength?: number; autofocus?: boolean }>(),
  {
    rows: 2,
    maxlength: 5000,
  },
)
const emit = defineEmits<{ change: [text: Rich] }>()
const desk = useDesk()
const jobs = useJobs()
const problem = ref('')

const editor = useTextEditor({
  text: () => props.text,
  label: () => props.label,
  maxlength: props.maxlength,
  autofocus: props.autofocus,
  pictureUrl,
  onChange: (text) => emit('change', text),
  onPicture: (file) => void addPicture(file),
  onFocus(focused) {
    tools.active.value = own = {
      editor: focused,
      writeFormula: () => void writeFormula(),
      choosePicture: () => chooser.value?.click(),
      hasPicture: () => picture.value !== null,
    }
  },
  onTools: () => tools.focusBar(),
})
const tools = injectStrict(textToolsKey)
let own: ToolText | null = null
onBeforeUnmount(() => {
  if (tools.active.value === own) tools.active.value = null
})
const picture = computed(() => picturesOf(props.text)[0] ?? null)

/** TeX that is being written; null while none is. */
const tex = ref<string | null>(null)
const texField = useTemplateRef<{ focus(): void }>('texField')
async function writeFormula(): Promise<void> {
  tex.value = String(editor.value?.getAttributes('formula').tex ?? '')
  await nextTick()
  texField.value?.focus()
}
function keepFormula(): void {
  if (editor.value && tex.value !== null) putFormula(editor.value, tex.value)
  tex.value = null
}
function leaveFormula(): void {
  tex.value = null
  editor.value?.view.focus()
}

const chooser = useTemplateRef<HTMLInputElement>('chooser')
async function addPicture(file: File): Promise<void> {
  problem.value = ''
  if (picture.value) {
    problem.value = 'There is a picture in this text already: take it out first.'
    return
  }
  try {
    const { kind: type, ...attrs } = await addTextPicture(file, desk.lecture?.id ?? '', jobs)
    editor.value?.view.focus()
    editor.value?.commands.insertContent({ type, attrs })
  } catch (error) {
    problem.value = errorMessage(error)
  }
}
function choosePicture(event: Event): void {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  input.value = ''
  if (file) void addPicture(file)
}
const withPicture = (change: (line: Rich[number]) => Rich) =>
  emit(
    'change',
    props.text.flatMap((line) => (line.kind === 'picture' ? change(line) : [line])),
  )
</script>

<template>
  <div class="rich-field" :style="{ '--rows': rows }">
    <EditorContent :editor="editor" class="text" />
    <input
      ref="chooser"
      type="file"
      accept="image/*"
      class="chooser"
      tabindex="-1"
      aria-hidden="true"
      @change="choosePicture"
    />
    <div v-if="tex !== null" class="row" @keydown.esc.stop="leaveFormula">
      <el-input
        ref="texField"
        v-model="tex"
        class="tex"
        maxlength="2000"
        placeholder="TeX, such as \frac{a}{b}"
        aria-label="Formula in TeX"
        @keydown.enter.prevent="keepFormula"
      />
      <RichText v-if="tex.trim()" :text="[{ kind: 'paragraph', spans: [{ text: tex, marks: ['formula'] }] }]" flat />
      <el-button size="small" type="primary" @click="keepFormula">Put it in</el-button>
    </div>
    <div v-if="picture" class="row">
      <el-input
        :model-value="picture.description"
        maxlength="500"
        placeholder="What the picture shows, for those who cannot see it"
        aria-label="What the picture shows"
        @update:model-value="withPicture((line) => [{ ...line, description: $event } as Rich[number]])"
      />
      <el-button size="small" aria-label="Take the picture out" @click="withPicture(() => [])"
        ><Trash2 :size="15" aria-hidden="true"
      /></el-button>
    </div>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.rich-field {
  width: 100%;
  min-width: 0;
}
.text :deep([role='textbox']) {
  min-height: calc(var(--rows) * 1.5em + 12px);
  max-height: 320px;
  overflow: auto;
  padding: 5px 11px;
  border: 1px solid #b9c3c0;
  border-radius: var(--control-radius);
  background: var(--paper);
  line-height: 1.5;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.text :deep([role='textbox']:focus) {
  outline: 2px solid var(--tarn);
  outline-offset: -1px;
}
.text :deep(p) {
  margin: 0;
}
.text :deep(:is(ul, ol)) {
  margin: 0;
  padding-left: 22px;
}
.text :deep(img) {
  display: block;
  max-width: 100%;
  max-height: 220px;
  height: auto;
  margin: 4px 0;
}
.text :deep(.ProseMirror-selectednode) {
  outline: 2px solid var(--tarn);
}
.chooser {
  display: none;
}
.row {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 3px 0;
}
.tex :deep(input) {
  font-family: var(--mono);
}
</style>
