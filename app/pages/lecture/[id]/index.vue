<script setup lang="ts">
import { useEventListener, useLocalStorage, useWindowSize } from '@vueuse/core'
import {
  Captions,
  ChevronsLeft,
  ChevronsRight,
  CirclePlus,
  Download,
  HelpCircle,
  History,
  Info,
  Scissors,
  Send,
  WandSparkles,
} from 'lucide-vue-next'
import { pieceAt } from '#core/edit/edit'
import { frameLength } from '#core/time/frames'
import { jump } from '#core/time/snap'
import { lectureFacts } from '~/services/cards'
import { newId, nowInstant } from '~/services/ids'
import { analyseNow } from '~/services/takes'
import { sayWhere } from '#core/library/folders'
import { readiness as readinessOf } from '#core/library/readiness'
import type { Kind } from '#core/documents/kinds'
import { recorded, result } from '#core/time/units'
import { errorMessage } from '#core/text/error-message'
import type { LaneItem, LaneKey } from '~/utils/lanes'
import { db } from '~/db/database'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { useJobs } from '~/stores/jobs'
import { stopKinds, stopsKey, useStops, type StopKind } from '~/composables/use-stops'
import { captionKeys } from '~/utils/caption-keys'
import { useShortcuts, type Shortcut } from '~/composables/use-shortcuts'
import { stageKey, useStage } from '~/composables/use-stage'
import { scriptPlayerKey, useScriptPlayer } from '~/composables/use-script-player'

const route = useRoute()
const id = String(route.params.id)
const desk = useDesk()
const loaded = ref(false)
await desk.open(id)
loaded.value = true
void analyseNow(desk.recording?.takes.map((t) => t.id) ?? [], useJobs()).catch((error: unknown) => {
  desk.problem = errorMessage(error)
})
useHead({ title: computed(() => `${desk.lecture?.title ?? 'Lecture'} · Thaw`) })

const media = useScriptPlayer()
provide(scriptPlayerKey, media)
provide(stageKey, useStage(media))
const stops = useStops()
provide(stopsKey, stops)
const chosen = useChosen()
const timeLine = useTemplateRef<{ zoomBy(factor: number): void }>('timeLine')

const steps = [
  { key: 'tidied', label: 'Tidy', icon: Scissors },
  { key: 'captioned', label: 'Captions', icon: Captions },
  { key: 'asked', label: 'Questions', icon: HelpCircle },
  { key: 'released', label: 'Release', icon: Send },
] as const
const step = computed(() => steps.find((s) => s.key === route.query.step)?.key ?? 'tidied')
/** The documents that undo and redo are about. */
const kindsOfStep = computed<Kind[]>(() =>
  step.value === 'captioned'
    ? ['captions']
    : step.value === 'asked'
      ? ['questions']
      : ['edit', 'chapters', 'links', 'questions'],
)
const readiness = computed(() => (desk.parts ? readinessOf({ ...lectureFacts(desk.parts), now: nowInstant() }) : null))

// A job that ends changes the documents under the open desk, whoever started it.
const ended = useLive(async () => {
  const jobs = await db.jobs.where('lectureId').equals(id).toArray()
  return [
    ...(await db.takes.where('lectureId').equals(id).toArray()).map((t) => t.state),
    ...jobs.filter((j) => j.state !== 'running').map((j) => j.id),
  ].join(' ')
})
watch(ended, () => desk.refresh())
// What another tab changes is seen here too.
const documents = useLive(() =>
  Promise.all([
    db.documents.where('lectureId').equals(id).toArray(),
    db.releases.get(id),
    db.places.where('lectureId').equals(id).toArray(),
  ]),
)
watch(documents, () => desk.refresh())

