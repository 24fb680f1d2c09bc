<script setup lang="ts">
import { tiles } from '#core/time/axis'
import { toResult } from '#core/time/time-map'
import { formatTimecode } from '#core/time/timecode'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { stopsKey } from '~/composables/use-stops'
import { timeLineKey } from '~/composables/use-time-line'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

/** One feed's pictures along the time line, and on the main one a mark where each slide appears. */
const props = defineProps<{ feed: string; isMain: boolean }>()
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const line = injectStrict(timeLineKey)
const stops = injectStrict(stopsKey)
const TILE = 72

const places = computed(() => {
  const { from, width } = line.view.value
  return tiles(line.axis.value, TILE, from, from + width)
})
const { nearest, urlOf, refine } = useStills(
  () => desk.recording,
  () => props.feed,
)
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
      TILE / line.axis.value.pixelsPerSecond,
    ),
  { immediate: true },
)
const marks = computed(() =>
  props.isMain
    ? stops.slides.value
        .map((s) => ({ title: s.title, at: s.at, x: line.px(s.at) }))
        .filter((s) => toResult(desk.map, s.at).kind === 'kept')
    : [],
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
