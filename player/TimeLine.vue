<script setup lang="ts">
/** The line of the whole lecture: to go along, with its chapters and questions; who points at it sees what is there. */
import { computed, ref, useTemplateRef } from 'vue'
import type { WatchView } from '#core/packages/watch-view'
import { stillAt, sheetSize } from '#core/picture/still-sheet'
import { formatTimecode } from '#core/time/timecode'
import type { ShownCheckpoint } from './use-lecture'

const props = defineProps<{
  view: WatchView
  /** s */
  time: number
  isDone: (checkpoint: ShownCheckpoint) => boolean
}>()
const emit = defineEmits<{ seek: [seconds: number]; question: [checkpoint: ShownCheckpoint] }>()

const duration = computed(() => props.view.duration)
const line = useTemplateRef('line')
const percent = (at: number) => `${(100 * at) / duration.value}%`

/** Width of what is dragged along the line, px: half of it is left free at each end. */
const THUMB = 16
/** What is pointed at, s; null when nothing is. */
const pointed = ref<number | null>(null)
function point(e: PointerEvent): void {
  const box = line.value?.getBoundingClientRect()
  if (!box) return
  const along = (e.clientX - box.left - THUMB / 2) / (box.width - THUMB)
  pointed.value = duration.value * Math.min(1, Math.max(0, along))
}
const leave = () => {
  pointed.value = null
}
const chapter = computed(() => {
  const at = pointed.value
  return at === null ? '' : (props.view.chapters.findLast((c) => c.at <= at)?.title ?? '')
})
const still = computed(() => {
  const { stills } = props.view
  if (!stills || pointed.value === null) return null
  const { x, y } = stillAt(stills, duration.value, pointed.value)
  const sheet = sheetSize(stills, duration.value)
  return {
    width: `${stills.width}px`,
    height: `${stills.height}px`,
    backgroundImage: `url("${stills.url}")`,
    backgroundPosition: `-${x}px -${y}px`,
    backgroundSize: `${sheet.width}px ${sheet.height}px`,
  }
})
</script>

<template>
  <div class="timeline" @pointermove="point" @pointerdown="point" @pointerleave="leave" @pointercancel="leave">
    <input
      ref="line"
      type="range"
      min="0"
      :max="duration"
      step="0.1"
      :value="time"
      aria-label="Position"
      :aria-valuetext="`${formatTimecode(time)} of ${formatTimecode(duration)}`"
      @input="emit('seek', Number(($event.target as HTMLInputElement).value))"
      @change="leave"
    />
    <span v-for="c in view.chapters" :key="c.id" class="chapter" :style="{ left: percent(c.at) }" aria-hidden="true" />
    <button
      v-for="(c, i) in view.checkpoints"
      :key="c.id"
      type="button"
      class="mark"
      :class="{ done: isDone(c) }"
      :style="{ left: percent(c.at) }"
      :aria-label="`Question ${i + 1} at ${formatTimecode(c.at)}, ${isDone(c) ? 'answered' : 'not answered'}`"
      @click="emit('question', c)"
    >
      {{ isDone(c) ? '✓' : '?' }}
    </button>
    <div v-if="pointed !== null" class="pointed" :style="{ '--at': percent(pointed) }" aria-hidden="true">
      <div v-if="still" class="still" :style="still" />
      <b v-if="chapter">{{ chapter }}</b>
      <span>{{ formatTimecode(pointed) }}</span>
    </div>
  </div>
</template>
