<script setup lang="ts">
import { Check, Italic, Repeat } from 'lucide-vue-next'
import { createKeybindingsHandler } from 'tinykeys'
import type { CaptionProblem, ProblemKind } from '#core/captions/checks'
import { doubtsOf } from '#core/captions/doubts'
import { speakerOf, styledWords, toTyped } from '#core/captions/markup'
import { placeOf, places, type Place } from '#core/captions/position'
import type { Cue } from '#core/schema/captions'
import { useDesk } from '~/stores/desk'
import { captionKeys, type CaptionAct } from '~/utils/caption-keys'

/** A caption in the list; the one that is open is written, timed and placed here, by keys too. */
const props = defineProps<{
  cue: Cue
  now: boolean
  gone: boolean
  last: boolean
  open: boolean
  looping: boolean
  problems: CaptionProblem[]
  /** Everyone who speaks in the track. */
  speakers: readonly string[]
}>()
const emit = defineEmits<{
  open: []
  seek: []
  /** @param typed as a person types cue text */
  text: [typed: string]
  speaker: [name: string]
  place: [place: Place]
  times: [from: number, to: number]
  split: [wordIndex: number]
  remove: []
  /** What was typed is right, and so is the rest of it; on to the next. */
  confirm: [typed: string]
  mend: [kind: ProblemKind]
  /** @param by what takes its place; null when it is right */
  settle: [wordIndex: number, by: string | null]
  act: [act: CaptionAct]
}>()

