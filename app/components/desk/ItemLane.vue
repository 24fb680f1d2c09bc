<script setup lang="ts">
import { laneBars } from '#core/time/lane-clusters'
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
import { ROW, ROWS, type ItemLaneKind, type LaneItem } from '~/utils/lanes'

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
/** Items narrower than this, px, are not told apart where they touch; those that are apart by more than `GAP` do not. */
const LEAST = 4
const GAP = 2
interface Seen {
  item: LaneItem
  i: number
  x: number
  width: number
  row: number
}
const seen = computed<Seen[]>(() => {
  const { from, width } = line.view.value
  return props.items.flatMap((item, i) => {
    const x = line.px(item.from)
    const w = isInstant(item) ? 0 : line.px(item.to) - x
    return x + w < from - 20 || x > from + width + 20 ? [] : [{ item, i, x, width: w, row: props.rows[i] ?? 0 }]
  })
})
/** What is told apart, and bars of what is not; folded, a lane is nothing but bars. */
const bars = computed(() => {
  const crowds: { x: number; width: number; row: number }[] = []
  const alone: Seen[] = []
  const rowsOf = props.folded
    ? [seen.value]
    : Array.from({ length: ROWS }, (_, r) => seen.value.filter((p) => p.row === r))
  for (const [row, own] of rowsOf.entries())
    for (const { x, width, only } of laneBars(own, props.folded ? Infinity : LEAST, GAP)) {
      const one = only === null ? undefined : own[only]
      if (one && !props.folded) alone.push(one)
      else crowds.push({ x, width, row })
    }
  return { crowds, alone: alone.sort((p, q) => p.i - q.i) }
})
const placed = computed(() => bars.value.alone.map((p) => ({ ...p, lost: isLost(p.item), on: chosen.has(p.item.ref) })))
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
    <span
      v-for="b in bars.crowds"
      :key="`${b.x} ${b.row}`"
      class="crowd"
      :style="{
        left: `${b.x}px`,
        width: `${Math.max(2, b.width)}px`,
        ...(folded ? {} : { top: `${3 + ROW * b.row}px` }),
      }"
    />
    <HeldItems :lane="lane" :items="seen" />
    <template v-for="p in placed" :key="p.item.ref.id">
      <button
        :id="`lane-${p.item.ref.id}`"
        type="button"
        class="item"
        :class="{ instant: isInstant(p.item), on: p.on, lost: p.lost, held: line.isHeld(p.item.ref) }"
        :tabindex="p.item.ref.id === reached ? 0 : -1"
        :aria-pressed="p.on"
        :style="{
          left: `${p.x}px`,
          ...(isInstant(p.item) ? {} : { width: `${Math.max(3, p.width - 1)}px` }),
          top: `${3 + ROW * p.row}px`,
        }"
        :title="p.item.says"
        :aria-label="describe(p)"
        @pointerdown="choose($event, p.item, null)"
        @click="open(p.item)"
        @keydown="press($event, p.item)"
      >
        <span v-if="p.width > 34 || isInstant(p.item)">{{
          lane.key === 'questions' ? (p.lost ? '!' : '?') : p.item.says
        }}</span>
      </button>
      <template v-if="p.on && !isInstant(p.item)">
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
          :aria-valuetext="desk.sayTime(p.item[edge], 2)"
          :style="{ left: `${edge === 'from' ? p.x : p.x + p.width - 8}px`, top: `${3 + ROW * p.row}px` }"
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
/* What was taken out since lies on a seam. */
.compared .item {
  z-index: 4;
  min-width: 10px;
  background: #fbf3d8;
  border: 1px dashed #b58a16;
  color: #4a3b07;
  cursor: pointer;
}
.compared .instant {
  border-width: 0 0 0 3px;
  border-radius: 0 4px 4px 0;
  max-width: 160px;
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
.item.held {
  opacity: 0.35;
}
.crowd {
  position: absolute;
  height: 23px;
  border-radius: 3px;
  background: #b9ccd0;
}
.over .crowd {
  background: #d6c48c;
}
.folded .crowd {
  top: 3px;
  height: 8px;
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
