<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, shallowRef, useTemplateRef } from 'vue'
import { sayLanguage } from '#core/captions/languages'
import { cueAt } from '#core/captions/lookup'
import { spansOf } from '#core/captions/markup'
import { standingOf } from '#core/captions/position'
import { formatTimecode } from '#core/time/timecode'
import type { WatchView } from '#core/packages/watch-view'
import type { LayoutPreset } from '#core/schema/edit'
import type { Gateway } from './gateway'
import type { OutboxPorts } from './outbox'
import PictureFrame from './PictureFrame.vue'
import QuestionSheet from './QuestionSheet.vue'
import TranscriptPanel from './TranscriptPanel.vue'
import { useShortcuts } from './shortcuts'
import { useLecture, type ShownCheckpoint } from './use-lecture'

const props = defineProps<{ gateway: Gateway; storage: OutboxPorts['storage']; loaded: WatchView }>()
const lecture = useLecture(props.gateway, props.storage, props.loaded)
const { view, cues, trouble, outboxState, unanswered } = lecture

const video = shallowRef<HTMLVideoElement | null>(null)
const stage = useTemplateRef<HTMLElement>('stage')
const time = ref(0)
const playing = ref(false)
const ended = ref(false)
const speed = ref(1)
const captionsShown = ref(props.storage.getItem('thaw-captions') !== 'off')
const transcriptShown = ref(true)
const keysShown = ref(false)
const asking = ref<string | null>(null)
const putOff = new Set<string>()

const asked = computed(() => view.value.checkpoints.find((c) => c.id === asking.value) ?? null)
const line = computed(() => (captionsShown.value ? cueAt(cues.value, time.value) : undefined))
const spans = computed(() => (line.value ? spansOf(line.value.text) : []))
const standing = computed(() => standingOf(line.value ?? {}))
const duration = computed(() => view.value.duration)
const pictures = computed(() => view.value.feeds.filter((f) => f.width > 0).length)
const wishes: [LayoutPreset | '', string][] = [
  ['', 'As laid out'],
  ['inset', 'Screen large'],
  ['beside', 'Side by side'],
  ['screen', 'Screen alone'],
  ['camera', 'Camera alone'],
]
const wish = ref(wishes.find(([value]) => value === props.storage.getItem('thaw-pictures'))?.[0] ?? '')
const chapter = computed(() => view.value.chapters.findLast((c) => c.at <= time.value + 0.05)?.id ?? '')
/** Name of a film that is saved: the lecture's, and which of its pictures it is where there are several. */
const saveName = (feed: string) =>
  `${[view.value.title.replaceAll(/[^\p{L}\p{N} ._-]/gu, '_'), ...(view.value.feeds.length > 1 ? [feed] : [])].join(' ')}.mp4`
const speeds = [0.75, 1, 1.25, 1.5, 1.75, 2]

onMounted(lecture.loadCaptions)

let frame = 0
let before = 0
/** Runs while the video plays: stops at the first open checkpoint that the playhead passed. */
function watchTime(): void {
  const element = video.value
  if (!element) return
  const now = element.currentTime
  const due = unanswered.value.find((c) => c.at > before - 0.001 && c.at <= now && !putOff.has(c.id))
  time.value = now
  before = now
  if (due) ask(due)
  else if (!element.paused) frame = requestAnimationFrame(watchTime)
}

function ask(checkpoint: ShownCheckpoint): void {
  const element = video.value
  if (!element) return
  element.pause()
  element.currentTime = checkpoint.at
  time.value = before = checkpoint.at
  asking.value = checkpoint.id
}

function goOn(): void {
  if (asking.value) putOff.add(asking.value)
  asking.value = null
  start()
  void nextTick(() => stage.value?.focus())
}

/** Plays; a pause that comes before playing has begun is no error. */
function start(): void {
  video.value?.play().catch((error: unknown) => {
    if (!(error instanceof DOMException && error.name === 'AbortError')) throw error
  })
}

function toggle(): void {
  const element = video.value
  if (!element || asking.value) return
  if (element.paused) start()
  else element.pause()
}

function seek(to: number): void {
  const element = video.value
  if (!element) return
  asking.value = null
  element.currentTime = Math.min(duration.value, Math.max(0, to))
  time.value = before = element.currentTime
}

