<script setup lang="ts">
import { plainText, tokens } from '#core/captions/text'
import { doubtsOf } from '#core/captions/doubts'
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
  /** @param by what takes its place; null when it is right */
  settle: [wordIndex: number, by: string | null]
  /** To the next doubtful words. */
  next: []
}>()

const field = useTemplateRef<HTMLTextAreaElement>('field')
const text = ref(plainText(props.cue.text))
watch(
  () => props.cue.text,
  (now, before) => {
    // What is being written stays.
    const isWritten = document.activeElement === field.value && text.value.trim() !== plainText(before)
    if (!isWritten) text.value = plainText(now)
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
/** The doubtful words, and their places in the text. */
const unsure = computed(() => doubtsOf(props.cue))
const doubts = computed(() => new Set(unsure.value.map((d) => d.index)))

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
/** Settles a doubtful word; behind the last of a cue, the next one is in another. */
function settle(index: number, by: string | null): void {
  commit()
  emit('settle', index, by)
}
/** Alt and a digit settle the first doubtful word: 0 as it is, the others by what else was heard. */
function settleByKey(digit: number): void {
  const [first] = unsure.value
  const by = digit === 0 ? null : first?.word.alternatives?.[digit - 1]
  if (first && by !== undefined) settle(first.index, by)
}
/** Typing stays in the field; Ctrl Enter splits, Alt Enter goes to the next doubtful words. */
function onKey(event: KeyboardEvent): void {
  event.stopPropagation()
  const digit = event.altKey ? /^Digit(\d)$/.exec(event.code)?.[1] : undefined
  if (event.key === 'Enter' && event.ctrlKey) split()
  else if (event.key === 'Enter' && event.altKey) next()
  else if (digit !== undefined) settleByKey(Number(digit))
  else return
  event.preventDefault()
}
function next(): void {
  commit()
  emit('next')
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
      <ul v-if="unsure.length" class="unsure" aria-label="Doubtful words">
        <li v-for="(d, n) in unsure" :key="d.index">
          <span class="doubt">{{ d.word.text }}</span>
          <el-button
            v-for="(other, k) in d.word.alternatives ?? []"
            :key="other"
            size="small"
            :aria-label="`${other} instead of ${d.word.text}`"
            :title="n === 0 ? `Alt ${k + 1}` : undefined"
            @click="settle(d.index, other)"
            >{{ other }}</el-button
          >
          <el-button
            size="small"
            text
            :aria-label="`Is right: ${d.word.text}`"
            :title="n === 0 ? 'Alt 0' : undefined"
            @click="settle(d.index, null)"
            >Is right</el-button
          >
        </li>
      </ul>
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
.unsure {
  list-style: none;
  margin: 0;
  padding: 0;
}
.unsure li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
  padding: 2px 0;
}
.unsure .el-button {
  margin: 0;
}
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
