<script setup lang="ts">
import { polyline } from '#core/picture/strokes'
import type { Stroke } from '#core/schema/edit'

/** Strokes over a picture; fills its parent, which has the picture's proportions. */
defineProps<{ strokes: readonly Stroke[]; aspect: number }>()
</script>

<template>
  <svg :viewBox="`0 0 ${aspect} 1`" preserveAspectRatio="none" aria-hidden="true">
    <polyline
      v-for="(s, i) in strokes"
      :key="i"
      :points="polyline(s.points.length > 1 ? s : { ...s, points: [...s.points, ...s.points] }, aspect)"
      :stroke="s.colour"
      :stroke-width="s.width"
      :stroke-opacity="s.opacity"
      fill="none"
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
