<script setup lang="ts">
import { projectRange, toResult } from '#core/time/time-map'
import { formatTimecode, sayDuration } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { clampShift, rangeOf, shifted, withEdge } from '#core/documents/items'
import { frameLength } from '#core/time/frames'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { timeLineKey } from '~/composables/use-time-line'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'
import { ROW, type ItemLaneKind, type LaneItem } from '~/utils/lanes'

/** Items of one kind on the time line: chosen, moved and pulled by their edges. Draws only what is seen. */
const props = defineProps<{
  lane: ItemLaneKind
  items: readonly LaneItem[]
  /** The row of each. */
  rows: readonly number[]
  folded: boolean
  /** px */
  height: number
}>()
const emit = defineEmits<{ open: [item: LaneItem] }>()
const desk = useDesk()
const chosen = useChosen()
const media = injectStrict(scriptPlayerKey)
const line = injectStrict(timeLineKey)
const isInstant = ({ item }: LaneItem) => 'at' in item
const isLost = (item: LaneItem) =>
  isInstant(item)
    ? toResult(desk.map, recorded(item.from)).kind === 'removed'
    : projectRange(desk.map, { from: recorded(item.from), to: recorded(item.to) }).pieces.length === 0
const placed = computed(() => {
  const { from, width } = line.view.value
  return props.items.flatMap((item, i) => {
    const range = line.shown(item.ref, { from: recorded(item.from), to: recorded(item.to) })
    const x = line.px(range.from)
    const w = isInstant(item) ? 0 : line.px(range.to) - x
    if (x + w < from - 20 || x > from + width + 20) return []
    const row = props.rows[i] ?? 0
    return [{ item, i, x, w, row, range, lost: isLost(item), on: chosen.has(item.ref) }]
  })
})
/** The one that the tab key comes to: the last that was chosen, or the first that is seen. */
const reached = computed(() => (placed.value.find((p) => p.on) ?? placed.value[0])?.item.ref.id)

function describe({ item, i, lost }: { item: LaneItem; i: number; lost: boolean }): string {
  const at = formatTimecode(toResult(desk.map, recorded(item.from)).at)
  const what = `${props.lane.one} ${i + 1} at ${at}`
  const says = item.says === props.lane.one ? '' : `: ${item.says}`
  const length = isInstant(item) ? '' : `, ${sayDuration(item.to - item.from)}`
  return `${what}${says}${length}${lost ? ', inside a removed part' : ''}`
}

function choose(event: PointerEvent, item: LaneItem, edge: 'from' | 'to' | null): void {
  ;(event.currentTarget as HTMLElement).focus()
  if (props.lane.isMovable) line.beginItem(event, item.ref, edge, () => edge ?? open(item))
  else event.stopPropagation()
}

async function press(event: KeyboardEvent, item: LaneItem): Promise<void> {
  const by = line.nudge(event)
  if (by !== null && props.lane.isMovable) {
    stop(event)
    if (!chosen.has(item.ref)) chosen.choose(item.ref)
    const fits = clampShift(
      chosen.items.map((c) => rangeOf(c.item)),
      by,
      desk.map.duration,
    )
    await chosen.place((r) => shifted(r, fits), chosen.items, `place ${item.ref.id}`)
  } else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    stop(event)
    const next = props.items[props.items.indexOf(item) + (event.key === 'ArrowDown' ? 1 : -1)]
    if (!next) return
    if (props.lane.isMovable) chosen.choose(next.ref, event.shiftKey)
    media.seekRecorded(recorded(next.from))
    await nextTick()
    document.getElementById(`lane-${next.ref.id}`)?.focus()
  } else if ((event.key === 'Delete' || event.key === 'Backspace') && props.lane.isMovable) {
    stop(event)
    if (!chosen.has(item.ref)) chosen.choose(item.ref)
    await chosen.drop()
  } else if (event.key === 'Enter' || event.key === ' ') {
    stop(event)
    if (props.lane.isMovable) chosen.choose(item.ref, event.ctrlKey || event.shiftKey)
    open(item)
  }
}
async function pressEdge(event: KeyboardEvent, item: LaneItem, edge: 'from' | 'to'): Promise<void> {
  const by = line.nudge(event)
  if (by === null) return
  stop(event)
  const at = Math.min(desk.map.duration, item[edge] + by)
  const least = frameLength(desk.edit?.frameRate ?? 0)
  await chosen.place((r) => withEdge(r, edge, at, least), [{ ref: item.ref, item: item.item }], `place ${item.ref.id}`)
}
function stop(event: Event): void {
  event.preventDefault()
  event.stopPropagation()
}
function open(item: LaneItem): void {
  const t = recorded(item.from)
  const now = desk.recordedTime
  // Where it is seen already the playhead stays.
  if (isInstant(item) || now < item.from || now >= item.to) media.seekRecorded(t)
  emit('open', item)
}
</script>

