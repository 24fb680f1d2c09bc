<script setup lang="ts">
import type { Box, Size } from '#core/picture/layout'
import { blurCell } from '#core/picture/planes'
import { strokesAt } from '#core/picture/strokes'
import type { Layer } from '#core/render/script'
import { scriptPlayerKey, type Playable } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'

/** What the script shows at the playhead, layer by layer, as the renderer does. Fills its parent. */
const props = defineProps<{ frame: Size }>()
const media = injectStrict(scriptPlayerKey)
type Moving = Extract<Layer, { kind: 'feed' | 'video' }>

const layers = computed(() => media.span.value?.layers ?? [])
const pictures = computed(() => media.near.value.filter((p) => !p.isSound))
const drawn = computed(() =>
  layers.value.flatMap((layer, i) => (layer.kind === 'feed' || layer.kind === 'video' ? [] : [{ layer, i }])),
)
const light = computed(() => {
  const span = media.span.value
  if (!span) return 1
  const [from, to] = span.light
  return from + (to - from) * Math.min(1, Math.max(0, media.into.value / span.length))
})
const layerOf = (p: Playable) =>
  layers.value.findIndex((l) =>
    l.kind === 'feed' ? l.feed === p.feed : l.kind === 'video' && p.feed === null && l.file === p.asset,
  )

/** A box in the shares of another one, as CSS. */
function inside(box: Box, of: Box) {
  const share = (part: number, whole: number) => `${(100 * part) / whole}%`
  return {
    left: share(box.x - of.x, of.width),
    top: share(box.y - of.y, of.height),
    width: share(box.width, of.width),
    height: share(box.height, of.height),
  }
}
const whole = computed<Box>(() => ({ x: 0, y: 0, ...props.frame }))
/** What of a layer is seen. */
type Boxes = Pick<Layer, 'box' | 'clip'>
const seenOf = ({ box, clip }: Boxes) => clip ?? box
const placed = (layer: Boxes, i: number) => ({ ...inside(seenOf(layer), whole.value), zIndex: i })
function place(p: Playable) {
  const i = layerOf(p)
  const layer = layers.value[i]
  // What gets ready for its turn is unseen and not away, so that its picture is there when it comes.
  if (!layer) return { ...placed({ box: whole.value, clip: null }, 0), visibility: 'hidden' as const }
  return media.isOn(p) ? placed(layer, i) : { ...placed(layer, i), visibility: 'hidden' as const }
}
function within(p: Playable) {
  const layer = layers.value[layerOf(p)]
  return layer ? inside(layer.box, seenOf(layer)) : {}
}
const isEdged = (p: Playable) => {
  const layer = layers.value[layerOf(p)] as Moving | undefined
  return layer?.kind === 'feed' && layer.edged
}
/** As coarse as the renderer's, to the eye. */
const blurred = (box: Box) => ({ '--blur': `${(60 * blurCell(box)) / props.frame.width}cqw` })
</script>

<template>
  <div v-for="p in pictures" :key="`${p.key} ${p.url}`" class="layer" :class="{ edged: isEdged(p) }" :style="place(p)">
    <video
      :ref="(el) => media.attach(p.key, el as HTMLVideoElement | null)"
      :src="p.url"
      :style="within(p)"
      muted
      playsinline
      preload="auto"
      :aria-label="media.isOn(p) ? p.label : undefined"
      :aria-hidden="!media.isOn(p)"
    />
  </div>
  <div v-for="{ layer, i } in drawn" :key="`${i} ${layer.kind}`" class="layer" :style="placed(layer, i)">
    <div
      v-if="layer.kind === 'mask'"
      class="fill"
      :class="layer.how"
      :style="layer.how === 'blur' ? blurred(layer.box) : {}"
    />
    <div v-else class="content" :style="inside(layer.box, seenOf(layer))">
      <StrokeLayer
        v-if="layer.kind === 'strokes'"
        :strokes="strokesAt(layer.strokes, layer.from + media.into.value)"
        :aspect="layer.box.width / layer.box.height"
      />
      <template v-else-if="layer.kind === 'still'">
        <img
          v-if="layer.still.kind === 'picture'"
          class="fill"
          :src="media.urlOf(layer.still.file)"
          :style="{ opacity: layer.still.opacity }"
          alt=""
        />
        <StillCanvas v-else :still="layer.still" :box="layer.box" />
      </template>
    </div>
  </div>
  <div v-if="light < 1" class="layer fill dark" :style="{ opacity: 1 - light, zIndex: layers.length }" />
</template>

<style scoped>
.layer {
  position: absolute;
  overflow: hidden;
}
.edged {
  outline: 2px solid #fff;
}
video,
.content {
  position: absolute;
}
video {
  object-fit: fill;
}
.fill {
  width: 100%;
  height: 100%;
}
.solid,
.dark {
  background: #000;
}
.dark {
  inset: 0;
}
.blur {
  backdrop-filter: blur(var(--blur));
}
</style>
