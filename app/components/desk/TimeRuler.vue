<script setup lang="ts">
import { resultToPixel, tickStep } from '#core/time/axis'
import { toResult } from '#core/time/time-map'
import { formatTimecode } from '#core/time/timecode'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { timeLineKey } from '~/composables/use-time-line'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

/** The ruler of the time line, in result time, with what was marked while recording and where takes begin. */
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const line = injectStrict(timeLineKey)

const ticks = computed(() => {
  const scale = line.scale.value
  const step = tickStep(scale, 84)
  const decimals = step >= 1 ? 0 : step >= 0.1 ? 1 : 2
  const { from, width } = line.view.value
  const out: { x: number; label: string }[] = []
  for (const piece of line.axis.value.pieces) {
    if (piece.length === 0 || piece.x + piece.width < from || piece.x > from + width) continue
    const { at } = piece
    const first = Math.max(at, at + (from - piece.x) / scale)
    const last = Math.min(at + piece.length, at + (from + width - piece.x) / scale)
    for (let i = Math.ceil(first / step - 1e-6); i * step < last - 1e-6; i++)
      out.push({ x: piece.x + (i * step - at) * scale, label: formatTimecode(i * step, decimals) })
  }
  return out
})
const markers = computed(() => desk.recording?.markers.map((at) => ({ at, x: line.px(at) })) ?? [])
/** Where a further take begins. */
const joints = computed(
  () => desk.recording?.takes.slice(1).map((t, i) => ({ take: i + 2, at: t.from, x: line.px(t.from) })) ?? [],
)
const splits = computed(() =>
  (desk.edit?.splits ?? []).flatMap((s) => {
    const where = toResult(desk.map, s.at as Parameters<typeof toResult>[1])
    return where.kind === 'kept' ? [{ ...s, shown: where.at, x: resultToPixel(line.axis.value, where.at) }] : []
  }),
)
async function splitKey(event: KeyboardEvent, id: string): Promise<void> {
  if (event.key !== 'Delete' && event.key !== 'Backspace') return
  event.preventDefault()
  event.stopPropagation()
  await desk.command({ do: 'drop', id })
}
</script>

<template>
  <div
    class="lane ruler"
    role="slider"
    tabindex="0"
    aria-label="Playhead"
    :aria-valuemin="0"
    :aria-valuemax="Math.round(desk.map.length)"
    :aria-valuenow="Math.round(desk.time)"
    :aria-valuetext="formatTimecode(desk.time, 1)"
    @pointerdown="line.seekAt($event)"
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
  <button
    v-for="s in splits"
    :key="s.id"
    type="button"
    class="split"
    :style="{ left: `${s.x}px` }"
    title="Split here. Double-click a piece to choose it."
    :aria-label="`Split at ${formatTimecode(s.shown, 1)}. Delete joins the pieces.`"
    @pointerdown.stop
    @click="media.seek(s.shown)"
    @keydown="splitKey($event, s.id)"
  />
</template>

<style scoped>
.ruler {
  height: 24px;
  border-bottom: 1px solid var(--hairline);
  position: sticky;
  top: 0;
  background: var(--paper);
  cursor: pointer;
  z-index: 4;
}
.ruler:focus-visible {
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
  z-index: 4;
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
  z-index: 4;
}
.split {
  position: absolute;
  top: 24px;
  bottom: 0;
  width: 7px;
  margin-left: -3px;
  padding: 0;
  border: 0;
  background: linear-gradient(var(--ember), var(--ember)) center / 1px 100% no-repeat;
  cursor: pointer;
  z-index: 3;
}
</style>
