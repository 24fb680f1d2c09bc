<script setup lang="ts">
/**
 * What is said, word by word: words are chosen and struck, and what says them is taken out. Cues are drawn as far as they
 * are seen; words are counted through all of them.
 */
import { useVirtualizer } from '@tanstack/vue-virtual'
import { findRuns, rangeOfRun, spokenWords, type WordRun } from '#core/captions/spoken'
import { totalLength } from '#core/time/ranges'
import { toResult } from '#core/time/time-map'
import { sayDuration } from '#core/time/timecode'
import { recorded, type RecordedTime } from '#core/time/units'
import { useDesk } from '~/stores/desk'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'

const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const list = useTemplateRef<HTMLElement>('list')

/** Each cue with the number of its first word. */
const lines = computed(() => {
  let first = 0
  return (desk.spoken?.cues ?? []).flatMap((cue) => {
    const words = spokenWords([cue])
    const line = { id: cue.id, words, first, last: first + words.length - 1 }
    first += words.length
    return words.length > 0 ? [line] : []
  })
})
const inLine = (line: WordRun, run: WordRun | null) => run !== null && run.first <= line.last && run.last >= line.first
const words = computed(() => lines.value.flatMap((line) => line.words))
const lineOf = (index: number) => lines.value.findLastIndex((l) => l.first <= index)
const isStruck = (word: { from: RecordedTime; to: RecordedTime }) =>
  toResult(desk.map, recorded((word.from + word.to) / 2)).kind === 'removed'
const now = computed(() =>
  words.value.findLastIndex((w) => w.from <= desk.recordedTime && desk.recordedTime < w.to + 0.05),
)

/* What is chosen: from where it was begun to where it is now. */
const anchor = ref<number | null>(null)
const focus = ref(0)
const chosen = computed<WordRun | null>(() =>
  anchor.value === null || words.value.length === 0
    ? null
    : {
        first: Math.min(anchor.value, focus.value, words.value.length - 1),
        last: Math.min(Math.max(anchor.value, focus.value), words.value.length - 1),
      },
)
const quoted = ({ first, last }: WordRun) => {
  const text = words.value
    .slice(first, last + 1)
    .map((w) => w.text)
    .join(' ')
  return `“${text.length > 60 ? `${text.slice(0, 57)}…` : text}”`
}
const rangesOf = (runs: readonly WordRun[]) => runs.map((run) => rangeOfRun(words.value, run, desk.map.duration))
const canStrike = computed(() => inChosen((w) => !isStruck(w)))
const canPutBack = computed(() => inChosen(isStruck))
function inChosen(test: (word: (typeof words.value)[number]) => boolean): boolean {
  return chosen.value !== null && words.value.slice(chosen.value.first, chosen.value.last + 1).some(test)
}
async function strike(): Promise<void> {
  if (chosen.value && canStrike.value)
    await desk.removeRanges(rangesOf([chosen.value]), `Struck ${quoted(chosen.value)}`)
}
async function putBack(): Promise<void> {
  if (chosen.value && canPutBack.value)
    await desk.revealRanges(rangesOf([chosen.value]), `Put back ${quoted(chosen.value)}`)
}

function goTo(index: number, extend: boolean): void {
  focus.value = Math.min(words.value.length - 1, Math.max(0, index))
  if (!extend) anchor.value = focus.value
  else anchor.value ??= focus.value
  show(focus.value)
}
/** Scrolls to a word's line, unless all of it is seen. */
function show(index: number): void {
  const at = Math.max(0, lineOf(index))
  const [view, line] = [list.value, list.value?.querySelector(`[data-index="${at}"]`)].map((e) =>
    e?.getBoundingClientRect(),
  )
  if (!view || !line || line.top < view.top || line.bottom > view.bottom)
    virtual.value.scrollToIndex(at, { align: 'auto' })
}
const play = (index: number) => {
  const word = words.value[index]
  if (word) media.seekRecorded(word.from)
}
function press(event: KeyboardEvent): void {
  const line = lines.value[lineOf(focus.value)]
  const above = lines.value[lineOf(focus.value) - 1]
  const go = (to: number) => () => goTo(to, event.shiftKey)
  const act = {
    ArrowLeft: go(focus.value - 1),
    ArrowRight: go(focus.value + 1),
    ArrowUp: go(above?.first ?? 0),
    ArrowDown: go(line ? line.last + 1 : 0),
    Home: go(0),
    End: go(words.value.length - 1),
    Delete: strike,
    Backspace: putBack,
    Enter: () => play(focus.value),
    Escape: () => {
      anchor.value = null
    },
  }[event.key]
  if (!act || event.ctrlKey || event.metaKey || event.altKey) return
  // Elsewhere on the desk these keys move the playhead, and take other things out.
  event.preventDefault()
  event.stopPropagation()
  void act()
}

/* By mouse: a click goes to a word, dragging chooses, Shift extends. */
const wordAt = (event: PointerEvent): number | null => {
  const at = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-word]')
  return at && list.value?.contains(at) ? Number(at.dataset.word) : null
}
const isDragging = ref(false)
function begin(event: PointerEvent): void {
  const index = wordAt(event)
  if (event.button !== 0 || index === null) return
  list.value?.focus({ preventScroll: true })
  event.preventDefault()
  list.value?.setPointerCapture(event.pointerId)
  isDragging.value = true
  goTo(index, event.shiftKey)
}
function drag(event: PointerEvent): void {
  const index = isDragging.value ? wordAt(event) : null
  if (index !== null) focus.value = index
}
function end(): void {
  if (isDragging.value && anchor.value === focus.value) play(focus.value)
  isDragging.value = false
}

