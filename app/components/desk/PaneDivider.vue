<script setup lang="ts">
/** The edge between two panes: dragged, moved by keys, and put back by a double click. `width` is the right one's, px. */
const width = defineModel<number>('width', { required: true })
const props = defineProps<{ label: string; min: number; max: number; usual: number }>()
/** Pixels a key press moves it. */
const STEP = 16
let grip: { x: number; width: number } | null = null

const set = (to: number) => {
  width.value = Math.round(Math.min(props.max, Math.max(props.min, to)))
}
function begin(event: PointerEvent): void {
  grip = { x: event.clientX, width: width.value }
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}
const drag = (event: PointerEvent) => {
  if (grip) set(grip.width + grip.x - event.clientX)
}
const end = () => {
  grip = null
}
function press(event: KeyboardEvent): void {
  const to = {
    ArrowLeft: width.value + STEP,
    ArrowRight: width.value - STEP,
    Home: props.max,
    End: props.min,
  }[event.key]
  if (to === undefined) return
  // Elsewhere on the desk these keys move the playhead.
  event.preventDefault()
  event.stopPropagation()
  set(to)
}
</script>

<template>
  <div
    class="divider"
    role="separator"
    aria-orientation="vertical"
    tabindex="0"
    :aria-label="label"
    :aria-valuemin="min"
    :aria-valuemax="max"
    :aria-valuenow="width"
    title="Drag to change the width; double-click for the usual one"
    @pointerdown="begin"
    @pointermove="drag"
    @pointerup="end"
    @pointercancel="end"
    @dblclick="set(usual)"
    @keydown="press"
  />
</template>

<style scoped>
.divider {
  position: relative;
  cursor: ew-resize;
  touch-action: none;
  border-radius: 4px;
}
.divider::before {
  content: '';
  position: absolute;
  inset: calc(50% - 22px) calc(50% - 2px);
  border-radius: 2px;
  background: #b9c3c0;
}
.divider:hover::before,
.divider:active::before {
  background: var(--tarn);
}
</style>
