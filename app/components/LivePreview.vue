<script setup lang="ts">
import type { PictureInput } from '~/composables/use-sources'

const props = defineProps<{ input: PictureInput }>()
const video = useTemplateRef<HTMLVideoElement>('video')
watch([video, () => props.input.stream], () => {
  if (video.value) video.value.srcObject = props.input.stream
}, { immediate: true })
</script>

<template>
  <figure>
    <video ref="video" muted autoplay playsinline :aria-label="`Live picture: ${input.label}`" />
    <figcaption>{{ input.label }} <span class="mono">{{ input.frameRate }} fps</span></figcaption>
  </figure>
</template>

<style scoped>
figure { margin: 0; min-width: 0; display: flex; flex-direction: column; min-height: 0; }
video { width: 100%; min-height: 0; flex: 1; background: #e4e9e4; border-radius: var(--surface-radius); object-fit: contain; }
figcaption { font-size: 14px; color: var(--quiet); padding-top: 4px; }
</style>
