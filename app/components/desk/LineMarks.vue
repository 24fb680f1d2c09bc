<script setup lang="ts">
import { rangeOf } from '#core/documents/items'
import { timeLineKey } from '~/composables/use-time-line'
import { useChosen } from '~/stores/chosen'
import { injectStrict } from '~/utils/inject'

/** The playhead, and what is shown while something is dragged. Apart from the lanes, as it moves at every frame. */
const line = injectStrict(timeLineKey)
const chosen = useChosen()
/** Where what is chosen begins and ends, px: drawn through every lane, so that it is set by the sound. */
const edges = computed<number[]>(() => {
  const { one } = chosen
  if (!one) return []
  const { from, to } = line.shown(one.ref, rangeOf(one.item))
  return to > from ? [line.px(from), line.px(to)] : [line.px(from)]
})
</script>

<template>
  <span
    v-if="line.preview.value"
    class="previewed"
    :style="{
      left: `${line.px(line.preview.value.from)}px`,
      width: `${Math.max(0, line.px(line.preview.value.to) - line.px(line.preview.value.from))}px`,
    }"
  />
  <span v-if="line.held.value?.met" class="met" :style="{ left: `${line.px(line.held.value.met.at)}px` }"
    ><b>{{ line.held.value.met.what }}</b></span
  >
  <span v-for="(x, i) in edges" :key="i" class="edge" :style="{ left: `${x}px` }" />
  <span class="playhead" :style="{ transform: `translateX(${line.playhead.value}px)` }" />
</template>

<style scoped>
.previewed {
  position: absolute;
  top: 24px;
  bottom: 0;
  background: rgb(178 58 46 / 24%);
  z-index: 4;
  pointer-events: none;
}
.edge {
  position: absolute;
  top: 24px;
  bottom: 0;
  width: 1px;
  background: var(--tarn);
  z-index: 4;
  pointer-events: none;
}
.met {
  position: absolute;
  top: 24px;
  bottom: 0;
  width: 0;
  border-left: 2px dashed var(--marigold);
  z-index: 5;
  pointer-events: none;
}
.met b {
  position: absolute;
  top: 2px;
  left: 3px;
  padding: 0 5px;
  border-radius: 4px;
  background: var(--marigold);
  color: var(--ink);
  font-size: 12px;
  font-weight: 600;
  white-space: nowrap;
}
.playhead {
  position: absolute;
  left: 0;
  will-change: transform;
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
</style>