/** Width of the sheet, px: the narrowest and the usual one, and what the picture keeps beside it. */
const SHEET = { min: 320, usual: 396, beside: 440 }
const kept = useLocalStorage('thaw-sheet-width', SHEET.usual)
const { width: windowWidth } = useWindowSize()
const widest = computed(() => Math.max(SHEET.min, windowWidth.value - SHEET.beside))
const sheetWidth = computed({
  // What another window, or another hand, left there may be anything.
  get: () => Math.min(widest.value, Math.max(SHEET.min, Number(kept.value) || SHEET.usual)),
  set: (to) => {
    kept.value = to
  },
})

/** Height of the time line, px: the least, what the picture keeps over it, and the usual one as a share of the window. */
const FOOT = { min: 120, beside: 300, share: 0.33 }
const keptFoot = useLocalStorage('thaw-foot-height', 0)
const { height: windowHeight } = useWindowSize()
const highest = computed(() => Math.max(FOOT.min, windowHeight.value - FOOT.beside))
const usualFoot = computed(() => Math.round(Math.min(300, FOOT.share * windowHeight.value)))
const footHeight = computed({
  get: () => Math.min(highest.value, Math.max(FOOT.min, Number(keptFoot.value) || usualFoot.value)),
  set: (to) => {
    keptFoot.value = to
  },
})

const notes = computed(() =>
  desk.takes
    .map((t) => t.note)
    .filter(Boolean)
    .join(' '),
)
const recordLabel = computed(() => (desk.takes.length ? 'Record a further take' : 'Record it'))
const particulars = ref(false)
const revisions = ref(false)
const saving = ref(false)
const finishing = ref(false)
const keysShown = ref(false)
const goBy = (by: number) => media.step(by)
const byFrame = (frames: number) => goBy(frames * frameLength(desk.edit?.frameRate ?? 0))
const toEnd = () => media.seek(result(Math.max(0, desk.map.length - 0.04)))
const undo = () => desk.undo(...kindsOfStep.value)
const redo = () => desk.redo(...kindsOfStep.value)
const zoom = (factor: number) => timeLine.value?.zoomBy(factor)
const stopKind = useLocalStorage<StopKind>('thaw-jump-by', 'cut')
function jumpTo(direction: 'next' | 'previous'): void {
  const known = stopKinds.some((s) => s.key === stopKind.value) ? stopKind.value : 'cut'
  const at = jump(stops.stops(known), desk.time, direction)
  if (at !== null) media.seek(result(at))
}
/** What is chosen on the time line goes first; otherwise what is selected on the sound is taken out. */
const remove = () => (chosen.items.length > 0 ? chosen.drop() : desk.removeSelection())
const split = () => desk.command({ do: 'split', id: newId(), at: desk.recordedTime })
function choosePiece(): void {
  if (desk.edit) desk.selection = pieceAt(desk.edit, desk.recordedTime)
}
// Text that is marked on the page is what is copied, and what stands in the clipboard is put into fields.
const copy = () => (window.getSelection()?.isCollapsed === false ? false : chosen.copy())
function cut(): unknown {
  return copy() && chosen.drop()
}
const paste = () => (chosen.clipboard ? chosen.paste(desk.recordedTime) : false)
const showKeys = () => {
  keysShown.value = !keysShown.value
}
const keys: Shortcut[] = [
  { shown: 'Space', says: 'Play or pause', press: { Space: () => media.toggle() } },
  {
    shown: '← →',
    says: 'One second back or on',
    press: { ArrowLeft: () => goBy(-1), ArrowRight: () => goBy(1) },
  },
  {
    shown: 'Home End',
    says: 'To the start or the end',
    press: { Home: () => media.seek(result(0)), End: toEnd },
  },
  { shown: ', .', says: 'One frame back or on', press: { ',': () => byFrame(-1), '.': () => byFrame(1) } },
  { shown: 'I', says: 'Selection starts at the playhead', press: { i: () => mark('from') } },
  { shown: 'O', says: 'Selection ends at the playhead', press: { o: () => mark('to') } },
  { shown: 'S', says: 'Split at the playhead', press: { s: split } },
  { shown: 'P', says: 'Select the piece at the playhead', press: { p: choosePiece } },
  {
    shown: 'Delete',
    says: 'Take the selection out, or drop what is chosen',
    press: { Delete: remove, x: remove },
  },
  {
    shown: 'Escape',
    says: 'Let go of what is selected and chosen',
    press: {
      Escape: () => {
        desk.selection = null
        chosen.clear()
      },
    },
  },
  {
    shown: '[ ]',
    says: 'Jump to what was before or comes next',
    press: { '[': () => jumpTo('previous'), ']': () => jumpTo('next') },
  },
  {
    shown: 'Ctrl C X V',
    says: 'Copy, cut, paste what is chosen',
    press: { '$mod+c': copy, '$mod+x': cut, '$mod+v': paste },
  },
  { shown: 'Ctrl D', says: 'Put in what is chosen once more', press: { '$mod+d': () => chosen.duplicate() } },
  { shown: 'Ctrl Z', says: 'Undo what was done last in this step', press: { '$mod+z': undo } },
  { shown: 'Ctrl Shift Z', says: 'Redo', press: { '$mod+Shift+z': redo } },
  {
    shown: '+ −',
    says: 'Zoom the time line',
    press: { '+': () => zoom(2), 'Shift++': () => zoom(2), '-': () => zoom(0.5) },
  },
  { shown: 'Q', says: 'Ask a question at the playhead', press: { q: () => ask() } },
  // Where it is typed depends on the keyboard.
  { shown: '?', says: 'Show these keys', press: { '?': showKeys, 'Shift+?': showKeys } },
]
useShortcuts(keys)
const keyParts = computed(() => [
  { title: '', keys },
  ...(step.value === 'captioned' ? [{ title: 'In a caption', keys: captionKeys }] : []),
])