function lookAgain(at: number): void {
  if (asking.value) putOff.add(asking.value)
  seek(at)
  start()
  void nextTick(() => stage.value?.focus())
}

function goToQuestion(checkpoint: ShownCheckpoint): void {
  putOff.delete(checkpoint.id)
  ask(checkpoint)
}

function onPlay(): void {
  playing.value = true
  ended.value = false
  before = video.value?.currentTime ?? 0
  frame = requestAnimationFrame(watchTime)
}

function onEnded(): void {
  ended.value = true
  watchTime()
}

function onReady(): void {
  const at = lecture.position.read()
  if (at > 5 && at < duration.value - 5) seek(at)
}

function setWish(value: string): void {
  wish.value = wishes.find(([known]) => known === value)?.[0] ?? ''
  props.storage.setItem('thaw-pictures', wish.value)
}

function goToChapter(id: string): void {
  const found = view.value.chapters.find((c) => c.id === id)
  if (found) seek(found.at)
}

/** The first picture is there; from it everything else takes its time. */
function attach(element: HTMLVideoElement): void {
  video.value = element
  element.addEventListener('play', onPlay)
  element.addEventListener('pause', () => {
    playing.value = false
  })
  element.addEventListener('ended', onEnded)
  element.addEventListener('seeked', () => {
    time.value = element.currentTime
  })
  if (element.readyState > 0) onReady()
  else element.addEventListener('loadedmetadata', onReady, { once: true })
}

/** In its own language, for those who read that. */
const sayCaptions = ({ language, role }: WatchView['captions'][number]) =>
  sayLanguage(language, language) + (role === 'captions' ? ', as spoken' : '')

function toggleCaptions(): void {
  captionsShown.value = !captionsShown.value
  props.storage.setItem('thaw-captions', captionsShown.value ? 'on' : 'off')
}

function fullScreen(): void {
  if (document.fullscreenElement) void document.exitFullscreen()
  else void stage.value?.requestFullscreen()
}

const showKeys = () => {
  keysShown.value = !keysShown.value
}
/** What a person is told of a key, what it does, and its names. */
const keys: [string, string, () => void, ...string[]][] = [
  ['Space', 'Play or pause', toggle, 'Space'],
  ['←', 'Back 5 s', () => seek(time.value - 5), 'ArrowLeft'],
  ['→', 'On 5 s', () => seek(time.value + 5), 'ArrowRight'],
  ['c', 'Captions on or off', toggleCaptions, 'c'],
  [
    't',
    'Transcript on or off',
    () => {
      transcriptShown.value = !transcriptShown.value
    },
    't',
  ],
  ['f', 'Full screen', fullScreen, 'f'],
  // Where it is typed depends on the keyboard.
  ['?', 'Show these keys', showKeys, '?', 'Shift+?'],
]
useShortcuts(
  Object.fromEntries(keys.flatMap(([, , act, ...names]) => names.map((name) => [name, act]))),
  () => asking.value === null,
)

const keep = setInterval(() => {
  if (playing.value) lecture.position.write(time.value)
}, 2000)
onBeforeUnmount(() => {
  clearInterval(keep)
  cancelAnimationFrame(frame)
})
</script>

