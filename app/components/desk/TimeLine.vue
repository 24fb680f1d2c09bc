<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { ZoomIn, ZoomOut } from 'lucide-vue-next'
import { plainText } from '#core/captions/text'
import { soundOf } from '#core/record/recording'
import { joinPeaks } from '#core/sound/peaks'
import { buildAxis, pointAt, resultToPixel, tickStep, toPixel, toTime } from '#core/time/axis'
import { sayInsert } from '#core/edit/edit'
import { frameLength, snapToFrame } from '#core/time/frames'
import { toResult } from '#core/time/time-map'
import { formatTimecode, sayDuration } from '#core/time/timecode'
import { recorded, result, type RecordedRange, type RecordedTime } from '#core/time/units'
import { db } from '~/db/database'
import { useDesk } from '~/stores/desk'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'

const props = defineProps<{ step: string }>()
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const viewport = useTemplateRef<HTMLElement>('viewport')
const { width } = useElementSize(viewport)
const scrollLeft = ref(0)

const SEAM = 12
/** 1 shows the whole lecture; each step doubles. */
const zoom = ref(1)
const pinned = ref(new Set<string>())
const hovered = ref<string | null>(null)
/** A seam goes by the first of its cuts. */
const idOf = (r: RecordedRange) => desk.cutsOf(r)[0]?.id ?? ''
/** The cut whose edge a seam's edge is. */
const cutAt = (r: RecordedRange, edge: 'from' | 'to') => desk.cutsOf(r).find((c) => Math.abs(c[edge] - r[edge]) < 1e-6)
const fit = computed(() =>
  Math.max(1, (width.value - 2 - desk.map.removed.length * SEAM) / Math.max(0.1, desk.map.length)),
)
const scale = computed(() => fit.value * zoom.value)
const axis = computed(() =>
  buildAxis(desk.map, scale.value, SEAM, (r) => pinned.value.has(idOf(r)) || hovered.value === idOf(r)),
)
const px = (t: number) => toPixel(axis.value, recorded(t))
const playhead = computed(() => (desk.peek === null ? resultToPixel(axis.value, desk.time) : px(desk.peek)))

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
const has = (what: 'picture' | 'sound') =>
  desk.recording?.feeds.some((f) => (f.kind === 'sound') === (what === 'sound')) ?? false
const hasPicture = computed(() => has('picture'))

const ticks = computed(() => {
  const step = tickStep(scale.value, 84)
  const out: { x: number; label: string }[] = []
  const from = Math.max(0, scrollLeft.value - 100)
  for (const piece of axis.value.pieces) {
    if (piece.length === 0 || piece.x + piece.width < from || piece.x > scrollLeft.value + width.value + 100) continue
    const { at } = piece
    for (let t = Math.ceil(at / step - 1e-6) * step; t < at + piece.length - 1e-6; t += step)
      out.push({ x: piece.x + (t - at) * scale.value, label: formatTimecode(t, step < 1 ? 1 : 0) })
  }
  return out
})

const markers = computed(() => desk.recording?.markers.map((at) => ({ at, x: px(at) })) ?? [])
/** Where a further take begins. */
const joints = computed(
  () => desk.recording?.takes.slice(1).map((t, i) => ({ take: i + 2, at: t.from, x: px(t.from) })) ?? [],
)
const seams = computed(() =>
  axis.value.pieces
    .filter((p) => p.kind === 'seam' || p.kind === 'opened')
    .map((p) => ({ ...p, id: idOf(p), edges: { from: cutAt(p, 'from')?.id ?? '', to: cutAt(p, 'to')?.id ?? '' } })),
)
const inserts = computed(() =>
  axis.value.pieces.flatMap((piece) => {
    const insert = piece.kind === 'insert' && desk.edit?.inserts.find((i) => i.id === piece.id)
    return insert ? [{ ...piece, says: sayInsert(insert.what) }] : []
  }),
)
const cueCards = computed(() =>
  (desk.captions?.cues ?? [])
    .map((cue) => ({ cue, x: px(cue.from), w: px(cue.to) - px(cue.from) }))
    .filter((c) => c.w > 3 && c.x + c.w > scrollLeft.value - 50 && c.x < scrollLeft.value + width.value + 50),
)
const questionMarks = computed(() =>
  (desk.questions?.checkpoints ?? []).map((c, i) => ({
    c,
    i,
    x: px(c.at),
    lost: desk.lostCheckpoints.some((l) => l.item.id === c.id),
  })),
)