/** What was pressed on a lane is opened in the sheet of its step. */
const placesOf: Record<Exclude<LaneKey, 'compared'>, { step: string; tab?: string }> = {
  level: { step: 'tidied', tab: 'sound' },
  layout: { step: 'tidied', tab: 'layout' },
  over: { step: 'tidied', tab: 'over' },
  chapters: { step: 'tidied', tab: 'chapters' },
  links: { step: 'tidied', tab: 'links' },
  captions: { step: 'captioned' },
  questions: { step: 'asked' },
}
async function openItem(lane: LaneKey, { ref }: LaneItem): Promise<void> {
  if (lane === 'compared') return
  const place = placesOf[lane]
  if (lane === 'questions') desk.activeCheckpoint = ref.id
  // A caption is gone to from any step, and opened where captions are.
  if (lane === 'captions') {
    desk.activeCue = ref.id
    return
  }
  if (place.tab) desk.tab = place.tab
  if (step.value !== place.step) await navigateTo({ query: { step: place.step }, replace: true })
}

async function ask(): Promise<void> {
  await desk.addCheckpoint(desk.recordedTime)
  await navigateTo({ query: { step: 'asked' } })
}

function mark(edge: 'from' | 'to'): void {
  const now = desk.selection ?? {
    from: edge === 'from' ? desk.recordedTime : recorded(0),
    to: edge === 'to' ? desk.recordedTime : desk.map.duration,
  }
  const next = { ...now, [edge]: desk.recordedTime }
  desk.selection = next.to > next.from ? next : null
}

// What is being typed is stored at rest, or now when the page is left.
useEventListener(window, 'pagehide', () => void desk.flush())
useEventListener(document, 'visibilitychange', () => void desk.flush())
onBeforeRouteLeave(() => desk.flush())
</script>