<template>
  <main v-if="trouble" class="notice" role="alert">
    <p>{{ trouble }}</p>
    <button type="button" @click="lecture.loadCaptions">Try again</button>
  </main>
  <main v-else class="player" :class="{ 'with-transcript': transcriptShown && cues.length }">
    <h1 class="unseen">{{ view.title }}</h1>
    <section ref="stage" class="stage" tabindex="-1" aria-label="Video">
      <div class="picture">
        <PictureFrame
          :view="loaded"
          :time="time"
          :wish="wish || null"
          :speed="speed"
          @ready="attach"
          @press="toggle"
          @follow="seek"
          @leave="video?.pause()"
        />
        <p v-if="line && !asked" class="caption" :class="[standing.line, standing.align]" aria-hidden="true">
          <span
            ><template v-for="(s, i) in spans" :key="i"
              ><b v-if="s.speaker" class="who">{{ s.speaker }}: </b
              ><span :class="{ i: s.italic, b: s.bold, u: s.underlined }">{{ s.text }}</span></template
            ></span
          >
        </p>
        <QuestionSheet
          v-if="asked"
          :key="asked.id"
          :checkpoint="asked"
          :answer-of="lecture.answerOf"
          :is-answered="lecture.isAnswered"
          :state="outboxState"
          @select="lecture.select"
          @answer="lecture.answer"
          @go-on="goOn"
          @look="lookAgain"
        />
      </div>
      <div class="timeline">
        <input
          type="range"
          min="0"
          :max="duration"
          step="0.1"
          :value="time"
          aria-label="Position"
          :aria-valuetext="`${formatTimecode(time)} of ${formatTimecode(duration)}`"
          @input="seek(Number(($event.target as HTMLInputElement).value))"
        />
        <button
          v-for="(c, i) in view.checkpoints"
          :key="c.id"
          type="button"
          class="mark"
          :class="{ done: lecture.isDone(c) }"
          :style="{ left: `${(100 * c.at) / duration}%` }"
          :aria-label="`Question ${i + 1} at ${formatTimecode(c.at)}, ${lecture.isDone(c) ? 'answered' : 'not answered'}`"
          @click="goToQuestion(c)"
        >
          {{ lecture.isDone(c) ? '✓' : '?' }}
        </button>
      </div>
      <div class="controls">
        <button type="button" class="main" :disabled="!!asked" @click="toggle">{{ playing ? 'Pause' : 'Play' }}</button>
        <span class="time">{{ formatTimecode(time) }} / {{ formatTimecode(duration) }}</span>
        <span class="grow" />
        <label
          ><span class="unseen">Speed</span>
          <select v-model.number="speed">
            <option v-for="s in speeds" :key="s" :value="s">{{ s }} ×</option>
          </select></label
        >
        <label v-if="pictures > 1"
          ><span class="unseen">Pictures</span>
          <select :value="wish" @change="setWish(($event.target as HTMLSelectElement).value)">
            <option v-for="[value, name] in wishes" :key="value" :value="value">{{ name }}</option>
          </select></label
        >
        <label v-if="view.chapters.length"
          ><span class="unseen">Chapter</span>
          <select :value="chapter" @change="goToChapter(($event.target as HTMLSelectElement).value)">
            <option v-if="!chapter" value="">–</option>
            <option v-for="c in view.chapters" :key="c.id" :value="c.id">
              {{ formatTimecode(c.at) }} {{ c.title }}
            </option>
          </select></label
        >
        <label v-if="view.captions.length > 1"
          ><span class="unseen">Language of the captions</span>
          <select
            :value="lecture.track.value"
            @change="lecture.chooseTrack(Number(($event.target as HTMLSelectElement).value))"
          >
            <option v-for="(t, i) in view.captions" :key="t.url" :value="i">{{ sayCaptions(t) }}</option>
          </select></label
        >
        <button v-if="cues.length" type="button" :aria-pressed="captionsShown" @click="toggleCaptions">Captions</button>
        <button
          v-if="cues.length"
          type="button"
          :aria-pressed="transcriptShown"
          @click="transcriptShown = !transcriptShown"
        >
          Transcript
        </button>
        <button type="button" @click="fullScreen">Full screen</button>
        <template v-if="view.download">
          <a v-for="f in view.feeds" :key="f.id" class="button" :href="f.url" :download="saveName(f.id)">{{
            view.feeds.length === 1 ? 'Save video' : `Save ${f.id}`
          }}</a>
        </template>
        <button type="button" :aria-expanded="keysShown" @click="keysShown = !keysShown">Keys</button>
      </div>
      <dl v-if="keysShown" class="keys">
        <div v-for="[key, says] in keys" :key="key">
          <dt>{{ key }}</dt>
          <dd>{{ says }}</dd>
        </div>
      </dl>
      <p v-if="ended && unanswered.length" class="reminder" role="status">
        {{
          unanswered.length === 1
            ? 'One question is not answered yet.'
            : `${unanswered.length} questions are not answered yet.`
        }}
        <button type="button" @click="unanswered[0] && goToQuestion(unanswered[0])">Go to it</button>
      </p>
      <p v-if="outboxState.trouble && !asked" class="reminder" role="status">{{ outboxState.trouble }}</p>
    </section>
    <TranscriptPanel v-if="transcriptShown && cues.length" :cues="cues" :time="time" @seek="seek" />
  </main>
</template>