/* Dragging: one gesture at a time, in recorded time. */
type Drag =
  | { kind: 'select'; from: RecordedTime }
  | { kind: 'edge'; id: string; edge: 'from' | 'to' }
  | { kind: 'trim'; end: 'start' | 'end' }
  | { kind: 'checkpoint'; id: string }
const drag = shallowRef<Drag | null>(null)
const preview = shallowRef<RecordedRange | null>(null)
const timeAt = (event: PointerEvent): RecordedTime => {
  const box = viewport.value?.getBoundingClientRect()
  const t = toTime(axis.value, event.clientX - (box?.left ?? 0) + scrollLeft.value)
  return recorded(snapToFrame(t, desk.edit?.frameRate ?? 0))
}
function seekAt(event: PointerEvent): void {
  const box = viewport.value?.getBoundingClientRect()
  const point = pointAt(axis.value, event.clientX - (box?.left ?? 0) + scrollLeft.value)
  const snap = (t: number) => snapToFrame(t, desk.edit?.frameRate ?? 0)
  if (point?.piece.length) media.seek(result(snap(point.result)))
  else if (point) media.seekRecorded(recorded(snap(point.recorded)))
}

function begin(event: PointerEvent, what: Drag): void {
  if (event.button !== 0) return
  event.preventDefault()
  event.stopPropagation()
  viewport.value?.setPointerCapture(event.pointerId)
  drag.value = what
}

function move(event: PointerEvent): void {
  const what = drag.value
  if (!what) return
  const t = timeAt(event)
  if (what.kind === 'select')
    desk.selection =
      Math.abs(px(t) - px(what.from)) < 4
        ? null
        : { from: recorded(Math.min(what.from, t)), to: recorded(Math.max(what.from, t)) }
  else if (what.kind === 'trim')
    preview.value = what.end === 'start' ? { from: recorded(0), to: t } : { from: t, to: desk.map.duration }
  else if (what.kind === 'edge') {
    const range = desk.edit?.removed.find((r) => r.id === what.id)
    if (range) preview.value = { ...range, [what.edge]: t }
  } else preview.value = { from: t, to: recorded(t + 0.001) }
}

async function end(event: PointerEvent): Promise<void> {
  const what = drag.value
  const range = preview.value
  drag.value = null
  preview.value = null
  if (!what) return
  if (what.kind === 'select' && !desk.selection) seekAt(event)
  if (what.kind === 'trim' && range && range.to - range.from > 0.02)
    await desk.trim(what.end, what.end === 'start' ? range.to : range.from)
  if (what.kind === 'edge' && range)
    await desk.command({ do: 'move-edge', id: what.id, edge: what.edge, at: range[what.edge] })
  if (what.kind === 'checkpoint') {
    const checkpoint = desk.questions?.checkpoints.find((c) => c.id === what.id)
    if (checkpoint && range)
      await desk.changeCheckpoint(
        { ...checkpoint, at: range.from },
        `Moved a question to ${formatTimecode(range.from, 1)}`,
      )
    desk.activeCheckpoint = what.id
  }
}

/* The same by keyboard. */
const nudge = (event: KeyboardEvent) =>
  ({ ArrowLeft: -1, ArrowRight: 1 })[event.key as 'ArrowLeft' | 'ArrowRight'] *
  (event.shiftKey ? 1 : frameLength(desk.edit?.frameRate ?? 0))
async function edgeKey(event: KeyboardEvent, id: string, edge: 'from' | 'to'): Promise<void> {
  if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return
  event.preventDefault()
  event.stopPropagation()
  const range = desk.edit?.removed.find((r) => r.id === id)
  if (range) await desk.command({ do: 'move-edge', id, edge, at: recorded(Math.max(0, range[edge] + nudge(event))) })
}
async function trimKey(event: KeyboardEvent, where: 'start' | 'end'): Promise<void> {
  if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return
  event.preventDefault()
  event.stopPropagation()
  const kept = where === 'start' ? desk.map.kept[0] : desk.map.kept.at(-1)
  const by = nudge(event)
  if (!kept) return
  if (where === 'start' && by > 0) await desk.trim('start', recorded(kept.from + by))
  if (where === 'end' && by < 0) await desk.trim('end', recorded(kept.to + by))
}
async function seamKey(event: KeyboardEvent, seam: RecordedRange): Promise<void> {
  if (event.key === 'Delete' || event.key === 'Backspace') {
    event.preventDefault()
    event.stopPropagation()
    await desk.putBack(seam)
  }
}
async function insertKey(event: KeyboardEvent, id: string, at: number): Promise<void> {
  if (event.key === 'Enter') media.seek(result(at))
  else if (event.key === 'Delete' || event.key === 'Backspace') {
    event.preventDefault()
    event.stopPropagation()
    await desk.command({ do: 'drop', id })
  }
}
function pin(id: string): void {
  const next = new Set(pinned.value)
  if (!next.delete(id)) next.add(id)
  pinned.value = next
}

