<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import type { LiveView } from '#core/packages/watch-view'
import { errorMessage } from '#core/text/error-message'
import { openLive, type LiveSource } from './live-source'
import { useShortcuts } from './shortcuts'

/** A lecture while it is held: waiting for it, watching it, some minutes back, and its end. */
const props = defineProps<{ view: LiveView; connected: boolean }>()
const video = useTemplateRef<HTMLVideoElement>('video')
const stage = useTemplateRef<HTMLElement>('stage')
const playing = ref(false)
const muted = ref(false)
/** Seconds behind the lecture; null while that is not known. */
const behind = ref<number | null>(null)
const trouble = ref('')
const now = ref(Date.now())
let source: LiveSource | null = null
let opening = false
let gone = false

/** More than this is not only what it takes to send it, s. */
const MUCH = 15
const starts = computed(() =>
  new Date(props.view.startsAt).toLocaleString('en', {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    hour: '2-digit',
    minute: '2-digit',
  }),
)
const left = computed(() => {
  const minutes = Math.ceil((Date.parse(props.view.startsAt) - now.value) / 60_000)
  return minutes <= 0
    ? 'It will begin at any moment.'
    : minutes < 120
      ? `It begins in ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}.`
      : ''
})
const says = computed(
  () =>
    ({
      announced: `To be watched live on ${starts.value}. ${left.value} This page begins by itself.`,
      on: props.view.playlist ? '' : 'It has begun. The first pictures are on their way.',
      paused: 'The lecturer has paused. It goes on here by itself.',
      lost: 'Nothing comes from the lecture at present. It goes on here by itself.',
      ended: 'The lecture is over. If its recording is published, it will be here.',
    })[props.view.state],
)
const NO_CONNECTION = 'There is no connection to the lecture. It goes on here by itself as soon as there is one.'
const late = computed(() =>
  props.view.state !== 'on' || behind.value === null
    ? ''
    : behind.value > MUCH
      ? `${Math.round(behind.value)} s behind`
      : 'Live',
)

/** Plays; a browser that wants a press first is not pressed. */
function start(): void {
  video.value?.play().catch((error: unknown) => {
    if (!(error instanceof DOMException && (error.name === 'NotAllowedError' || error.name === 'AbortError')))
      throw error
  })
}
function toggle(): void {
  if (video.value?.paused) start()
  else video.value?.pause()
}
function toNow(): void {
  source?.toNow()
  start()
}
function back(seconds: number): void {
  if (video.value) video.value.currentTime = Math.max(0, video.value.currentTime - seconds)
}
function mute(): void {
  muted.value = !muted.value
}
function fullScreen(): void {
  if (document.fullscreenElement) void document.exitFullscreen()
  else void stage.value?.requestFullscreen()
}

/** What has ended is not asked for any more; what goes on then is opened anew. */
async function open(): Promise<void> {
  if (!props.view.playlist || !video.value || source || opening) return
  opening = true
  try {
    source = await openLive(video.value, props.view.playlist, (text) => {
      trouble.value = text
    })
    if (gone) source.close()
    else start()
  } catch (error) {
    trouble.value = errorMessage(error)
  } finally {
    opening = false
  }
}
onMounted(open)
watch(() => props.view.playlist, open)
watch(
  () => props.view.state,
  (state, before) => {
    if (before !== 'ended' || state === 'ended') return
    source?.close()
    source = null
    void open()
  },
)

const timer = setInterval(() => {
  now.value = Date.now()
  behind.value = source?.behind() ?? null
}, 1000)
useShortcuts({ Space: toggle, ArrowLeft: () => back(5), m: mute, f: fullScreen })
onBeforeUnmount(() => {
  gone = true
  clearInterval(timer)
  source?.close()
})
</script>

<template>
  <main class="player live">
    <section ref="stage" class="stage" tabindex="-1" aria-label="Video">
      <h1 :class="{ unseen: view.playlist }">{{ view.title }}</h1>
      <div v-show="view.playlist" class="picture">
        <video
          ref="video"
          playsinline
          :muted="muted"
          @click="toggle"
          @play="playing = true"
          @pause="playing = false"
          @ended="playing = false"
        />
        <button v-if="!playing && view.state !== 'ended'" type="button" class="main begin" @click="toNow">Watch</button>
      </div>
      <p class="state" :class="view.playlist ? 'reminder' : 'waits'" role="status">
        {{ connected ? trouble || says : NO_CONNECTION }}
      </p>
      <div v-if="view.playlist" class="controls">
        <button type="button" class="main" @click="toggle">{{ playing ? 'Pause' : 'Play' }}</button>
        <span v-if="late" class="late"><span v-if="late === 'Live'" class="dot" aria-hidden="true" />{{ late }}</span>
        <button v-if="behind !== null && behind > MUCH && view.state === 'on'" type="button" @click="toNow">
          Go to now
        </button>
        <span class="grow" />
        <button type="button" title="←" @click="back(5)">Back 5 s</button>
        <button type="button" title="M" :aria-pressed="muted" @click="mute">Mute</button>
        <button type="button" title="F" @click="fullScreen">Full screen</button>
      </div>
    </section>
  </main>
</template>