<template>
  <div v-if="!desk.lecture" class="missing">
    <p class="notice">There is no such lecture in this browser. <NuxtLink to="/">Go to the term</NuxtLink>.</p>
  </div>
  <div v-else class="desk" :style="{ '--sheet': `${sheetWidth}px` }">
    <header class="head">
      <input
        class="title"
        :value="desk.lecture.title"
        aria-label="Title"
        maxlength="300"
        @change="desk.describe({ title: ($event.target as HTMLInputElement).value.trim() || desk.lecture.title })"
        @keydown.stop
      />
      <span v-if="desk.course" class="quiet where" :title="sayWhere(desk.course, desk.lecture)">{{
        sayWhere(desk.course, desk.lecture)
      }}</span>
      <span v-else class="quiet where">In no course yet</span>
      <div class="tools">
        <button type="button" aria-label="Particulars" title="Particulars" @click="particulars = true">
          <Info :size="16" aria-hidden="true" /><span>Particulars</span></button
        ><button type="button" aria-label="Revisions" title="Revisions" @click="revisions = true">
          <History :size="16" aria-hidden="true" /><span>Revisions</span></button
        ><button
          v-if="desk.recording"
          type="button"
          aria-label="Save as a file"
          title="Save as a file"
          @click="saving = true"
        >
          <Download :size="16" aria-hidden="true" /><span>Save</span></button
        ><button
          v-if="desk.recording"
          type="button"
          aria-label="Put on a finish"
          title="Put on a finish"
          @click="finishing = true"
        >
          <WandSparkles :size="16" aria-hidden="true" /><span>Finish</span></button
        ><NuxtLink :to="`/record?lecture=${id}`" :aria-label="recordLabel" :title="recordLabel"
          ><CirclePlus :size="16" aria-hidden="true" /><span>Record</span></NuxtLink
        >
      </div>
      <nav aria-label="Steps">
        <NuxtLink
          v-for="s in steps"
          :key="s.key"
          :to="{ query: { step: s.key } }"
          replace
          :class="[readiness?.marks[s.key].state, { here: s.key === step }]"
          :aria-current="s.key === step ? 'step' : undefined"
          :aria-label="`${s.label}: ${readiness?.marks[s.key].says ?? ''}`"
          :title="readiness?.marks[s.key].says"
        >
          <component :is="s.icon" :size="17" aria-hidden="true" /> {{ s.label }}<span class="lamp" aria-hidden="true" />
        </NuxtLink>
        <NuxtLink v-if="desk.parts?.release" :to="`/lecture/${id}/results`">Results</NuxtLink>
      </nav>
    </header>
    <div class="notes">
      <UnreadableNotice />
      <p v-if="desk.recording && notes" class="notice">{{ notes }}</p>
    </div>
    <DeskPicture class="left" :editable="step === 'tidied' && !desk.playing">
      <span class="jump" role="group" aria-label="Jump">
        <el-button
          circle
          :aria-label="`To the ${stopKind} before`"
          title="To the one before  ["
          @click="jumpTo('previous')"
          ><ChevronsLeft :size="16"
        /></el-button>
        <el-select v-model="stopKind" aria-label="Jump by" class="by"
          ><el-option v-for="s in stopKinds" :key="s.key" :value="s.key" :label="s.label"
        /></el-select>
        <el-button circle :aria-label="`To the next ${stopKind}`" title="To the next one  ]" @click="jumpTo('next')"
          ><ChevronsRight :size="16"
        /></el-button>
      </span>
      <el-button text :aria-expanded="keysShown" @click="keysShown = !keysShown">Keys</el-button>
    </DeskPicture>
    <PaneDivider
      v-model:size="sheetWidth"
      class="divider"
      label="Width of the sheet"
      :min="SHEET.min"
      :max="widest"
      :usual="SHEET.usual"
    />
    <aside class="right surface" :aria-label="steps.find((s) => s.key === step)?.label">
      <TidySheet v-if="step === 'tidied'" />
      <CaptionSheet v-else-if="step === 'captioned'" />
      <AskSheet v-else-if="step === 'asked'" />
      <ReleaseSheet v-else />
    </aside>
    <LazyKeysDialog v-if="keysShown" v-model="keysShown" :parts="keyParts" />
    <LazyParticularsDialog v-if="particulars" @close="particulars = false" />
    <LazyRevisionsDialog v-if="revisions" @close="revisions = false" />
    <LazySaveDialog v-if="saving" @close="saving = false" />
    <LazyFinishDialog v-if="finishing" :lecture-ids="[id]" @close="finishing = false" />
    <div v-if="desk.recording" class="foot" :style="{ height: `${footHeight}px` }">
      <PaneDivider
        v-model:size="footHeight"
        class="rim"
        orientation="horizontal"
        label="Height of the time line"
        :min="FOOT.min"
        :max="highest"
        :usual="usualFoot"
      />
      <TimeLine ref="timeLine" class="lanes" :step="step" @open="openItem" />
    </div>
  </div>
