<script setup lang="ts">
/**
 * The edge of a pane: dragged, moved by keys, and put back by a double click. `size` is the width of the pane at its
 * right, or the height of the one under it, px.
 */
const size = defineModel<number>('size', { required: true })
const props = withDefaults(
  defineProps<{
    label: string
    min: number
    max: number
    /** What a double click gives back. */
    usual: number
    orientation?: 'vertical' | 'horizontal'
  }>(),
  { orientation: 'vertical' },
)
/** Pixels a key press moves it. */
const STEP = 16
const along = (event: PointerEvent) => (props.orientation === 'vertical' ? event.clientX : event.clientY)
let grip: { at: number; size: number } | null = null

const set = (to: number) => {
  size.value = Math.round(Math.min(props.max, Math.max(props.min, to)))
}
const reset = () => {
  size.value = props.usual
}
function begin(event: PointerEvent): void {
  grip = { at: along(event), size: size.value }
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}
const drag = (event: PointerEvent) => {
  if (grip) set(grip.size + grip.at - along(event))
}
const end = () => {
  grip = null
}
function press(event: KeyboardEvent): void {
  const [more, less] = props.orientation === 'vertical' ? ['ArrowLeft', 'ArrowRight'] : ['ArrowUp', 'ArrowDown']
  const to = {
    [more as string]: size.value + STEP,
    [less as string]: size.value - STEP,
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
    :class="orientation"
    role="separator"
    :aria-orientation="orientation"
    tabindex="0"
    :aria-label="label"
    :aria-valuemin="min"
    :aria-valuemax="max"
    :aria-valuenow="size"
    title="Drag to change the size; double-click for the usual one"
    @pointerdown="begin"
    @pointermove="drag"
    @pointerup="end"
    @pointercancel="end"
    @dblclick="reset"
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
.horizontal {
  cursor: ns-resize;
  height: 10px;
  flex: none;
}
.horizontal::before {
  inset: 4px calc(50% - 22px) 2px;
}
.divider:hover::before,
.divider:active::before {
  background: var(--tarn);
}
</style>
