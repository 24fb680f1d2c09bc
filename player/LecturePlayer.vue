<script setup lang="ts">
import {
  computed,
  defineAsyncComponent,
  nextTick,
  onBeforeUnmount,
  onMounted,
  provide,
  ref,
  shallowRef,
  useTemplateRef,
  type Component,
} from 'vue'
import { sayLanguage } from '#core/captions/languages'
import { cueAt } from '#core/captions/lookup'
import { spansOf } from '#core/captions/markup'
import { standingOf } from '#core/captions/position'
import { isEmpty } from '#core/text/rich-text'
import { formatTimecode } from '#core/time/timecode'
import type { WatchView } from '#core/packages/watch-view'
import type { LayoutPreset } from '#core/schema/edit'
import type { Gateway } from './gateway'
import type { OutboxPorts } from './outbox'
import PictureFrame from './PictureFrame.vue'
import { readLooks, styleOf, writeLooks, type Looks } from './looks'
import { stopsOf } from './finding'
import { pictureUrlKey } from './picture-url'
import TimeLine from './TimeLine.vue'
import TranscriptPanel from './TranscriptPanel.vue'
import { useShortcuts } from './shortcuts'
import { useLecture, type ShownCheckpoint, type ShownSet } from './use-lecture'

/** Fetched when it is used; without a connection, again and again until it comes. */
const late = <T extends Component>(loader: () => Promise<T>) =>
  defineAsyncComponent({ loader, onError: (_, retry) => void setTimeout(retry, 2000) })
const loadQuestion = () => import('./QuestionSheet.vue')
const loadReview = () => import('./ReviewSheet.vue')
const QuestionSheet = late(() => loadQuestion().then((m) => m.default))
const ReviewSheet = late(() => loadReview().then((m) => m.default))
const WelcomeSheet = late(() => import('./WelcomeSheet.vue').then((m) => m.default))
const LooksSheet = late(() => import('./LooksSheet.vue').then((m) => m.default))

const props = defineProps<{ gateway: Gateway; storage: OutboxPorts['storage']; loaded: WatchView }>()
const lecture = useLecture(props.gateway, props.storage, props.loaded)
provide(pictureUrlKey, (file) => props.gateway.pictureUrl(props.loaded, file))
const { view, cues, trouble, outboxState, unanswered, limit } = lecture

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
/** The question that it begins with, when one was chosen. */
const askedFirst = ref<string | null>(null)
const putOff = ref(new Set<string>())
/** What covers the picture besides a question. */
const covering = ref<'welcome' | 'review' | 'looks' | null>(null)
const looks = ref(readLooks(props.storage))
function setLooks(next: Looks): void {
  looks.value = next
  writeLooks(props.storage, next)
}

const asked = computed(() => view.value.checkpoints.find((c) => c.id === asking.value) ?? null)
const askedSet = computed(() => (asked.value ? lecture.setOf(asked.value.set) : null))
/** Whether there is something to know, or to read, before one begins. */
const hasWelcome = computed(() =>
  view.value.sets.some(
    ({ policy }) =>
      !isEmpty(policy.welcome) || policy.readBefore || policy.changes || !policy.ahead || policy.attempts.most !== 1,
  ),
)
/** Whether a set is not handed in: of one that has nothing to answer nobody is reminded. */
const isOpen = (set: ShownSet) =>
  set.attempts.at(-1)?.handedInAt === null && view.value.checkpoints.some((c) => c.set === set.version)
/** Why the last jump did not go as far as it was meant to; empty when it did. */
const held = ref('')
/** Known before they have come: what they add is there from the beginning, so that nothing moves under the pointer. */
const hasCaptions = computed(() => view.value.captions.length > 0)
const line = computed(() => (captionsShown.value ? cueAt(cues.value, time.value) : undefined))
const spans = computed(() => (line.value ? spansOf(line.value.text) : []))
const standing = computed(() => {
  const { place } = looks.value
  const own = standingOf(line.value ?? {})
  return place === 'foot' || place === 'top' ? { ...own, line: place } : own
})
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
const speeds = [0.5, 0.75, 1, 1.25, 1.5, 1.75, 2, 2.5, 3]

onMounted(lecture.loadCaptions)