</template>

<style scoped>
.missing {
  padding: 40px;
}
.desk {
  height: 100%;
  display: grid;
  grid-template: auto auto minmax(0, 1fr) auto / minmax(0, 1fr) 16px var(--sheet);
  padding: 8px 20px 12px;
}
.head {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 10px;
  padding-bottom: 8px;
}
.notes {
  grid-area: 2 / 1;
  display: flex;
  flex-direction: column;
}
.notes > :deep(*) {
  margin: 0 0 8px;
}
.left {
  grid-area: 3 / 1;
}
.divider {
  grid-area: 2 / 2 / 5;
}
.right {
  grid-area: 2 / 3 / 5;
  padding: 14px 16px;
  overflow: auto;
  min-height: 0;
}
.foot {
  grid-area: 4 / 1;
  display: flex;
  flex-direction: column;
}
.lanes {
  flex: 1;
  min-height: 0;
}
.jump {
  display: flex;
  align-items: center;
  gap: 4px;
}
.by {
  width: 96px;
}
/* Where there is no room for three panes beside and over one another they stand in a column, which is scrolled. */
@media (max-width: 859px), (max-height: 559px) {
  .desk {
    height: auto;
    grid-template: none / minmax(0, 1fr);
  }
  .head,
  nav {
    flex-wrap: wrap;
  }
  .head,
  .notes,
  .left,
  .foot,
  .right {
    grid-area: auto;
  }
  .left {
    height: clamp(240px, 70vh, 460px);
  }
  .divider {
    display: none;
  }
  .right {
    margin-top: 10px;
  }
}
.where {
  flex: 0 1000 auto;
  min-width: 0;
  font-size: 14px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.tools {
  display: flex;
  flex: 1 0 auto;
}
.tools > * {
  display: flex;
  align-items: center;
  gap: 4px;
  height: 32px;
  padding: 0 7px;
  border: 0;
  background: none;
  color: var(--quiet);
  font: inherit;
  font-size: 13px;
  text-decoration: none;
  white-space: nowrap;
  border-radius: var(--control-radius);
  cursor: pointer;
}
@media (max-width: 1200px) {
  .tools span {
    display: none;
  }
}
.tools > :hover {
  background: #eaeee9;
  color: var(--ink);
}
.title {
  flex: none;
  field-sizing: content;
  min-width: 120px;
  max-width: 34vw;
  font: 560 23px/1.2 var(--title);
  color: var(--ink);
  background: transparent;
  border: 1px solid transparent;
  border-radius: 6px;
  padding: 1px 5px;
  margin-left: -6px;
  text-overflow: ellipsis;
}
.title:hover {
  border-color: var(--hairline);
}
.title:focus {
  background: var(--paper);
  border-color: var(--tarn);
}
nav {
  display: flex;
  gap: 4px;
}
nav a {
  display: flex;
  align-items: center;
  gap: 6px;
  text-decoration: none;
  color: var(--ink);
  padding: 6px 12px;
  border-radius: var(--control-radius);
}
nav a:hover {
  background: #eaeee9;
}
nav .here {
  background: var(--tarn);
  color: #fff;
}
nav .here:hover {
  background: var(--tarn-deep);
}
.lamp {
  width: 9px;
  height: 9px;
  border-radius: 50%;
  border: 1.5px solid currentColor;
}
.begun .lamp {
  background: var(--marigold);
  border-color: var(--marigold);
}
.done .lamp {
  background: #7fb062;
  border-color: #7fb062;
}
</style>
