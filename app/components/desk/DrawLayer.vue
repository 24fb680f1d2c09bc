<script setup lang="ts">
import { max } from 'd3-array'
import type { Timed } from '#core/documents/items'
import type { Box, Size } from '#core/picture/layout'
import { isAtOnce, nearStroke, shapePoints } from '#core/picture/strokes'
import type { Stretch, Stroke } from '#core/schema/edit'
import { stageKey } from '~/composables/use-stage'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

/** Takes what is drawn on the picture, for the drawing that is chosen. */
const props = defineProps<{ stretch: Stretch & { what: { kind: 'strokes' } }; base: Box; frame: Size }>()
const desk = useDesk()
const chosen = useChosen()
const stage = injectStrict(stageKey)
const element = useTemplateRef<HTMLElement>('element')
const aspect = computed(() => props.base.width / props.base.height)
const current = shallowRef<Stroke | null>(null)
/** Between two strokes, s; and how near one has to be rubbed out, as a share of the picture's height. */
const PAUSE = 0.25
const NEAR = 0.012
let begun = 0
/** When the stroke begins, s after the stretch's start. */
let from = 0

/** What the desk's picture does not show yet: what is being drawn, and what comes later. Whoever draws sees all of it. */
const unseen = computed(() => {
  const into = desk.recordedTime - props.stretch.from
  const later = props.stretch.what.strokes.filter((s) => (s.points.at(-1)?.at ?? 0) > into)
  return current.value ? [...later, current.value] : later
})
const percent = (part: number, whole: number) => `${(100 * part) / whole}%`
const placed = computed(() => ({
  left: percent(props.base.x, props.frame.width),
  top: percent(props.base.y, props.frame.height),
  width: percent(props.base.width, props.frame.width),
  height: percent(props.base.height, props.frame.height),
}))
const clamp = (share: number) => Math.min(1, Math.max(0, share))
function pointAt(event: PointerEvent): { x: number; y: number } {
  const box = element.value?.getBoundingClientRect() ?? new DOMRect(0, 0, 1, 1)
  return { x: clamp((event.clientX - box.left) / box.width), y: clamp((event.clientY - box.top) / box.height) }
}
const put = (strokes: Stroke[], says: string) =>
  chosen.put(
    [
      {
        ref: { kind: 'edit', list: 'stretches' },
        item: { ...props.stretch, what: { ...props.stretch.what, strokes } } as Timed,
      },
    ],
    says,
  )

async function erase(event: PointerEvent): Promise<void> {
  const at = pointAt(event)
  const left = props.stretch.what.strokes.filter((s) => !nearStroke(s, at, aspect.value, NEAR))
  if (left.length < props.stretch.what.strokes.length) await put(left, 'Rubbed out')
}
/** What is drawn at once is there from the beginning; otherwise it comes after what was drawn before, as it is drawn. */
function whenNext(): number {
  const { strokes } = props.stretch.what
  if (strokes.length > 0 && isAtOnce(strokes)) return 0
  const last = Math.max(-PAUSE, max(strokes.flatMap((s) => s.points.map((p) => p.at))) ?? -PAUSE)
  return Math.max(0, last + PAUSE, desk.recordedTime - props.stretch.from)
}
async function begin(event: PointerEvent): Promise<void> {
  const tool = stage.tool.value
  if (event.button !== 0 || !tool) return
  event.preventDefault()
  event.stopPropagation()
  element.value?.setPointerCapture(event.pointerId)
  if (tool === 'eraser') {
    await erase(event)
    return
  }
  begun = event.timeStamp
  from = whenNext()
  const wide = tool === 'highlighter'
  current.value = {
    colour: stage.ink.value,
    width: wide ? 3 * stage.width.value : stage.width.value,
    opacity: wide ? 0.4 : 1,
    points: [{ ...pointAt(event), at: from }],
    ...(tool !== 'pen' && tool !== 'highlighter' && { straight: true as const }),
  }
}
async function move(event: PointerEvent): Promise<void> {
  const tool = stage.tool.value
  if (tool === 'eraser' && event.buttons === 1) await erase(event)
  const stroke = current.value
  const [first] = stroke?.points ?? []
  if (!stroke || !first || !tool || tool === 'eraser') return
  const { strokes } = props.stretch.what
  const isStill = strokes.length > 0 && isAtOnce(strokes)
  const now = isStill ? 0 : from + (event.timeStamp - begun) / 1000
  const to = pointAt(event)
  if (tool === 'pen' || tool === 'highlighter') {
    current.value = { ...stroke, points: [...stroke.points, { ...to, at: now }] }
    return
  }
  const corners = shapePoints(tool, first, to, aspect.value, stroke.width)
  const share = (i: number) => i / Math.max(1, corners.length - 1)
  current.value = {
    ...stroke,
    points: corners.map((p, i) => ({ x: clamp(p.x), y: clamp(p.y), at: from + share(i) * (now - from) })),
  }
}
async function end(): Promise<void> {
  const stroke = current.value
  current.value = null
  if (stroke) await put([...props.stretch.what.strokes, stroke], 'Drew on the picture')
}
</script>

<template>
  <div
    ref="element"
    class="draw"
    :class="{ idle: !stage.tool.value }"
    :style="placed"
    @click.stop
    @pointerdown="begin"
    @pointermove="move"
    @pointerup="end"
    @pointercancel="end"
  >
    <StrokeLayer :strokes="unseen" :aspect="aspect" />
  </div>
</template>

<style scoped>
.draw {
  position: absolute;
  z-index: 41;
  cursor: crosshair;
  touch-action: none;
  outline: 2px solid var(--marigold);
  outline-offset: -2px;
}
.idle {
  pointer-events: none;
}
</style>
