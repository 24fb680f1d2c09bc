<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { Film, Image, Type as CardIcon, Undo2 } from 'lucide-vue-next'
import { formatTimecode, sayDuration } from '#core/time/timecode'
import { recorded, result, type RecordedRange } from '#core/time/units'
import type { ItemRef } from '#core/documents/items'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { timeLineKey } from '~/composables/use-time-line'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

/** What the edit takes out and puts in, across the lanes: seams, what is put in, and the handles at both ends. */
defineProps<{ trims: boolean }>()
const desk = useDesk()
const chosen = useChosen()
const media = injectStrict(scriptPlayerKey)
const line = injectStrict(timeLineKey)
const say = useAssetNames()
/** Least widths for words and for a sign of what it is, px. */
const WORDS = 84
const ICON = 18
const icons = { card: CardIcon, picture: Image, video: Film }

/** The cut whose edge a seam's edge is. */
const cutAt = (r: RecordedRange, edge: 'from' | 'to') => desk.cutsOf(r).find((c) => Math.abs(c[edge] - r[edge]) < 1e-6)
const seen = computed(() => {
  const { from, width } = line.view.value
  return line.axis.value.pieces.filter((p) => p.x + p.width >= from && p.x <= from + width)
})
const seams = computed(() =>
  seen.value
    .filter((p) => p.kind === 'seam' || p.kind === 'opened')
    .map((p) => ({
      ...p,
      id: line.idOf(p),
      edges: { from: cutAt(p, 'from')?.id ?? '', to: cutAt(p, 'to')?.id ?? '' },
    })),
)
const inserts = computed(() =>
  seen.value.flatMap((piece) => {
    const insert = piece.kind === 'insert' && desk.edit?.inserts.find((i) => i.id === piece.id)
    const ref: ItemRef = { kind: 'edit', list: 'inserts', id: piece.id }
    return insert ? [{ ...piece, ref, says: say(insert.what), what: insert.what.kind, on: chosen.has(ref) }] : []
  }),
)

async function edgeKey(event: KeyboardEvent, id: string, edge: 'from' | 'to'): Promise<void> {
  const by = line.nudge(event)
  const range = desk.edit?.removed.find((r) => r.id === id)
  if (by === null || !range) return
  stop(event)
  await desk.command({ do: 'move-edge', id, edge, at: recorded(Math.max(0, range[edge] + by)) })
}
async function trimKey(event: KeyboardEvent, where: 'start' | 'end'): Promise<void> {
  const by = line.nudge(event)
  const kept = where === 'start' ? desk.map.kept[0] : desk.map.kept.at(-1)
  if (by === null || !kept) return
  stop(event)
  if (where === 'start' && by > 0) await desk.trim('start', recorded(kept.from + by))
  if (where === 'end' && by < 0) await desk.trim('end', recorded(kept.to + by))
}
const isDelete = (event: KeyboardEvent) => event.key === 'Delete' || event.key === 'Backspace'
async function seamKey(event: KeyboardEvent, seam: RecordedRange): Promise<void> {
  if (!isDelete(event)) return
  stop(event)
  await desk.putBack(seam)
}
async function insertKey(event: KeyboardEvent, { ref, at }: { ref: ItemRef; at: number }): Promise<void> {
  const by = line.nudge(event)
  const insert = desk.edit?.inserts.find((i) => i.id === ref.id)
  if (by !== null && insert) {
    stop(event)
    chosen.choose(ref)
    const to = recorded(Math.min(desk.map.duration, Math.max(0, insert.at + by)))
    await chosen.place(() => ({ from: to, to }), chosen.items, `place ${ref.id}`)
  } else if (event.key === 'Enter') {
    chosen.choose(ref)
    media.seek(result(at))
  } else if (isDelete(event)) {
    stop(event)
    chosen.choose(ref)
    await chosen.drop()
  }
}
function stop(event: Event): void {
  event.preventDefault()
  event.stopPropagation()
}
function pin(id: string): void {
  const next = new Set(line.pinned.value)
  if (!next.delete(id)) next.add(id)
  line.pinned.value = next
}
/** A seam opens under a pointer that rests on it, ms; what passes over seams leaves the line as it is. */
const REST = 250
const rest = useTimeoutFn(
  (id: string) => {
    if (!line.drag.value) line.hovered.value = id
  },
  REST,
  { immediate: false },
)
function leave(): void {
  rest.stop()
  if (!line.drag.value) line.hovered.value = null
}
</script>