let frame = 0
let before = 0
/** Runs while the video plays: stops at the first open checkpoint that the playhead passed. */
function watchTime(): void {
  const element = video.value
  if (!element) return
  const now = element.currentTime
  const due = unanswered.value.find((c) => c.at > before - 0.001 && c.at <= now && !putOff.value.has(c.id))
  time.value = now
  // What was jumped over was not watched.
  if (now - before < 1) lecture.reach(now)
  before = now
  if (due) ask(due)
  else if (!element.paused) frame = requestAnimationFrame(watchTime)
}

function ask(checkpoint: ShownCheckpoint, first: string | null = null): void {
  const element = video.value
  if (!element) return
  element.pause()
  element.currentTime = checkpoint.at
  time.value = before = checkpoint.at
  askedFirst.value = first
  asking.value = checkpoint.id
}

function goOn(): void {
  if (asking.value) putOff.value.add(asking.value)
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
  if (!element || asking.value || covering.value) return
  if (element.paused) start()
  else element.pause()
}

function seek(to: number): void {
  const element = video.value
  if (!element) return
  asking.value = null
  covering.value = null
  const wanted = Math.min(duration.value, Math.max(0, to))
  const most = limit.value
  // A second more, as what plays is never exactly where it was.
  held.value = most && wanted > most.at + 1 ? most.why : ''
  element.currentTime = held.value ? (most?.at ?? wanted) : wanted
  time.value = before = element.currentTime
}

function lookAgain(at: number): void {
  if (asking.value) putOff.value.add(asking.value)
  seek(at)
  start()
  void nextTick(() => stage.value?.focus())
}

function goToQuestion(checkpoint: ShownCheckpoint, questionId: string | null = null): void {
  const most = limit.value
  if (most && checkpoint.at > most.at + 1) {
    held.value = most.why
    return
  }
  held.value = ''
  covering.value = null
  putOff.value.delete(checkpoint.id)
  ask(checkpoint, questionId)
}

const mayRead = (c: ShownCheckpoint) =>
  lecture.isDone(c) || c.at <= lecture.reached.value + 1 || (lecture.setOf(c.set)?.policy.readBefore ?? false)
/** By their ids, as one text: it is looked at in every frame that plays, and mostly stays. */
const readable = computed(() =>
  view.value.checkpoints
    .filter(mayRead)
    .map((c) => c.id)
    .join(' '),
)
/** What can be found by words; of questions those that may be read. */
const stops = computed(() => {
  const ids = new Set(readable.value.split(' '))
  return stopsOf(view.value, cues.value, (c) => ids.has(c.id))
})
function findQuestion(id: string): void {
  const found = view.value.checkpoints.find((c) => c.questions.some((q) => q.open.id === id))
  if (found) goToQuestion(found, id)
}

function review(): void {
  video.value?.pause()
  asking.value = null
  covering.value = 'review'
}
function uncover(): void {
  covering.value = null
  void nextTick(() => stage.value?.focus())
}
/** A further attempt begins where the lecture does. */
function beginAgain(set: ShownSet): void {
  putOff.value.clear()
  lecture.begin(set)
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
  if (!asking.value && view.value.sets.some(isOpen)) review()
}

