<script setup lang="ts">
import type { Size } from '#core/picture/layout'
import type { Still } from '#core/render/script'
import { loadFonts, paintWords, type Words } from '#media/render/words'

/** A card or lines of text, drawn as the renderer draws them. Fills its parent. */
const props = defineProps<{ still: Exclude<Still, { kind: 'picture' }>; box: Size }>()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')

async function draw(words: Words, { width, height }: Size): Promise<void> {
  await loadFonts(document.fonts)
  const g = canvas.value?.getContext('2d')
  if (!g) return
  g.clearRect(0, 0, width, height)
  paintWords(g, words, { width, height })
}
watch(
  () => [props.still, props.box.width, props.box.height] as const,
  () => void draw(props.still, props.box),
  { flush: 'post' },
)
onMounted(() => void draw(props.still, props.box))
</script>

<template>
  <canvas
    ref="canvas"
    :width="box.width"
    :height="box.height"
    role="img"
    :aria-label="still.kind === 'card' ? `${still.title} ${still.text}`.trim() : still.text"
  />
</template>

<style scoped>
canvas {
  width: 100%;
  height: 100%;
}
</style>