/* Search, and striking all that is found. */
const phrase = ref('')
const found = computed(() => findRuns(words.value, phrase.value))
const left = computed(() =>
  found.value.filter(({ first, last }) => words.value.slice(first, last + 1).some((w) => !isStruck(w))),
)
const isFound = computed(() => {
  const all = new Set<number>()
  for (const { first, last } of found.value) for (let i = first; i <= last; i++) all.add(i)
  return all
})
function next(): void {
  const run = found.value.find((r) => r.first > focus.value) ?? found.value[0]
  if (!run) return
  anchor.value = run.first
  focus.value = run.last
  show(run.first)
  play(run.first)
}
async function strikeAll(): Promise<void> {
  const [run] = left.value
  const times = left.value.length
  if (run)
    await desk.removeRanges(
      rangesOf(left.value),
      times === 1 ? `Struck ${quoted(run)}` : `Struck ${quoted(run)} ${times} times`,
    )
}

const virtual = useVirtualizer(
  computed(() => ({
    count: lines.value.length,
    getScrollElement: () => list.value,
    estimateSize: () => 56,
    overscan: 10,
    getItemKey: (i: number) => lines.value[i]?.id ?? i,
  })),
)
const drawn = computed(() =>
  virtual.value.getVirtualItems().flatMap(({ index }) => {
    const line = lines.value[index]
    return line ? [{ line, index }] : []
  }),
)
const room = computed(() => {
  const items = virtual.value.getVirtualItems()
  return { before: items[0]?.start ?? 0, after: virtual.value.getTotalSize() - (items.at(-1)?.end ?? 0) }
})
const measure = (row: unknown) => virtual.value.measureElement((row as { $el?: HTMLElement } | null)?.$el ?? null)
watch(now, (index) => {
  if (desk.playing && index >= 0) show(index)
})
const saves = computed(() => {
  if (!chosen.value || !canStrike.value) return ''
  return sayDuration(totalLength(rangesOf([chosen.value])))
})
</script>

<template>
  <p v-if="!words.length" class="quiet">There are no captions yet; draft them in the next step.</p>
  <div v-else class="transcript">
    <div class="search">
      <el-input
        v-model="phrase"
        placeholder="a word or a phrase"
        aria-label="Find in the transcript"
        clearable
        @keydown.enter="next"
      />
      <span v-if="phrase" class="quiet" role="status">{{ found.length }} found</span>
      <el-button :disabled="!found.length" @click="next">Next</el-button>
      <el-button :disabled="!left.length" @click="strikeAll">Strike all</el-button>
    </div>
    <div class="acts">
      <el-button type="primary" :disabled="!canStrike" @click="strike">Strike</el-button>
      <el-button :disabled="!canPutBack" @click="putBack">Put back</el-button>
      <span class="quiet">{{ saves ? `Saves ${saves}.` : 'Drag over words, or hold Shift.' }}</span>
    </div>
    <p v-if="desk.problem" class="notice bad" role="alert">{{ desk.problem }}</p>
    <div
      ref="list"
      class="script"
      role="listbox"
      aria-label="Transcript"
      aria-multiselectable="true"
      tabindex="0"
      :aria-activedescendant="`word-${focus}`"
      :style="{ '--before': `${room.before}px`, '--after': `${room.after}px` }"
      @keydown="press"
      @pointerdown="begin"
      @pointermove="drag"
      @pointerup="end"
      @pointercancel="end"
    >
      <TranscriptLine
        v-for="{ line, index } in drawn"
        :key="line.id"
        :ref="measure"
        :data-index="index"
        :words="line.words"
        :first="line.first"
        :chosen-from="inLine(line, chosen) ? Math.max(line.first, chosen?.first ?? 0) : -1"
        :chosen-to="inLine(line, chosen) ? Math.min(line.last, chosen?.last ?? 0) : -1"
        :active="focus >= line.first && focus <= line.last ? focus : -1"
        :now="now >= line.first && now <= line.last ? now : -1"
        :found="isFound"
      />
    </div>
  </div>
</template>

<style scoped>
.transcript {
  display: flex;
  flex-direction: column;
  gap: 10px;
  height: 100%;
}
.search,
.acts {
  display: flex;
  align-items: center;
  gap: 8px;
}
.search .el-input {
  flex: 1;
  min-width: 100px;
}
.search .quiet,
.acts .quiet {
  font-size: 14px;
  line-height: 1.3;
}
.search :deep(.el-button),
.acts :deep(.el-button) {
  margin: 0;
}
.notice {
  margin: 0;
}
.script {
  flex: 1;
  min-height: 160px;
  overflow: auto;
  overflow-anchor: none;
  line-height: 1.7;
  user-select: none;
  touch-action: pan-y;
  border-radius: var(--control-radius);
}
.script::before,
.script::after {
  content: '';
  display: block;
}
.script::before {
  height: var(--before);
}
.script::after {
  height: var(--after);
}
</style>