function setZoom(factor: number): void {
  zoom.value = Math.min(512, Math.max(1, zoom.value * factor))
  void nextTick(() => {
    if (viewport.value) viewport.value.scrollLeft = playhead.value - width.value / 2
  })
}
function wheel(event: WheelEvent): void {
  if (!event.ctrlKey) return
  event.preventDefault()
  setZoom(event.deltaY < 0 ? 1.25 : 0.8)
}
watch(playhead, (x) => {
  const element = viewport.value
  if (!element || !desk.playing) return
  if (x > element.scrollLeft + width.value - 60 || x < element.scrollLeft) element.scrollLeft = x - 80
})
defineExpose({ setZoom })
</script>

<template>
  <section class="line surface" aria-label="Time line">
    <div class="side">
      <span class="lane ruler-name"
        ><button type="button" aria-label="Zoom out" @click="setZoom(0.5)"><ZoomOut :size="15" /></button
        ><button type="button" aria-label="Zoom in" @click="setZoom(2)"><ZoomIn :size="15" /></button
      ></span>
      <span v-if="hasPicture" class="lane pictures">Pictures</span><span class="lane sound">Sound</span
      ><span class="lane">Captions</span><span class="lane">Questions</span>
    </div>
    <div
      ref="viewport"
      class="viewport"
      @scroll="scrollLeft = ($event.target as HTMLElement).scrollLeft"
      @pointermove="move"
      @pointerup="end"
      @pointercancel="drag = preview = null"
      @wheel="wheel"
    >
      <div class="track" :style="{ width: `${axis.width}px`, '--pictures': hasPicture ? '42px' : '0px' }">
        <div
          class="lane ruler"
          role="slider"
          tabindex="0"
          aria-label="Playhead"
          :aria-valuemin="0"
          :aria-valuemax="Math.round(desk.map.length)"
          :aria-valuenow="Math.round(desk.time)"
          :aria-valuetext="formatTimecode(desk.time, 1)"
          @pointerdown="seekAt($event)"
        >
          <span v-for="t in ticks" :key="t.x" class="tick mono" :style="{ left: `${t.x}px` }">{{ t.label }}</span>
        </div>
        <button
          v-for="j in joints"
          :key="j.take"
          type="button"
          class="joint"
          :style="{ left: `${j.x}px` }"
          :aria-label="`Take ${j.take} begins, at ${formatTimecode(toResult(desk.map, j.at).at)}`"
          @pointerdown.stop
          @click="media.seekRecorded(j.at)"
        >
          Take {{ j.take }}
        </button>
        <button
          v-for="m in markers"
          :key="m.at"
          type="button"
          class="marker"
          :style="{ left: `${m.x}px` }"
          title="Marked while recording"
          :aria-label="`Marked while recording, at ${formatTimecode(m.at)}`"
          @pointerdown.stop
          @click="media.seekRecorded(m.at)"
        />
        <div v-if="hasPicture" class="lane pictures" @pointerdown="seekAt($event)">
          <PictureLane :axis="axis" :from="scrollLeft" :width="width" />
        </div>
        <div class="lane sound" @pointerdown="begin($event, { kind: 'select', from: timeAt($event) })">
          <WaveForm
            v-if="peaks?.length || coarse?.length"
            :levels="peaks ?? []"
            :coarse="coarse ?? []"
            :axis="axis"
            :scale="scale"
            :from="scrollLeft"
            :width="width"
          />
          <p v-else class="quiet none">{{ has('sound') ? 'The waveform is being drawn …' : 'No sound' }}</p>
          <span
            v-if="desk.selection"
            class="selection"
            :style="{
              left: `${px(desk.selection.from)}px`,
              width: `${px(desk.selection.to) - px(desk.selection.from)}px`,
            }"
          />
        </div>
        <div class="lane cards">
          <button
            v-for="{ cue, x, w } in cueCards"
            :key="cue.id"
            type="button"
            class="cue"
            tabindex="-1"
            :style="{ left: `${x}px`, width: `${w - 1}px` }"
            :title="plainText(cue.text)"
            @click="media.seekRecorded(cue.from)"
          >
            {{ w > 40 ? plainText(cue.text) : '' }}
          </button>
        </div>
        <div class="lane cards">
          <button
            v-for="{ c, i, x, lost } in questionMarks"
            :key="c.id"
            type="button"
            class="question"
            :class="{ lost, active: desk.activeCheckpoint === c.id }"
            :style="{ left: `${x}px` }"
            :aria-label="`Question ${i + 1} at ${formatTimecode(toResult(desk.map, c.at).at)}${lost ? ', inside a removed part' : ''}`"
            @pointerdown="begin($event, { kind: 'checkpoint', id: c.id })"
            @click="desk.activeCheckpoint = c.id"
          >
            {{ lost ? '!' : '?' }}
          </button>
        </div>
        <button
          v-for="i in inserts"
          :key="i.id"
          type="button"
          class="insert"
          :style="{ left: `${i.x}px`, width: `${i.width}px` }"
          :title="i.says"
          :aria-label="`${i.says}, put in at ${formatTimecode(i.at)}, ${sayDuration(i.length)}. Delete drops it.`"
          @pointerdown.stop="seekAt($event)"
          @keydown="insertKey($event, i.id, i.at)"
        >
          {{ i.width > 60 ? i.says : '' }}
        </button>
        <div
          v-for="s in seams"
          :key="s.id"
          class="seam"
          :class="s.kind"
          :style="{ left: `${s.x}px`, width: `${s.width}px` }"
          @pointerenter="drag ?? (hovered = s.id)"
          @pointerleave="drag ?? (hovered = null)"
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
              :aria-valuetext="formatTimecode(s[edge], 2)"
              @pointerdown="begin($event, { kind: 'edge', id: s.edges[edge], edge })"
              @keydown="edgeKey($event, s.edges[edge], edge)"
            />
            <button type="button" class="back" @click="desk.putBack(s)">Put back</button>
          </template>
        </div>
        <span
          v-if="preview && drag?.kind !== 'checkpoint'"
          class="previewed"
          :style="{ left: `${px(preview.from)}px`, width: `${Math.max(0, px(preview.to) - px(preview.from))}px` }"
        />
        <span v-if="preview && drag?.kind === 'checkpoint'" class="ghost" :style="{ left: `${px(preview.from)}px` }" />
        <template v-if="props.step === 'tidied' && desk.map.kept.length">
          <span
            class="trim start"
            role="slider"
            tabindex="0"
            aria-label="Trim the start"
            :aria-valuemin="0"
            :aria-valuemax="Math.round(desk.map.duration)"
            :aria-valuenow="Math.round(desk.map.kept[0]?.from ?? 0)"
            :aria-valuetext="formatTimecode(desk.map.kept[0]?.from ?? 0, 2)"
            :style="{ left: `${px(desk.map.kept[0]?.from ?? 0)}px` }"
            @pointerdown="begin($event, { kind: 'trim', end: 'start' })"
            @keydown="trimKey($event, 'start')"
          />
          <span
            class="trim end"
            role="slider"
            tabindex="0"
            aria-label="Trim the end"
            :aria-valuemin="0"
            :aria-valuemax="Math.round(desk.map.duration)"
            :aria-valuenow="Math.round(desk.map.kept.at(-1)?.to ?? 0)"
            :aria-valuetext="formatTimecode(desk.map.kept.at(-1)?.to ?? 0, 2)"
            :style="{ left: `${px((desk.map.kept.at(-1)?.to ?? 0) - 0.0001) - 9}px` }"
            @pointerdown="begin($event, { kind: 'trim', end: 'end' })"
            @keydown="trimKey($event, 'end')"
          />
        </template>
        <span class="playhead" :style="{ left: `${playhead}px` }" />
      </div>
    </div>
  </section>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 86px minmax(0, 1fr);
  overflow: hidden;
  user-select: none;
}
.side {
  border-right: 1px solid var(--hairline);
  font-size: 14px;
  color: var(--quiet);
}
.side .lane {
  display: flex;
  align-items: center;
  padding-left: 12px;
}
.side button {
  border: 0;
  background: none;
  padding: 3px;
  border-radius: 5px;
  cursor: pointer;
  display: grid;
}
.lane {
  height: 30px;
  border-bottom: 1px solid var(--hairline);
  position: relative;
}
.lane:last-of-type {
  border-bottom: 0;
}
.lane.ruler,
.ruler-name {
  height: 24px;
}
.ruler-name {
  padding-left: 8px !important;
  gap: 4px;
}
.lane.sound {
  height: 76px;
}
.lane.pictures {
  height: 42px;
}
.viewport {
  overflow-x: auto;
  overflow-y: hidden;
  position: relative;
  scrollbar-width: thin;
}
.track {
  position: relative;
  min-height: 100%;
}
.ruler {
  cursor: pointer;
}
.ruler:focus-visible,
.seam button:focus-visible {
  outline-offset: -3px;
}
.tick {
  position: absolute;
  border-left: 1px solid #b9c3c0;
  padding-left: 4px;
  font-size: 11px;
  color: var(--quiet);
  height: 100%;
  line-height: 24px;
  pointer-events: none;
}
.pictures {
  cursor: pointer;
  overflow: hidden;
}
.sound {
  cursor: text;
}
.none {
  margin: 0;
  padding: 24px 12px;
  font-size: 14px;
}
.selection {
  position: absolute;
  inset-block: 0;
  background: rgb(227 160 8 / 26%);
  border-inline: 2px solid var(--marigold);
  pointer-events: none;
}
.cue {
  position: absolute;
  top: 4px;
  height: 22px;
  border: 1px solid #b9ccd0;
  background: var(--tarn-wash);
  border-radius: 4px;
  font-size: 12px;
  padding: 0 4px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  cursor: pointer;
  text-align: left;
}
.question {
  position: absolute;
  top: 3px;
  width: 24px;
  height: 24px;
  margin-left: -12px;
  border-radius: 50%;
  border: 2px solid #fff;
  background: var(--tarn);
  color: #fff;
  font-weight: 700;
  padding: 0;
  cursor: grab;
  z-index: 3;
  line-height: 1;
  box-shadow: 0 0 0 1px var(--tarn);
}
.question.active {
  box-shadow: 0 0 0 3px var(--marigold);
}
.question.lost {
  background: var(--ember);
  box-shadow: 0 0 0 1px var(--ember);
}
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
  padding: 2px 8px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  cursor: pointer;
}
.seam {
  position: absolute;
  top: 24px;
  bottom: 0;
  z-index: 2;
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
  padding: 0 10px;
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
.previewed {
  position: absolute;
  top: 24px;
  bottom: 0;
  background: rgb(178 58 46 / 24%);
  z-index: 4;
  pointer-events: none;
}
.ghost {
  position: absolute;
  top: 24px;
  bottom: 0;
  width: 2px;
  background: var(--marigold);
  z-index: 4;
  pointer-events: none;
}
.trim {
  position: absolute;
  top: calc(24px + var(--pictures));
  height: 76px;
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
.playhead {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  margin-left: -1px;
  background: var(--ink);
  z-index: 5;
  pointer-events: none;
}
.playhead::before {
  content: '';
  position: absolute;
  top: 0;
  left: -5px;
  border: 6px solid transparent;
  border-top: 9px solid var(--ink);
  border-bottom: 0;
}
.joint {
  position: absolute;
  top: 2px;
  height: 20px;
  padding: 0 6px;
  border: 0;
  border-left: 3px solid var(--tarn);
  background: var(--tarn-wash);
  color: var(--tarn-deep);
  font-size: 12px;
  border-radius: 0 5px 5px 0;
  cursor: pointer;
  z-index: 2;
}
.marker {
  position: absolute;
  top: 10px;
  width: 12px;
  height: 14px;
  margin-left: -6px;
  padding: 0;
  border: 0;
  background: var(--marigold);
  clip-path: polygon(0 0, 100% 0, 100% 100%, 50% 65%, 0 100%);
  cursor: pointer;
  z-index: 2;
}
</style>
