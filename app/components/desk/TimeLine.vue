<script setup lang="ts">
import { max } from 'd3-array'
import { useLocalStorage } from '@vueuse/core'
import { ChevronDown, ChevronRight, LocateFixed, Rows3, X, ZoomIn, ZoomOut } from 'lucide-vue-next'
import { pieceAt } from '#core/edit/edit'
import { sayFeed, soundOf } from '#core/record/recording'
import { pictureIds } from '#core/render/script'
import { joinPeaks } from '#core/sound/peaks'
import { laneRows } from '#core/time/lane-rows'
import { db } from '~/db/database'
import { SIDE, timeLineKey, useTimeLine } from '~/composables/use-time-line'
import { stopsKey } from '~/composables/use-stops'
import { useChosen } from '~/stores/chosen'
import { changesSince } from '~/services/revisions'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'
import { itemLanes, ROW, ROWS, type LaneItem, type LaneKey } from '~/utils/lanes'

/** The time line: a ruler, and a lane for each thing that stands on it. */
const props = defineProps<{ step: string }>()
const emit = defineEmits<{ open: [lane: LaneKey, item: LaneItem] }>()
const desk = useDesk()
const chosen = useChosen()
const viewport = useTemplateRef<HTMLElement>('viewport')
const line = useTimeLine(viewport, injectStrict(stopsKey))
provide(timeLineKey, line)
/** What overlaps by less, s, stands on one row. */
const SLACK = 0.1
/** Heights of the lanes that hold no items, px. */
const HEIGHT = { pictures: 42, sound: 76, folded: 14 }

const peaks = useLive(async () => {
  const { recording } = desk
  const rows = await db.peaks.bulkGet(recording?.takes.map((t) => t.id) ?? [])
  return joinPeaks(
    rows.flatMap((row) => {
      const sound = recording && row && soundOf(recording, row.takeId)
      return row && sound ? [{ levels: row.levels, from: sound.offset }] : []
    }),
  )
}, [() => desk.recording])
/** Coarse peaks of long sounds, as long as the fine ones are being made. */
const coarse = useLive(async () => {
  const { recording } = desk
  const rows = await db.peaks.bulkGet(recording?.takes.map((t) => t.id) ?? [])
  return rows.flatMap((row) => {
    const sound = recording && row && soundOf(recording, row.takeId)
    return row?.coarse && sound ? [{ level: row.coarse, from: sound.offset }] : []
  })
}, [() => desk.recording])
const hasSound = computed(() => desk.recording?.feeds.some((f) => f.kind === 'sound') ?? false)

/** Lanes that a person has folded or opened, by step. */
const folds = useLocalStorage<Record<string, boolean>>('thaw-lanes', {})
interface Lane {
  key: string
  name: string
  folded: boolean
  /** Whether it is there at all: one without anything on it is not, until it is asked for. */
  shown: boolean
  /** px */
  height: number
}
/** @param height while it is open, px */
const laneOf = (key: string, name: string, height: number, usual: 'open' | 'folded' | 'away'): Lane => {
  const wanted = folds.value[`${props.step} ${key}`]
  const folded = !(wanted ?? usual === 'open')
  return { key, name, folded, shown: usual !== 'away' || wanted === true, height: folded ? HEIGHT.folded : height }
}
function fold({ key, folded }: Pick<Lane, 'key' | 'folded'>): void {
  folds.value = { ...folds.value, [`${props.step} ${key}`]: folded }
}
const pictures = computed(() =>
  pictureIds(desk.recording?.feeds ?? []).map((id, i) => ({
    id,
    label: desk.recording?.feeds.find((f) => f.id === id)?.label ?? id,
    lane: laneOf(`pictures ${id}`, i === 0 ? 'Pictures' : sayFeed(id), HEIGHT.pictures, i === 0 ? 'open' : 'folded'),
  })),
)
const sound = computed(() => laneOf('sound', 'Sound', HEIGHT.sound, 'open'))
const items = computed(() =>
  itemLanes.map((kind) => {
    const found = kind.items(desk)
    const isOwn =
      kind.step === '' ? found.length > 0 : kind.step === props.step && (kind.step !== 'tidied' || found.length > 0)
    const usual = isOwn ? 'open' : found.length > 0 ? 'folded' : 'away'
    const rows = laneRows(found, SLACK).map((r) => Math.min(ROWS - 1, r))
    const height = 4 + ROW * Math.max(1, max(rows, (r) => r + 1) ?? 1)
    return { kind, found, rows, lane: laneOf(kind.key, kind.name, height, usual) }
  }),
)
// What was changed is told anew with each further change, and no longer once the revision is gone.
const comparedId = computed(() => desk.compared?.id ?? '')
const since = useLive(() => changesSince(comparedId.value), [comparedId])
watch(since, (found) => {
  if (found !== undefined && desk.compared) desk.compared = found && { ...desk.compared, found }
})
const lanes = computed(() => [...pictures.value.map((p) => p.lane), sound.value, ...items.value.map((i) => i.lane)])
/** Those that a person may open or put away; what is compared is there for as long as it is. */
const choices = computed(() => lanes.value.filter((l) => l.key !== 'compared' || desk.compared))
const picturesHeight = computed(() => pictures.value.reduce((sum, p) => sum + p.lane.height, 0))

