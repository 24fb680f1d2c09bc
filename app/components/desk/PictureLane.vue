<script setup lang="ts">
import { tiles, toPixel, type Axis } from '#core/time/axis'
import { toResult } from '#core/time/time-map'
import { formatTimecode } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { useDesk } from '~/stores/desk'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'

/** Pictures along the time line, and a mark where each slide appears. Draws only the visible window. */
const props = defineProps<{ axis: Axis; from: number; width: number }>()
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const TILE = 72

const places = computed(() => tiles(props.axis, TILE, props.from - TILE, props.from + props.width + TILE))
const { slides, nearest, urlOf, refine } = useStills(() => desk.recording)
const strip = computed(() =>
  places.value.flatMap(({ x, width, at }) => {
    const still = nearest(at)
    return still ? [{ x, width, url: urlOf(still.image) }] : []
  }),
)
watch(
  places,
  (p) =>
    refine(
      p.map((t) => t.at),
      TILE / props.axis.pixelsPerSecond,
    ),
  { immediate: true },
)
// Where the deck itself said what it showed, that is better known than what can be seen.
const index = computed(() => {
  const seen = slides.value.map((s, i) => ({ at: recorded(s.at), title: `Slide ${i + 1}` }))
  return (
    desk.recording?.takes.flatMap((take) => take.slides ?? seen.filter((s) => s.at >= take.from && s.at < take.to)) ??
    []
  )
})
const marks = computed(() =>
  index.value
    .map((s) => ({ title: s.title, at: s.at, x: toPixel(props.axis, s.at) }))
    .filter((s) => toResult(desk.map, s.at).kind === 'kept'),
)
</script>

<template>
  <img
    v-for="s in strip"
    :key="s.x"
    :src="s.url"
    alt=""
    draggable="false"
    :style="{ left: `${s.x}px`, width: `${s.width}px` }"
  />
  <button
    v-for="s in marks"
    :key="s.at"
    type="button"
    :style="{ left: `${s.x}px` }"
    :title="s.title"
    :aria-label="`${s.title} at ${formatTimecode(toResult(desk.map, s.at).at)}`"
    @pointerdown.stop
    @click="media.seekRecorded(s.at)"
  />
</template>

<style scoped>
img {
  position: absolute;
  inset-block: 0;
  height: 100%;
  object-fit: cover;
  border-right: 1px solid var(--paper);
}
button {
  position: absolute;
  bottom: 0;
  width: 9px;
  height: 9px;
  margin-left: -1px;
  padding: 0;
  border: 0;
  border-left: 2px solid var(--tarn);
  background: var(--tarn);
  clip-path: polygon(0 0, 100% 100%, 0 100%);
  cursor: pointer;
  z-index: 1;
}
</style>