<template>
  <button
    v-for="i in inserts"
    :key="i.id"
    type="button"
    class="insert"
    :class="{ on: i.on }"
    :style="{ left: `${i.x}px`, width: `${i.width}px` }"
    :title="i.says"
    :aria-label="`${i.says}, put in at ${formatTimecode(i.at)}, ${sayDuration(i.length)}. Delete drops it.`"
    :aria-pressed="i.on"
    @pointerdown="line.beginItem($event, i.ref, null, () => line.seekAt($event))"
    @keydown="insertKey($event, i)"
  >
    <template v-if="i.width > WORDS">{{ i.says }}</template><component
      :is="icons[i.what]"
      v-else-if="i.width > ICON"
      :size="14"
      aria-hidden="true"
    />
  </button>
  <div
    v-for="s in seams"
    :key="s.id"
    class="seam"
    :class="s.kind"
    :style="{ left: `${s.x}px`, width: `${s.width}px` }"
    @pointerenter="rest.start(s.id)"
    @pointerleave="leave"
  >
    <button
      type="button"
      class="fold"
      :aria-expanded="s.kind === 'opened'"
      :aria-label="`Removed part of ${sayDuration(s.to - s.from)}. Enter opens it, Delete puts it back.`"
      @click="pin(s.id)"
      @keydown="seamKey($event, s)"
    >
      <span v-if="s.width > 90" class="out">{{ sayDuration(s.to - s.from) }} out</span>
    </button>
    <template v-if="s.kind === 'opened'">
      <span
        v-for="edge in ['from', 'to'] as const"
        :key="edge"
        class="edge"
        :class="edge"
        role="slider"
        tabindex="0"
        :aria-label="edge === 'from' ? 'Start of the removed part' : 'End of the removed part'"
        :aria-valuemin="0"
        :aria-valuemax="Math.round(desk.map.duration)"
        :aria-valuenow="Math.round(s[edge])"
        :aria-valuetext="`recorded ${formatTimecode(s[edge], 2)}`"
        @pointerdown="line.begin($event, { kind: 'cut', id: s.edges[edge], edge })"
        @keydown="edgeKey($event, s.edges[edge], edge)"
      />
      <button
        type="button"
        class="back"
        :class="{ narrow: s.width < WORDS }"
        aria-label="Put back"
        title="Put back"
        @click="desk.putBack(s)"
      >
        <Undo2 v-if="s.width < WORDS" :size="14" aria-hidden="true" /><template v-else>Put back</template>
      </button>
    </template>
  </div>
  <template v-if="trims && desk.map.kept.length">
    <span
      v-for="end in ['start', 'end'] as const"
      :key="end"
      class="trim"
      :class="end"
      role="slider"
      tabindex="0"
      :aria-label="`Trim the ${end}`"
      :aria-valuemin="0"
      :aria-valuemax="Math.round(desk.map.duration)"
      :aria-valuenow="Math.round((end === 'start' ? desk.map.kept[0]?.from : desk.map.kept.at(-1)?.to) ?? 0)"
      :aria-valuetext="`recorded ${formatTimecode((end === 'start' ? desk.map.kept[0]?.from : desk.map.kept.at(-1)?.to) ?? 0, 2)}`"
      :style="{
        left: `${end === 'start' ? line.px(desk.map.kept[0]?.from ?? 0) : line.px((desk.map.kept.at(-1)?.to ?? 0) - 0.0001) - 9}px`,
      }"
      @pointerdown="line.begin($event, { kind: 'trim', end })"
      @keydown="trimKey($event, end)"
    />
  </template>
</template>

<style scoped>
.insert {
  position: absolute;
  top: 24px;
  bottom: 0;
  z-index: 2;
  border: 0;
  border-inline: 1px solid #7f9aa0;
  background: var(--tarn-wash);
  color: var(--tarn-deep);
  font-size: 13px;
  text-align: left;
  padding: 2px 0;
  text-indent: 8px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  cursor: grab;
}
.insert svg {
  margin-left: calc(50% - 7px);
}
.insert.on {
  box-shadow: inset 0 0 0 2px var(--marigold);
}
.seam {
  position: absolute;
  top: 24px;
  bottom: 0;
  z-index: 2;
}
.seam button:focus-visible {
  outline-offset: -3px;
}
.fold {
  position: absolute;
  inset: 0;
  border: 0;
  border-inline: 1px solid #c98f88;
  background: repeating-linear-gradient(135deg, rgb(178 58 46 / 16%) 0 4px, rgb(249 236 234 / 88%) 4px 9px);
  cursor: pointer;
  color: #7d261d;
  font-size: 13px;
  padding: 0;
  overflow: hidden;
  white-space: nowrap;
}
.opened .fold {
  background: repeating-linear-gradient(135deg, rgb(178 58 46 / 14%) 0 5px, rgb(249 236 234 / 60%) 5px 11px);
  padding-bottom: 60px;
}
.out {
  background: var(--paper);
  border-radius: 4px;
  padding: 1px 6px;
}
.edge {
  position: absolute;
  inset-block: 0;
  width: 9px;
  background: var(--ember);
  cursor: ew-resize;
  z-index: 3;
}
.edge.from {
  left: 0;
  border-radius: 4px 0 0 4px;
}
.edge.to {
  right: 0;
  border-radius: 0 4px 4px 0;
}
.back.narrow {
  display: grid;
  padding: 3px;
}
.back {
  position: absolute;
  left: 50%;
  bottom: 34px;
  transform: translateX(-50%);
  border: 1px solid var(--ember);
  background: var(--paper);
  color: #7d261d;
  border-radius: 6px;
  padding: 1px 9px;
  font-size: 13px;
  cursor: pointer;
  z-index: 3;
  white-space: nowrap;
}
.trim {
  position: absolute;
  top: calc(24px + var(--pictures));
  height: var(--sound);
  width: 9px;
  background: var(--tarn);
  cursor: ew-resize;
  z-index: 3;
}
.trim.start {
  border-radius: 0 6px 6px 0;
}
.trim.end {
  border-radius: 6px 0 0 6px;
}
</style>
