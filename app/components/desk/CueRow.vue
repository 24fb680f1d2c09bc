<script setup lang="ts">
import { plainText, tokens } from '#core/captions/text'
import { doubtfulWords } from '#core/captions/track'
import type { CaptionProblem, ProblemKind } from '#core/captions/checks'
import type { Cue } from '#core/schema/captions'
import { formatTimecode } from '#core/time/timecode'

const props = defineProps<{
  cue: Cue
  now: boolean
  gone: boolean
  last: boolean
  open: boolean
  problems: CaptionProblem[]
}>()
const emit = defineEmits<{
  open: []
  seek: []
  text: [plain: string]
  times: [from: number, to: number]
  split: [wordIndex: number]
  join: []
  remove: []
  confirm: []
  mend: [kind: ProblemKind]
}>()

const field = useTemplateRef<HTMLTextAreaElement>('field')
const text = ref(plainText(props.cue.text))
watch(
  () => props.cue.text,
  (t) => {
    if (document.activeElement !== field.value) text.value = plainText(t)
  },
)
watch(
  () => props.open,
  async (o) => {
    if (o) {
      await nextTick()
      field.value?.focus({ preventScroll: true })
    }
  },
)
const words = computed(() => tokens(props.cue.text))
/** Places of the doubtful words in the text; unknown while the text has another number of words than was heard. */
const doubts = computed(() => {
  const heard = props.cue.words ?? []
  const unsure = new Set(doubtfulWords(props.cue))
  return new Set(heard.length === words.value.length ? heard.flatMap((w, i) => (unsure.has(w) ? [i] : [])) : [])
})

function commit(): void {
  if (text.value.trim() !== plainText(props.cue.text)) emit('text', text.value.trim())
}
// A row that is scrolled far away goes, without a word from its field.
onBeforeUnmount(commit)
/** The word behind the cursor: words before it stay. */
function split(): void {
  commit()
  const before = text.value.slice(0, field.value?.selectionStart ?? 0)
  emit('split', before.split(/\s+/).filter(Boolean).length)
}
/** Typing stays in the field; Ctrl Enter splits. */
function onKey(event: KeyboardEvent): void {
  event.stopPropagation()
  if (event.key !== 'Enter' || !event.ctrlKey) return
  event.preventDefault()
  split()
}
</script>

<template>
  <li class="cue" :class="{ now, gone, open }" :data-cue="cue.id">
    <button type="button" class="time mono" :aria-label="`Go to ${formatTimecode(cue.from, 1)}`" @click="emit('seek')">
      {{ formatTimecode(cue.from, 1) }}
    </button>
    <div v-if="open" class="edit">
      <textarea
        ref="field"
        v-model="text"
        rows="2"
        :aria-label="`Caption at ${formatTimecode(cue.from, 1)}`"
        @change="commit"
        @keydown="onKey"
      />
      <div class="tools">
        <TimeField :model-value="cue.from" label="From" @update:model-value="emit('times', $event, cue.to)" />
        <TimeField :model-value="cue.to" label="To" @update:model-value="emit('times', cue.from, $event)" />
        <el-button size="small" @click="split">Split at cursor</el-button>
        <el-button size="small" :disabled="last" @click="emit('join')">Join with next</el-button>
        <el-button v-if="doubts.size" size="small" @click="emit('confirm')">Words are right</el-button>
        <el-button size="small" type="danger" plain @click="emit('remove')">Delete</el-button>
      </div>
    </div>
    <button v-else type="button" class="words" @click="emit('open')">
      <template v-for="(w, i) in words" :key="i"
        ><span
          :class="{ doubt: doubts.has(i) }"
          :title="doubts.has(i) ? 'The recogniser is not sure of this word' : undefined"
          >{{ w }}</span
        >{{ ' ' }}</template
      >
      <span v-if="!words.length" class="quiet">(empty)</span>
    </button>
    <p v-for="p in problems" :key="p.kind" class="problem">
      {{ p.says }}
      <el-button v-if="open" size="small" link :aria-label="`Mend: ${p.says}`" @click="emit('mend', p.kind)"
        >Mend</el-button
      >
    </p>
  </li>
</template>

<style scoped>
.cue {
  display: grid;
  grid-template-columns: 62px 1fr;
  padding: 2px 0;
  border-left: 3px solid transparent;
}
.now {
  border-left-color: var(--tarn);
  background: var(--tarn-wash);
}
.gone .words {
  text-decoration: line-through;
  color: #8e4a42;
}
.time {
  border: 0;
  background: none;
  color: var(--quiet);
  cursor: pointer;
  padding: 4px;
  text-align: right;
  align-self: start;
  font-size: 12.5px;
}
.words {
  border: 0;
  background: none;
  text-align: left;
  padding: 3px 6px;
  cursor: text;
  border-radius: 4px;
  line-height: 1.45;
}
.words:hover {
  background: var(--snow);
}
.doubt {
  background: var(--marigold-wash);
  border-bottom: 2px dotted var(--marigold-ink);
}
.edit {
  padding: 2px 4px 6px;
}
textarea {
  width: 100%;
  font: inherit;
  padding: 6px 8px;
  border: 1px solid var(--tarn);
  border-radius: var(--control-radius);
  resize: vertical;
}
.tools {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  align-items: end;
}
.tools .el-button {
  margin: 0;
}
.problem {
  grid-column: 2;
  margin: 0 6px 3px;
  font-size: 13.5px;
  color: var(--marigold-ink);
}
</style>
