<script setup lang="ts">
import { Bookmark, PictureInPicture2 } from 'lucide-vue-next'
import { formatTimecode } from '#core/time/timecode'
import type { useFloating } from '~/composables/use-floating'
import type { useRecorder } from '~/composables/use-recorder'

/**
 * The running recording: its clock, what is kept, pause, mark and stop; here, or in a small window that stays on top.
 */
const props = defineProps<{
  recorder: ReturnType<typeof useRecorder>
  floating: ReturnType<typeof useFloating>
  /** Whether a pause keeps rolling. */
  rolls: boolean
  /** Whether students may watch live. */
  watched: boolean
}>()
const emit = defineEmits<{ pause: []; stop: [] }>()
const { state, clock, bytes, paused, marks, storage } = props.recorder
const pauseSays = computed(() =>
  [
    props.rolls
      ? 'Paused. It keeps rolling: this part is folded away and can be opened again later.'
      : 'Stopped. Nothing is recorded until you go on; then a further take begins, end to end with this one.',
    ...(props.watched ? ['Students who watch live are told that you have paused.'] : []),
  ].join(' '),
)
</script>

<template>
  <Teleport :to="floating.body.value" :disabled="!floating.body.value">
    <div class="live">
      <p class="clock" role="timer" :data-seconds="clock.toFixed(2)">
        <span class="dot" :class="{ paused }" aria-hidden="true" /><span class="mono">{{ formatTimecode(clock) }}</span>
        <span class="quiet"
          >{{ (bytes / 1e6).toFixed(1) }} MB kept, {{ (storage.free.value / 1e9).toFixed(1) }} GB left</span
        >
      </p>
      <p v-if="paused" class="notice">{{ pauseSays }}</p>
      <div class="row">
        <el-button @click="emit('pause')">{{ paused ? 'Go on' : 'Pause' }}</el-button>
        <el-button title="M" :disabled="paused && !rolls" @click="recorder.mark()"
          ><Bookmark :size="15" aria-hidden="true" /> Mark this<span v-if="marks" class="quiet">
            {{ marks }}</span
          ></el-button
        >
        <el-button
          v-if="floating.available && !floating.body.value"
          title="A small window that stays on top"
          aria-label="Float the controls"
          @click="floating.open()"
          ><PictureInPicture2 :size="15" aria-hidden="true"
        /></el-button>
        <el-button type="danger" :loading="state === 'ending'" @click="emit('stop')">Stop</el-button>
      </div>
    </div>
  </Teleport>
  <p v-if="floating.body.value" class="quiet away">
    The controls are in a small window of their own.
    <el-button link @click="floating.close()">Bring them back here</el-button>
  </p>
</template>

<style scoped>
.live {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.live > p,
.away {
  margin: 0;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.row .el-button {
  margin: 0;
}
.clock {
  display: flex;
  gap: 10px;
  align-items: center;
  font-size: 26px;
}
.clock .quiet {
  font-size: 14px;
}
.dot {
  width: 14px;
  height: 14px;
  border-radius: 50%;
  background: var(--ember);
}
.dot.paused {
  background: none;
  border: 3px solid var(--marigold);
}
</style>
