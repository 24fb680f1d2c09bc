<script setup lang="ts">
import { areaBetween } from '#core/record/inputs'
import type { RoomInput } from '~/composables/use-inputs'
import type { Strokes } from '~/composables/use-strokes'
import type { ShareBox } from '#core/schema/edit'

/** The live picture of an input, with the outline of what is recorded, and with what is drawn over it. */
const props = defineProps<{ input: RoomInput; choosing: boolean; strokes: Strokes | null }>()
const emit = defineEmits<{ area: [ShareBox] }>()
const video = useTemplateRef<HTMLVideoElement>('video')
const picture = useTemplateRef<HTMLElement>('picture')
const aspect = ref(16 / 9)
watch(
  [video, () => props.input.stream],
  () => {
    if (video.value) video.value.srcObject = props.input.stream
  },
  { immediate: true },
)
const measured = () => {
  if (video.value?.videoWidth) aspect.value = video.value.videoWidth / video.value.videoHeight
}

const at = (event: PointerEvent) => {
  const box = picture.value?.getBoundingClientRect()
  return box
    ? {
        x: Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)),
        y: Math.min(1, Math.max(0, (event.clientY - box.top) / box.height)),
      }
    : { x: 0, y: 0 }
}
const from = shallowRef<{ x: number; y: number } | null>(null)
const dragged = shallowRef<ShareBox | null>(null)
const area = computed(() => dragged.value ?? props.input.plan.picture?.area ?? null)
const drawing = computed(() => props.strokes?.tool.value ?? null)

function down(event: PointerEvent): void {
  picture.value?.setPointerCapture(event.pointerId)
  const p = at(event)
  if (props.choosing) {
    from.value = p
    return
  }
  const { x, y } = onRecorded(p)
  // Outside the area nothing is recorded, so that nothing can be drawn there.
  if (x >= 0 && x <= 1 && y >= 0 && y <= 1) props.strokes?.begin(x, y, recordedAspect.value)
}
function move(event: PointerEvent): void {
  if (event.buttons === 0) return
  const p = at(event)
  if (!from.value) {
    const { x, y } = onRecorded(p)
    props.strokes?.move(x, y, recordedAspect.value)
    return
  }
  dragged.value = areaBetween(from.value, p)
}
function up(): void {
  props.strokes?.end()
  if (dragged.value) emit('area', dragged.value)
  from.value = dragged.value = null
}
/** The picture that is recorded, of what is shown: drawing belongs to it. */
const recordedBox = computed(() => area.value ?? { x: 0, y: 0, width: 1, height: 1 })
const onRecorded = (p: { x: number; y: number }) => ({
  x: (p.x - recordedBox.value.x) / recordedBox.value.width,
  y: (p.y - recordedBox.value.y) / recordedBox.value.height,
})
const recordedAspect = computed(() => (aspect.value * recordedBox.value.width) / recordedBox.value.height)
const percent = (share: number) => `${100 * share}%`
</script>

<template>
  <figure>
    <div class="fit">
      <div
        ref="picture"
        class="picture"
        :class="{ choosing, drawing }"
        :style="{ aspectRatio: aspect, '--aspect': aspect }"
        @pointerdown="down"
        @pointermove="move"
        @pointerup="up"
        @pointercancel="up"
      >
        <video
          ref="video"
          muted
          autoplay
          playsinline
          :aria-label="`Live picture: ${input.plan.label}`"
          @loadedmetadata="measured"
          @resize="measured"
        />
        <span
          v-if="area"
          class="area"
          :style="{
            left: percent(area.x),
            top: percent(area.y),
            width: percent(area.width),
            height: percent(area.height),
          }"
          ><span class="says">recorded</span></span
        >
        <div
          v-if="strokes"
          class="drawn"
          :style="{
            left: percent(recordedBox.x),
            top: percent(recordedBox.y),
            width: percent(recordedBox.width),
            height: percent(recordedBox.height),
          }"
        >
          <StrokeLayer :strokes="strokes.seen.value" :aspect="recordedAspect" />
        </div>
      </div>
    </div>
    <figcaption>
      {{ input.plan.label }}
      <span v-if="input.plan.picture" class="mono"
        >{{ input.plan.picture.width }} × {{ input.plan.picture.height }}, {{ input.plan.picture.frameRate }} fps</span
      ><template v-if="choosing">
        – drag over the part that is to be recorded. What lies outside is never stored.</template
      >
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  min-width: 0;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.fit {
  flex: 1;
  min-height: 0;
  display: grid;
  place-items: center;
  container-type: size;
  background: #e4e9e4;
  border-radius: var(--surface-radius);
  overflow: hidden;
}
.picture {
  position: relative;
  width: min(100cqw, 100cqh * var(--aspect));
  touch-action: none;
  overflow: hidden;
}
.picture.choosing,
.picture.drawing {
  cursor: crosshair;
}
video {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: fill;
}

.drawn {
  position: absolute;
  overflow: hidden;
  pointer-events: none;
}
.area {
  position: absolute;
  border: 2px solid var(--ember);
  box-shadow: 0 0 0 4000px rgb(246 247 243 / 72%);
  pointer-events: none;
}
.says {
  position: absolute;
  left: 4px;
  top: 2px;
  font-size: 12px;
  color: #fff;
  background: var(--ember);
  border-radius: 4px;
  padding: 0 5px;
}
figcaption {
  font-size: 14px;
  color: var(--quiet);
  padding-top: 4px;
}
</style>
