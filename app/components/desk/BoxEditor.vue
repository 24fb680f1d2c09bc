<script setup lang="ts">
import type { Box, Size } from '#core/picture/layout'
import { guidesOf, handles, moveBox, resizeBox, snapBox, type Guides, type Handle } from '#core/picture/placing'
import type { ShareBox } from '#core/schema/edit'

/**
 * Something on the picture that is placed and sized by dragging or by keys. Its box is in shares of `base`, a picture
 * that stands in the frame.
 */
const props = defineProps<{
  box: ShareBox
  base: Box
  frame: Size
  label: string
  active: boolean
  /** What else stands on the same picture. */
  others: readonly ShareBox[]
}>()
const emit = defineEmits<{ choose: []; put: [box: ShareBox]; done: []; drop: [] }>()
const element = useTemplateRef<HTMLElement>('element')
/** Within so many px of the screen an edge goes to a guide. */
const REACH = 6
/** What a key moves it by, and with Shift, as shares of the picture. */
const STEP = { fine: 0.005, coarse: 0.05 }

let grip: { x: number; y: number; box: ShareBox; handle: Handle | null } | null = null
const met = shallowRef<Guides>({ x: [], y: [] })

const percent = (part: number, whole: number) => `${(100 * part) / whole}%`
const placed = computed(() => {
  const { base, box, frame } = props
  return {
    left: percent(base.x + box.x * base.width, frame.width),
    top: percent(base.y + box.y * base.height, frame.height),
    width: percent(box.width * base.width, frame.width),
    height: percent(box.height * base.height, frame.height),
  }
})
const lineAt = {
  x: (at: number) => ({ left: percent(props.base.x + at * props.base.width, props.frame.width) }),
  y: (at: number) => ({ top: percent(props.base.y + at * props.base.height, props.frame.height) }),
}
/** Size of the picture on the screen, px. */
function onScreen(): Size {
  const width = element.value?.parentElement?.clientWidth ?? props.frame.width
  const scale = width / props.frame.width
  return { width: props.base.width * scale, height: props.base.height * scale }
}
const describe = computed(() => {
  const p = (share: number) => `${Math.round(100 * share)} %`
  const { x, y, width, height } = props.box
  return `${props.label}: ${p(x)} from the left, ${p(y)} from the top, ${p(width)} wide, ${p(height)} high. Arrow keys move it, with Alt they size it.`
})

function begin(event: PointerEvent, handle: Handle | null): void {
  if (event.button !== 0) return
  event.preventDefault()
  event.stopPropagation()
  element.value?.focus()
  element.value?.setPointerCapture(event.pointerId)
  emit('choose')
  grip = { x: event.clientX, y: event.clientY, box: props.box, handle }
}
function move(event: PointerEvent): void {
  if (!grip) return
  const { width, height } = onScreen()
  const [dx, dy] = [(event.clientX - grip.x) / width, (event.clientY - grip.y) / height]
  const box = grip.handle ? resizeBox(grip.box, grip.handle, dx, dy) : moveBox(grip.box, dx, dy)
  const snapped = event.altKey
    ? { box, met: { x: [], y: [] } }
    : snapBox(box, grip.handle, guidesOf(props.others), { x: REACH / width, y: REACH / height })
  met.value = snapped.met
  emit('put', snapped.box)
}
function end(): void {
  if (!grip) return
  grip = null
  met.value = { x: [], y: [] }
  emit('done')
}
function press(event: KeyboardEvent): void {
  const by = event.shiftKey ? STEP.coarse : STEP.fine
  const [dx, dy] = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }[event.key] ?? []
  if (event.key === 'Delete' || event.key === 'Backspace') emit('drop')
  else if (dx === undefined || dy === undefined) return
  else {
    emit('choose')
    emit('put', event.altKey ? resizeBox(props.box, 'se', dx, dy) : moveBox(props.box, dx, dy))
  }
  // Elsewhere on the desk these keys move the playhead.
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <template v-if="active">
    <span v-for="x in met.x" :key="`x ${x}`" class="guide down" :style="lineAt.x(x)" />
    <span v-for="y in met.y" :key="`y ${y}`" class="guide across" :style="lineAt.y(y)" />
  </template>
  <div
    ref="element"
    class="box"
    :class="{ active }"
    :style="placed"
    role="button"
    tabindex="0"
    :aria-pressed="active"
    :aria-label="describe"
    @click.stop
    @pointerdown="begin($event, null)"
    @pointermove="move"
    @pointerup="end"
    @pointercancel="end"
    @focus="emit('choose')"
    @keydown="press"
  >
    <template v-if="active">
      <span v-for="h in handles" :key="h" class="handle" :class="h" @pointerdown="begin($event, h)" />
    </template>
  </div>
</template>

<style scoped>
.box {
  position: absolute;
  z-index: 40;
  cursor: move;
  touch-action: none;
  border-radius: 2px;
}
.box:hover {
  box-shadow: 0 0 0 1px #fff;
  outline: 1px dashed var(--tarn);
}
.box.active {
  box-shadow: 0 0 0 1px #fff;
  outline: 2px solid var(--marigold);
}
.handle {
  position: absolute;
  width: 12px;
  height: 12px;
  margin: -6px;
  background: #fff;
  border: 2px solid var(--tarn);
  border-radius: 50%;
}
.handle:is(.nw, .n, .ne) {
  top: 0;
}
.handle:is(.sw, .s, .se) {
  top: 100%;
}
.handle:is(.e, .w) {
  top: 50%;
}
.handle:is(.nw, .w, .sw) {
  left: 0;
}
.handle:is(.ne, .e, .se) {
  left: 100%;
}
.handle:is(.n, .s) {
  left: 50%;
}
.handle:is(.nw, .se) {
  cursor: nwse-resize;
}
.handle:is(.ne, .sw) {
  cursor: nesw-resize;
}
.handle:is(.n, .s) {
  cursor: ns-resize;
}
.handle:is(.e, .w) {
  cursor: ew-resize;
}
.guide {
  position: absolute;
  z-index: 39;
  pointer-events: none;
}
.down {
  inset-block: 0;
  border-left: 1px dashed var(--marigold);
}
.across {
  inset-inline: 0;
  border-top: 1px dashed var(--marigold);
}
</style>