const desk = useDesk()
const field = useTemplateRef<HTMLTextAreaElement>('field')
const speakerField = useTemplateRef<{ focus(): void }>('speakerField')
const text = ref(toTyped(props.cue.text))
watch(
  () => props.cue.text,
  (now, before) => {
    // What is being written stays.
    const isWritten = document.activeElement === field.value && text.value.trim() !== toTyped(before)
    if (!isWritten) text.value = toTyped(now)
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
const words = computed(() => styledWords(props.cue.text))
const speaker = computed(() => speakerOf(props.cue.text))
const place = computed(() => placeOf(props.cue))
/** The doubtful words, and their places in the text. */
const unsure = computed(() => doubtsOf(props.cue))
const doubts = computed(() => new Set(unsure.value.map((d) => d.index)))
const at = computed(() => desk.sayTime(props.cue.from, 1))

function commit(): void {
  if (text.value.trim() !== toTyped(props.cue.text)) emit('text', text.value.trim())
}
// A row that is scrolled far away goes, without a word from its field.
onBeforeUnmount(commit)
/** The word behind the cursor: words before it stay. */
function split(): void {
  commit()
  const before = text.value.slice(0, field.value?.selectionStart ?? 0).replace(/<[^<>\n]*>/g, '')
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
/** Puts what is marked in the field into italics, or takes it out of them. */
async function italics(): Promise<void> {
  const { selectionStart: from = 0, selectionEnd: to = 0 } = field.value ?? {}
  const [before, marked, after] = [text.value.slice(0, from), text.value.slice(from, to), text.value.slice(to)]
  const isOn = before.endsWith('<i>') && after.startsWith('</i>')
  text.value = isOn ? before.slice(0, -3) + marked + after.slice(4) : `${before}<i>${marked}</i>${after}`
  await nextTick()
  const start = from + (isOn ? -3 : 3)
  field.value?.focus({ preventScroll: true })
  field.value?.setSelectionRange(start, start + marked.length)
  commit()
}
const own: Partial<Record<CaptionAct, () => void>> = {
  confirm: () => emit('confirm', text.value.trim()),
  split,
  italic: () => void italics(),
  speaker: () => speakerField.value?.focus(),
  mend() {
    const [first] = props.problems
    commit()
    if (first) emit('mend', first.kind)
  },
}
function act(what: CaptionAct): void {
  const here = own[what]
  if (here) return here()
  commit()
  emit('act', what)
}
const bindings = [
  ...captionKeys.flatMap(({ press }) => Object.entries(press).map(([key, what]) => [key, () => act(what)] as const)),
  ...Array.from({ length: 10 }, (_, digit) => [`Alt+Digit${digit}`, () => settleByKey(digit)] as const),
].map(([key, run]) => [
  key,
  (event: KeyboardEvent) => {
    event.preventDefault()
    run()
  },
])
const handle = createKeybindingsHandler(Object.fromEntries(bindings))
/** Typing stays in the field. */
function onKey(event: KeyboardEvent): void {
  event.stopPropagation()
  // What an input method is composing is its own.
  if (!event.isComposing) handle(event)
}
</script>

<template>
  <li class="cue" :class="{ now, gone, open }" :data-cue="cue.id">
    <button type="button" class="time mono" :aria-label="`Go to ${at}`" @click="emit('seek')">
      {{ at
      }}<Check v-if="cue.checked" class="checked" :size="13" role="img" aria-hidden="false" aria-label="gone through" />
    </button>
    <div v-if="open" class="edit">
      <textarea
        ref="field"
        v-model="text"
        rows="2"
        :aria-label="`Caption at ${at}`"
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
        <DeskTimeField :model-value="cue.from" label="From" @update:model-value="emit('times', $event, cue.to)" />
        <DeskTimeField :model-value="cue.to" label="To" end @update:model-value="emit('times', cue.from, $event)" />
        <el-button size="small" title="Ctrl I" aria-label="Italics" @click="act('italic')"
          ><Italic :size="14" aria-hidden="true"
        /></el-button>
        <el-button
          size="small"
          title="Alt L"
          aria-label="Play it again and again"
          :aria-pressed="looping"
          :type="looping ? 'primary' : 'default'"
          :plain="looping"
          @click="act('loop')"
          ><Repeat :size="14" aria-hidden="true"
        /></el-button>
      </div>
      <div class="tools">
        <div class="field">
          <span>Speaker</span>
          <el-select
            ref="speakerField"
            :model-value="speaker"
            size="small"
            filterable
            allow-create
            default-first-option
            clearable
            aria-label="Speaker"
            placeholder="nobody named"
            :value-on-clear="''"
            @update:model-value="emit('speaker', $event)"
          >
            <el-option v-for="s in speakers" :key="s" :value="s" :label="s" />
          </el-select>
        </div>
        <div class="field">
          <span>Stands at</span>
          <el-select
            :model-value="place"
            size="small"
            aria-label="Stands at"
            @update:model-value="emit('place', $event)"
          >
            <el-option v-for="p in places" :key="p" :value="p" :label="p" />
          </el-select>
        </div>
      </div>
      <div class="tools">
        <el-button size="small" type="primary" title="Enter" @click="act('confirm')">Confirm and on</el-button>
        <el-button size="small" title="Ctrl Enter" @click="act('split')">Split at cursor</el-button>
        <el-button size="small" title="Alt J" :disabled="last" @click="act('join')">Join with next</el-button>
        <el-button size="small" type="danger" plain @click="emit('remove')">Delete</el-button>
      </div>
    </div>
    <button v-else type="button" class="words" @click="emit('open')">
      <b v-if="speaker" class="who">{{ speaker }}: </b
      ><template v-for="(w, i) in words" :key="i"
        ><span
          :class="{ doubt: doubts.has(i), italic: w.italic, sound: /^\[|\]$/.test(w.text) }"
          :title="doubts.has(i) ? 'The recogniser is not sure of this word' : undefined"
          >{{ w.text }}</span
        >{{ ' ' }}</template
      >
      <span v-if="!words.length" class="quiet">(empty)</span>
      <span v-if="place !== 'foot'" class="place">{{ place }}</span>
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
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
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
.tools :deep(input.mono) {
  width: 90px;
}
.tools + .tools {
  margin-top: 6px;
}
.field {
  display: flex;
  flex-direction: column;
  font-size: 13px;
  color: var(--quiet);
}
.field .el-select {
  width: 130px;
}
.checked {
  color: var(--moss-ink);
  vertical-align: -2px;
  margin-left: 2px;
}
.who {
  font-weight: 600;
}
.italic {
  font-style: italic;
}
.sound {
  color: var(--quiet);
}
.place {
  font-size: 12.5px;
  color: var(--tarn);
  border: 1px solid var(--hairline);
  border-radius: 4px;
  padding: 0 4px;
}
.problem {
  grid-column: 2;
  margin: 0 6px 3px;
  font-size: 13.5px;
  color: var(--marigold-ink);
}
</style>