/** The slider's steps are even to the eye: each is as many times finer as the one before. */
const zoomStep = computed({
  get: () => Math.round((100 * Math.log(line.zoom.value)) / Math.log(line.finest.value)),
  set: (step) => line.setZoom(line.finest.value ** (step / 100)),
})
// The lane that is worked with is seen.
watch([() => desk.tab, () => props.step], async () => {
  await nextTick()
  viewport.value?.querySelector(`.items.${desk.tab}`)?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
})
/** Whoever captures the pointer is pressed twice; what counts is the lane under it. */
function choosePiece(event: MouseEvent): void {
  const lane = viewport.value?.querySelector('.lane.sound')?.getBoundingClientRect()
  if (lane && event.clientY >= lane.top && event.clientY < lane.bottom && desk.edit)
    desk.selection = pieceAt(desk.edit, line.timeAt(event))
}
const laneLabel = ({ name, folded }: Lane) => `${name}: ${folded ? 'open' : 'fold'} the lane`
defineExpose({ zoomBy: (factor: number) => line.setZoom(line.zoom.value * factor) })
</script>

<template>
  <section class="line surface" aria-label="Time line">
    <div
      ref="viewport"
      class="viewport"
      @pointermove="line.move"
      @pointerup="line.end"
      @pointercancel="line.cancel"
      @dblclick="choosePiece"
    >
      <div class="side" :style="{ width: `${SIDE}px` }">
        <div class="tools">
          <el-popover trigger="click" placement="top-start" :width="190">
            <template #reference>
              <button type="button" aria-label="Lanes"><Rows3 :size="15" /></button>
            </template>
            <p v-for="l in choices" :key="l.key" class="pick">
              <el-checkbox :model-value="l.shown && !l.folded" @update:model-value="fold({ ...l, folded: !!$event })">{{
                l.name
              }}</el-checkbox>
            </p>
          </el-popover>
          <button
            type="button"
            aria-label="Follow the playhead"
            title="Follow the playhead"
            :aria-pressed="line.follows.value"
            @click="line.follows.value = !line.follows.value"
          >
            <LocateFixed :size="15" />
          </button>
        </div>
        <template v-for="l in lanes" :key="l.key">
          <button
            v-if="l.shown"
            type="button"
            class="name"
            :class="{ folded: l.folded }"
            :style="{ height: `${l.height}px` }"
            :aria-label="laneLabel(l)"
            :aria-expanded="!l.folded"
            @click="fold({ key: l.key, folded: l.folded })"
          >
            <component :is="l.folded ? ChevronRight : ChevronDown" :size="12" aria-hidden="true" /> {{ l.name }}
          </button>
        </template>
      </div>
      <div
        class="track"
        :style="{
          width: `${line.axis.value.width}px`,
          '--pictures': `${picturesHeight}px`,
          '--sound': `${sound.height}px`,
        }"
      >
        <TimeRuler />
        <div
          v-for="p in pictures"
          :key="p.id"
          class="lane pictures"
          :style="{ height: `${p.lane.height}px` }"
          @pointerdown="line.seekAt($event)"
        >
          <PictureLane v-if="!p.lane.folded" :feed="p.id" :is-main="p === pictures[0]" />
        </div>
        <div
          class="lane sound"
          :class="{ folded: sound.folded }"
          :style="{ height: `${sound.height}px` }"
          @pointerdown="line.begin($event, { kind: 'select', from: line.timeAt($event) })"
        >
          <WaveForm
            v-if="peaks?.length || coarse?.length"
            :levels="peaks ?? []"
            :coarse="coarse ?? []"
            :axis="line.axis.value"
            :scale="line.scale.value"
            :from="line.view.value.from"
            :width="line.view.value.width"
            :height="sound.height - 1"
          />
          <p v-else class="quiet none">{{ hasSound ? 'The waveform is being drawn …' : 'No sound' }}</p>
          <span
            v-if="desk.selection"
            class="selection"
            :style="{
              left: `${line.px(desk.selection.from)}px`,
              width: `${line.px(desk.selection.to) - line.px(desk.selection.from)}px`,
            }"
          />
        </div>
        <template v-for="i in items" :key="i.kind.key">
          <ItemLane
            v-if="i.lane.shown"
            :lane="i.kind"
            :items="i.found"
            :rows="i.rows"
            :folded="i.lane.folded"
            :height="i.lane.height"
            @open="emit('open', i.kind.key, $event)"
          />
        </template>
        <SeamMarks :trims="step === 'tidied'" />
        <LineMarks />
      </div>
    </div>
    <div class="strip">
      <button
        v-if="desk.compared"
        type="button"
        class="since"
        :aria-label="`Changed since “${desk.compared.name}”: stop comparing`"
        title="Stop comparing"
        @click="desk.compared = null"
      >
        Changed since “{{ desk.compared.name }}” <X :size="13" aria-hidden="true" />
      </button>
      <template v-if="chosen.items.length">
        <span class="says">{{ chosen.say(chosen.items) }}</span>
        <button type="button" @click="chosen.duplicate()">Once more</button>
        <button type="button" @click="chosen.drop()">Drop</button>
      </template>
      <span v-else-if="desk.selection" class="says mono"
        >{{ desk.sayTime(desk.selection.from, 2) }} – {{ desk.sayTime(desk.selection.to, 2) }}</span
      >
      <span class="grow" />
      <button type="button" aria-label="Zoom out" @click="line.setZoom(line.zoom.value / 2)">
        <ZoomOut :size="15" />
      </button>
      <input v-model.number="zoomStep" type="range" min="0" max="100" aria-label="Zoom" @keydown.stop />
      <button type="button" aria-label="Zoom in" @click="line.setZoom(line.zoom.value * 2)">
        <ZoomIn :size="15" />
      </button>
    </div>
  </section>
