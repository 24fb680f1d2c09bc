<script setup lang="ts">
import { Scissors } from 'lucide-vue-next'
import { isTidied as isEditTidied } from '#core/edit/edit'
import { totalLength } from '#core/time/ranges'
import { sayDuration } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { useDesk } from '~/stores/desk'

const desk = useDesk()
const from = ref(0)
const to = ref(0)
watch(
  () => desk.selection,
  (s) => {
    if (s) {
      from.value = s.from
      to.value = s.to
    }
  },
)
// What is before the first instant that is kept is out already.
watch(
  () => desk.map.kept[0]?.from ?? 0,
  (start) => {
    from.value = Math.max(from.value, start)
    to.value = Math.max(to.value, start)
  },
  { immediate: true },
)
const { found, proposals } = useProposals()
const { pending } = found
const hasSound = computed(() => desk.recording?.feeds.some((f) => f.kind === 'sound') ?? false)
const isTidied = computed(() => desk.edit !== null && isEditTidied(desk.edit))
const takenOut = computed(() => totalLength(desk.map.removed))
const select = () => {
  if (to.value > from.value) desk.selection = { from: recorded(from.value), to: recorded(to.value) }
}
watch([from, to], select)
async function takeOut(): Promise<void> {
  if (await desk.remove(from.value, to.value)) desk.selection = null
}
</script>

<template>
  <div class="sheet">
    <el-tabs v-model="desk.tab" class="tabs">
      <el-tab-pane name="edits" label="Cut">
        <div class="block">
          <h2>Take out</h2>
          <p class="quiet">Drag over the sound, or type. The recording stays as it is.</p>
          <div class="row">
            <DeskTimeField v-model="from" label="From" /><DeskTimeField v-model="to" label="To" end />
            <el-button type="primary" class="low" :disabled="to <= from" @click="takeOut"
              ><Scissors :size="15" aria-hidden="true" /> Take out</el-button
            >
          </div>
          <p v-if="to > 0 && to <= from" class="notice bad" role="alert">“To” must be later than “From”.</p>
          <p class="small">
            <el-button link @click="from = desk.recordedTime">From the playhead</el-button>
            <el-button link @click="to = desk.recordedTime">To the playhead</el-button>
          </p>
          <p v-if="desk.problem" class="notice bad" role="alert">{{ desk.problem }}</p>
        </div>
        <ConflictNotice kind="edit" />
        <HistoryList kind="edit" label="List of edits" origin="The recording as it was made">
          <el-button :disabled="!isTidied" @click="desk.command({ do: 'restore-all' })">Back to the original</el-button>
          <template #sum>
            <p class="quiet sum">
              {{
                takenOut > 0.01
                  ? `${sayDuration(takenOut)} taken out; ${sayDuration(desk.map.length)} are left.`
                  : 'Nothing is taken out.'
              }}
            </p>
          </template>
        </HistoryList>
      </el-tab-pane>
      <el-tab-pane name="transcript" label="Transcript" lazy><TranscriptSheet /></el-tab-pane>
      <el-tab-pane name="proposed" :label="proposals.length ? `Proposed (${proposals.length})` : 'Proposed'">
        <ProposedSheet :proposals="proposals" :has-sound="hasSound" :pending="pending" @leave="found.leave" />
      </el-tab-pane>
      <el-tab-pane name="put-in" label="Put in" lazy><PutInSheet /></el-tab-pane>
      <el-tab-pane name="over" label="Lay over" lazy><OverSheet /></el-tab-pane>
      <el-tab-pane name="layout" label="Layout" lazy><LayoutSheet /></el-tab-pane>
      <el-tab-pane name="sound" label="Sound" lazy><SoundSheet :found="found" :has-sound="hasSound" /></el-tab-pane>
      <el-tab-pane name="chapters" label="Chapters" lazy><ChapterSheet /></el-tab-pane>
      <el-tab-pane name="links" label="Links" lazy><LinkSheet /></el-tab-pane>
    </el-tabs>
  </div>
</template>

<style scoped>
.sheet,
.tabs {
  height: 100%;
}
.tabs {
  display: flex;
  flex-direction: column;
}
.tabs :deep(.el-tabs__content) {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
.tabs :deep(#pane-transcript) {
  height: 100%;
}
/* There are more of them than stand in one line. */
.tabs :deep(:is(.el-tabs__nav-wrap, .el-tabs__nav-scroll)) {
  overflow: visible;
  padding: 0;
}
.tabs :deep(.el-tabs__nav) {
  float: none;
  flex-wrap: wrap;
  gap: 2px;
  transform: none !important;
  padding-bottom: 6px;
}
.tabs :deep(:is(.el-tabs__active-bar, .el-tabs__nav-prev, .el-tabs__nav-next)) {
  display: none;
}
.tabs :deep(.el-tabs__item) {
  padding: 0 10px !important;
  height: 32px;
  border-radius: var(--control-radius);
}
.tabs :deep(.el-tabs__item.is-active) {
  background: var(--tarn-wash);
}
.block {
  margin-bottom: 16px;
}
.row {
  display: flex;
  gap: 8px;
  align-items: start;
  flex-wrap: wrap;
}
/* Beside the fields, under whose labels and over whose recorded times it stands. */
.row .el-button {
  margin: 17px 0 0;
}
.notice {
  margin: 8px 0 0;
}
.small {
  margin: 6px 0 0;
}
.sum {
  margin: 10px 0 4px;
}
.quiet {
  margin-bottom: 6px;
}
</style>
