<script setup lang="ts">
import { strokePath } from '#core/picture/strokes'
import type { Stroke } from '#core/schema/edit'

/** Strokes over a picture; fills its parent, which has the picture's proportions. */
const props = defineProps<{ strokes: readonly Stroke[]; aspect: number }>()
const paths = computed(() => props.strokes.map((stroke) => ({ stroke, ...strokePath(stroke, props.aspect) })))
</script>

<template>
  <svg class="strokes" :viewBox="`0 0 ${aspect} 1`" preserveAspectRatio="none" aria-hidden="true">
    <path
      v-for="({ stroke, data, filled }, i) in paths"
      :key="i"
      :d="data"
      :fill="filled ? stroke.colour : 'none'"
      :stroke="filled ? 'none' : stroke.colour"
      :stroke-width="stroke.width"
      :opacity="stroke.opacity"
      stroke-linecap="round"
      stroke-linejoin="round"
    />
  </svg>
</template>

<style scoped>
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
</style>