</template>

<style scoped>
.line {
  position: relative;
  display: flex;
  flex-direction: column;
  overflow: hidden;
  user-select: none;
}
.viewport {
  flex: 1;
  display: grid;
  grid-template-columns: auto auto;
  justify-content: start;
  align-content: start;
  overflow: auto;
  overscroll-behavior: contain;
  /* Two fingers zoom the line, and not the page. */
  touch-action: pan-x pan-y;
  position: relative;
  scrollbar-width: thin;
}
.side {
  position: sticky;
  left: 0;
  z-index: 6;
  background: var(--paper);
  border-right: 1px solid var(--hairline);
  font-size: 14px;
  color: var(--quiet);
}
.tools,
.strip {
  display: flex;
  align-items: center;
  gap: 4px;
}
.tools {
  position: sticky;
  top: 0;
  height: 24px;
  padding-left: 8px;
  background: var(--paper);
  border-bottom: 1px solid var(--hairline);
}
.line :is(.tools, .strip) button {
  border: 0;
  background: none;
  padding: 3px;
  border-radius: 5px;
  color: var(--quiet);
  cursor: pointer;
  display: grid;
}
.tools [aria-pressed='true'] {
  background: var(--tarn-wash);
  color: var(--tarn);
}
.strip {
  flex: none;
  height: 26px;
  padding: 0 8px;
  border-top: 1px solid var(--hairline);
  font-size: 13px;
  color: var(--quiet);
}
.says {
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  color: var(--ink);
}
.line .strip .since {
  display: flex;
  align-items: center;
  gap: 4px;
  background: #f3ecd7;
  color: #4a3b07;
  padding: 1px 8px;
}
.grow {
  flex: 1;
}
.strip input {
  width: 96px;
  accent-color: var(--tarn);
}
.name {
  display: flex;
  align-items: center;
  gap: 3px;
  width: 100%;
  padding: 0 4px 0 6px;
  border: 0;
  border-bottom: 1px solid var(--hairline);
  background: none;
  color: var(--quiet);
  font-size: 13px;
  text-align: left;
  white-space: nowrap;
  overflow: hidden;
  cursor: pointer;
}
.name:focus-visible {
  outline-offset: -3px;
}
.name.folded {
  font-size: 11px;
}
.pick {
  margin: 0;
}
.lane {
  border-bottom: 1px solid var(--hairline);
  position: relative;
}
.lane.sound {
  cursor: text;
}
.lane.pictures {
  cursor: pointer;
  overflow: hidden;
}
.track {
  position: relative;
  min-height: 100%;
}
.none {
  margin: 0;
  padding: 24px 12px;
  font-size: 14px;
}
.folded .none {
  display: none;
}
.selection {
  position: absolute;
  inset-block: 0;
  background: rgb(227 160 8 / 26%);
  border-inline: 2px solid var(--marigold);
  pointer-events: none;
}
</style>