function onReady(): void {
  // Whoever went to a question before the film was there stays at it.
  if (asking.value || covering.value) return
  const at = lecture.position.read()
  if (at > 5 && at < duration.value - 5) seek(at)
  else if (hasWelcome.value && view.value.sets.some(isOpen)) covering.value = 'welcome'
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
  element.addEventListener('play', () => void lecture.follow(element), { once: true })
  // Questions have to open without a connection as well; the film goes first.
  const fetchQuestions = () => {
    if (view.value.checkpoints.length > 0) void Promise.allSettled([loadQuestion(), loadReview()])
  }
  for (const sign of ['play', 'canplaythrough']) element.addEventListener(sign, fetchQuestions, { once: true })
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

/** The picture in a window of its own, over whatever else is done. */
const canFloat = document.pictureInPictureEnabled
const float = () =>
  void (document.pictureInPictureElement
    ? document.exitPictureInPicture()
    : video.value?.requestPictureInPicture().catch(() => {
        held.value = 'The browser opens no small window now.'
      }))

/** Two taps on a side of the picture go back or on. */
let tapped = { at: 0, side: 0 }
function press(e?: MouseEvent): void {
  const box = stage.value?.getBoundingClientRect()
  const isTouch = e instanceof PointerEvent && e.pointerType === 'touch'
  if (!isTouch || !box) return toggle()
  const along = (e.clientX - box.left) / box.width
  const side = along < 0.35 ? -1 : along > 0.65 ? 1 : 0
  const isSecond = side !== 0 && tapped.side === side && e.timeStamp - tapped.at < 350
  tapped = { at: e.timeStamp, side }
  // The first of the two has played or paused; that is undone.
  toggle()
  if (isSecond) seek(time.value + 10 * side)
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
  () => asking.value === null && covering.value === null,
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
  <main v-else class="player" :class="{ 'with-transcript': transcriptShown && hasCaptions }">
    <h1 class="unseen">{{ view.title }}</h1>
    <section ref="stage" class="stage" tabindex="-1" aria-label="Video">
      <div class="picture">
        <PictureFrame
          :view="loaded"
          :time="time"
          :wish="wish || null"
          :speed="speed"
          @ready="attach"
          @press="press"
          @follow="seek"
          @leave="video?.pause()"
        />
        <p
          v-if="line && !asked"
          class="caption"
          :class="[standing.line, standing.align]"
          :style="styleOf(looks)"
          aria-hidden="true"
        >
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
          :is-final="(question) => lecture.isFinal(question, asked?.set ?? '')"
          :can-change="askedSet?.policy.changes ?? false"
          :can-put-off="askedSet?.policy.putOff ?? true"
          :first="askedFirst"
          :state="outboxState"
          @select="lecture.select"
          @answer="lecture.answer"
          @go-on="goOn"
          @look="lookAgain"
        />
        <ReviewSheet
          v-else-if="covering === 'review'"
          :view="view"
          :is-answered="lecture.isAnswered"
          :is-ending="lecture.isEnding"
          :put-off="putOff"
          :most="limit ? limit.at + 1 : duration"
          :state="outboxState"
          @close="uncover"
          @go="goToQuestion"
          @look="lookAgain"
          @hand-in="lecture.handIn"
          @begin="beginAgain"
        />
        <WelcomeSheet v-else-if="covering === 'welcome'" :view="view" @close="uncover" />
        <LooksSheet v-else-if="covering === 'looks'" :looks="looks" @change="setLooks" @close="uncover" />
      </div>
      <TimeLine :view="view" :time="time" :is-done="lecture.isDone" @seek="seek" @question="goToQuestion" />
      <div class="controls">
        <button type="button" class="main" :disabled="!!asked || !!covering" @click="toggle">
          {{ playing ? 'Pause' : 'Play' }}
        </button>
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
        <button v-if="hasCaptions" type="button" :aria-pressed="captionsShown" @click="toggleCaptions">Captions</button>
        <button
          v-if="hasCaptions"
          type="button"
          :aria-pressed="transcriptShown"
          @click="transcriptShown = !transcriptShown"
        >
          Transcript
        </button>
        <button v-if="hasCaptions" type="button" @click="covering = 'looks'">How captions look</button>
        <button v-if="view.checkpoints.length" type="button" @click="review">Your answers</button>
        <button v-if="hasWelcome" type="button" @click="covering = 'welcome'">About the questions</button>
        <button type="button" @click="fullScreen">Full screen</button>
        <button v-if="canFloat" type="button" @click="float">Small window</button>
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
      <p v-if="held" class="reminder" role="status">{{ held }}</p>
      <p v-if="outboxState.trouble && !asked" class="reminder" role="status">{{ outboxState.trouble }}</p>
      <p v-if="gateway.report" class="kept">
        {{
          view.sumsOnly
            ? 'Kept for your instructor: your answers, and of everybody together which parts were watched.'
            : 'Kept for your instructor: your answers, and which parts you watched and when.'
        }}
      </p>
    </section>
    <TranscriptPanel
      v-if="transcriptShown && hasCaptions"
      :cues="cues"
      :stops="stops"
      :time="time"
      @seek="seek"
      @question="findQuestion"
    />
  </main>
</template>