<template>
  <div
    class="lane items"
    :class="[lane.key, { folded }]"
    role="group"
    :aria-label="`${lane.name} on the time line`"
    :style="{ height: `${height}px` }"
  >
    <template v-for="p in placed" :key="p.item.ref.id">
      <button
        :id="`lane-${p.item.ref.id}`"
        type="button"
        class="item"
        :class="{ instant: isInstant(p.item), on: p.on, lost: p.lost }"
        :tabindex="p.item.ref.id === reached ? 0 : -1"
        :aria-pressed="p.on"
        :style="{
          left: `${p.x}px`,
          ...(isInstant(p.item) ? {} : { width: `${Math.max(3, p.w - 1)}px` }),
          ...(folded ? {} : { top: `${3 + ROW * p.row}px` }),
        }"
        :title="p.item.says"
        :aria-label="describe(p)"
        @pointerdown="choose($event, p.item, null)"
        @click="open(p.item)"
        @keydown="press($event, p.item)"
      >
        <span v-if="!folded && (p.w > 34 || isInstant(p.item))">{{
          lane.key === 'questions' ? (p.lost ? '!' : '?') : p.item.says
        }}</span>
      </button>
      <template v-if="p.on && !isInstant(p.item) && !folded">
        <span
          v-for="edge in ['from', 'to'] as const"
          :key="edge"
          class="grip"
          role="slider"
          tabindex="0"
          :aria-label="`${edge === 'from' ? 'Start' : 'End'} of ${p.item.says}`"
          :aria-valuemin="0"
          :aria-valuemax="Math.round(desk.map.duration)"
          :aria-valuenow="Math.round(p.item[edge])"
          :aria-valuetext="formatTimecode(p.item[edge], 2)"
          :style="{ left: `${edge === 'from' ? p.x : p.x + p.w - 8}px`, top: `${3 + ROW * p.row}px` }"
          @pointerdown="choose($event, p.item, edge)"
          @keydown="pressEdge($event, p.item, edge)"
        />
      </template>
    </template>
  </div>
</template>

<style scoped>
.lane {
  position: relative;
  border-bottom: 1px solid var(--hairline);
}
.folded {
  overflow: hidden;
}
.item {
  position: absolute;
  height: 23px;
  padding: 0 5px;
  border: 1px solid #b9ccd0;
  background: var(--tarn-wash);
  color: var(--tarn-deep);
  border-radius: 4px;
  font-size: 12px;
  line-height: 20px;
  text-align: left;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  cursor: grab;
  touch-action: none;
}
.captions .item {
  cursor: pointer;
}
.item.on {
  border-color: var(--tarn);
  box-shadow: 0 0 0 2px var(--marigold);
  z-index: 1;
}
.item.lost {
  background: #f9ecea;
  border-color: #c98f88;
  color: #7d261d;
}
.over .item {
  background: #f3ecd7;
  border-color: #d6c48c;
  color: #4a3b07;
}
.layout .item {
  background: #e6eee0;
  border-color: #b3c8a5;
  color: #2f4b22;
}
.chapters .instant {
  border-width: 0 0 0 3px;
  border-color: var(--tarn);
  border-radius: 0 4px 4px 0;
  max-width: 160px;
}
.questions .instant {
  width: 23px;
  margin-left: -12px;
  padding: 0;
  border-radius: 50%;
  border: 2px solid #fff;
  background: var(--tarn);
  color: #fff;
  font-weight: 700;
  text-align: center;
  line-height: 1;
  z-index: 3;
  box-shadow: 0 0 0 1px var(--tarn);
}
.questions .instant.on {
  box-shadow: 0 0 0 3px var(--marigold);
}
.questions .instant.lost {
  background: var(--ember);
  box-shadow: 0 0 0 1px var(--ember);
}
.folded .item {
  top: 2px;
  height: 9px;
  padding: 0;
}
.folded .instant {
  width: 9px;
  min-width: 0;
}
.grip {
  position: absolute;
  width: 8px;
  height: 23px;
  background: var(--tarn);
  border-radius: 3px;
  cursor: ew-resize;
  touch-action: none;
  z-index: 2;
}
</style>
