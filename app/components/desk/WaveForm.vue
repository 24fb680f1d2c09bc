<script setup lang="ts">
import { toTime, type Axis } from '#core/time/axis'
import { levelFor, peakBetween, type PeakLevel } from '#core/sound/peaks'

/** Draws only the visible window, whatever the zoom. */
const props = defineProps<{
  levels: PeakLevel[]
  /** What is drawn where nothing finer has been measured yet, with the instant at which it begins, s. */
  coarse: { level: PeakLevel; from: number }[]
  axis: Axis
  scale: number
  from: number
  width: number
  /** px */
  height: number
}>()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')

/** Null where nothing is measured yet, which is not drawn as silence. */
function peaksAt(level: PeakLevel | undefined, from: number, to: number) {
  const reaches = ({ binsPerSecond, data }: PeakLevel, t: number) => t >= 0 && t * binsPerSecond < data.length / 2
  if (level && reaches(level, from)) return peakBetween(level, from, to)
  const rough = props.coarse.find((c) => reaches(c.level, from - c.from))
  return rough ? peakBetween(rough.level, from - rough.from, to - rough.from) : null
}

function draw(): void {
  const element = canvas.value
  const g = element?.getContext('2d')
  const level = levelFor(props.levels, props.scale)
  if (!element || !g || props.width < 1) return
  const ratio = window.devicePixelRatio || 1
  element.width = Math.round(props.width * ratio)
  element.height = props.height * ratio
  g.scale(ratio, ratio)
  g.fillStyle = '#5f8590'
  const middle = props.height / 2
  for (let x = 0; x < props.width; x++) {
    const a = toTime(props.axis, props.from + x)
    const b = toTime(props.axis, props.from + x + 1)
    const found = peaksAt(level, a, b)
    if (!found) continue
    const { low, high } = found
    // Square root: speech stays visible beside a loud knock.
    const up = Math.sqrt(Math.max(0, high)) * (middle - 2)
    const down = Math.sqrt(Math.max(0, -low)) * (middle - 2)
    g.fillRect(x, middle - up, 1, Math.max(1, up + down))
  }
}
watch(
  () => [props.levels, props.coarse, props.axis, props.scale, props.from, props.width, props.height, canvas.value],
  draw,
  {
    flush: 'post',
  },
)
onMounted(draw)
</script>

<template>
  <canvas ref="canvas" aria-hidden="true" :style="{ left: `${from}px`, width: `${width}px`, height: `${height}px` }" />
</template>

<style scoped>
canvas {
  position: absolute;
  top: 0;
  pointer-events: none;
}
</style>
