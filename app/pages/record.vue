<script setup lang="ts">
import dayjs from 'dayjs'
import relativeTime from 'dayjs/plugin/relativeTime'
import { sayWhere } from '#core/library/folders'
import { adviceOn, hoursThatFit, isHall, kindOf, missingFrames, perHour, sumPerHour } from '#core/record/inputs'
import type { ShareBox } from '#core/schema/edit'
import type { InputSource, Setup } from '#core/schema/setup'
import type { Take } from '#core/schema/lecture'
import { sayDuration } from '#core/time/timecode'
import { db } from '~/db/database'
import { describeLecture } from '~/services/lectures'
import { joinTakes } from '#core/record/recording'
import { errorMessage } from '#core/text/error-message'
import { takesOf } from '~/services/cards'
import { draftArrivals } from '~/services/captioning'
import { discardedTakes, discardTake, settleTake } from '~/services/takes'
import { useShortcuts, type Shortcut } from '~/composables/use-shortcuts'
import type { RoomInput } from '~/composables/use-inputs'
import type { EndedTake } from '~/composables/use-recorder'
import { useJobs } from '~/stores/jobs'

const lectureId = String(useRoute().query.lecture ?? '')
const jobs = useJobs()
const room = useInputs()
const { inputs, plans, running, devices, hall, pictures } = room
const watched = useBroadcast(lectureId)
const { announced, shown } = watched
const recorder = useRecorder(
  () => running.value,
  watched.out,
  (takes, says) => {
    ending.value = { takes, says }
  },
)
const { state, countdown, clock, paused, warnings, health, storage, storageWarning } = recorder
const strokes = useStrokes(recorder.now, (all) => void recorder.draw(all))
const floating = useFloating()

const where = useLive(async () => {
  const lecture = await db.lectures.get(lectureId)
  const course = lecture && (await db.courses.get(lecture.courseId))
  return lecture
    ? {
        lecture,
        course: course ?? null,
        published: Boolean(await db.releases.get(lectureId)),
        taken: joinTakes(await takesOf(lectureId))?.duration ?? 0,
        discarded: await discardedTakes(lectureId),
      }
    : null
})
dayjs.extend(relativeTime)
useHead({ title: computed(() => `Record ${where.value?.lecture.title ?? ''} · Thaw`) })

const countdownLength = ref(3)
const missing = ref<string[]>([])
const rehearsing = ref(false)
const choosing = ref<string | null>(null)
/** A recording that has ended, while it is asked what becomes of it. */
const ending = shallowRef<{ takes: EndedTake[]; says: string } | null>(null)
const particulars = ref(false)
const rolls = ref(true)
const wrong = ref('')
const locked = computed(() => state.value !== 'ready' || ending.value !== null)
/** While it is recorded nothing can be switched on; what is off would only hide the meters. */
const shownInputs = computed(() => (locked.value ? inputs.value.filter((i) => i.state !== 'off') : inputs.value))
const nothing = computed(() => running.value.length === 0)
const advice = computed(() => adviceOn(running.value.map((r) => r.plan)))
const sum = computed(() => sumPerHour(running.value.map((r) => r.plan)))
const fits = computed(() =>
  hoursThatFit(
    storage.free.value,
    running.value.map((r) => perHour(r.plan.bitrate)),
  ),
)
const fitsWords = computed(() =>
  fits.value > 100
    ? 'more than 100 hours fit'
    : fits.value >= 2
      ? `about ${Math.floor(fits.value)} hours fit`
      : `about ${Math.floor(60 * fits.value)} minutes fit`,
)
const screenStrokes = (kind: string) => (state.value === 'live' && kind === 'screen' ? strokes : null)
const lostFrames = computed(() =>
  health.value
    .filter((h) => missingFrames(h) > 0.05)
    .map(
      (h) =>
        `${h.label}: ${Math.round(100 * missingFrames(h))} % of the frames are missing. Close other programs; next time choose fewer frames or a smaller size.`,
    ),
)

const wrongTimer = setInterval(() => {
  wrong.value = room.wrongOne() ?? ''
}, 2000)
const warnLeaving = (event: BeforeUnloadEvent) => {
  if (state.value === 'live' || state.value === 'ending') event.preventDefault()
}
const keysShown = ref(false)
const showKeys = () => {
  keysShown.value = !keysShown.value
}
const whileLive = (act: () => unknown) => () => {
  if (state.value === 'live') act()
}
const keys: Shortcut[] = [
  { shown: 'M', says: 'Mark this moment', press: { m: whileLive(() => recorder.mark()) } },
  { shown: 'P', says: 'Pause, or go on', press: { p: whileLive(() => pauseOrGoOn()) } },
  {
    shown: 'D',
    says: 'Draw, or put the pen down',
    press: {
      d: whileLive(() => {
        strokes.tool.value = strokes.tool.value ? null : 'pen'
      }),
    },
  },
  // Where it is typed depends on the keyboard.
  { shown: '?', says: 'These keys', press: { '?': showKeys, 'Shift+?': showKeys } },
]
useShortcuts(keys)
window.addEventListener('beforeunload', warnLeaving)
onBeforeUnmount(() => {
  clearInterval(wrongTimer)
  floating.close()
  window.removeEventListener('beforeunload', warnLeaving)
})
onBeforeRouteLeave(() => {
  if (state.value !== 'live') return true
  ElMessage({ type: 'warning', message: 'Stop the recording before leaving this page.' })
  return false
})

async function load(setup: Setup): Promise<void> {
  countdownLength.value = setup.countdown
  rolls.value = setup.pausing !== 'stops'
  missing.value = await room.load(setup)
}
const extra: { source: InputSource; label: string }[] = [
  { source: 'camera', label: 'Another camera' },
  { source: 'display', label: 'Another screen' },
  { source: 'microphone', label: 'Another microphone' },
  { source: 'computer', label: 'This computer’s sound' },
]

const say = (error: unknown, what = '') =>
  ElMessage({
    type: 'error',
    duration: 0,
    showClose: true,
    message: what + errorMessage(error),
  })
/** A take's first slide is the one that stands there when it begins. */
const tellSlide = async () => hall.value && recorder.slide(hall.value.deck.slides[hall.value.slide()]?.title ?? '')

async function start(): Promise<void> {
  strokes.reset()
  try {
    await recorder.start(lectureId, countdownLength.value, async () => hall.value?.begin())
    await tellSlide()
  } catch (error) {
    say(error, 'Recording could not start: ')
  }
}

async function pauseOrGoOn(): Promise<void> {
  try {
    if (!paused.value) await recorder.pause(rolls.value)
    else {
      await recorder.goOn()
      if (rolls.value) return
      strokes.reset()
      await tellSlide()
    }
  } catch (error) {
    say(error, 'Recording could not go on: ')
  }
}

async function stop(): Promise<void> {
  const takes = await recorder.stop()
  if (takes.length) ending.value = { takes, says: '' }
}
watch(ending, (is) => {
  if (!is) return
  hall.value?.hush()
  floating.close()
})
const settle = (takes: readonly Take[]) => {
  for (const take of takes)
    settleTake(take, jobs)
      .then(() => draftArrivals(jobs))
      .catch((error: unknown) => say(error))
}

/** Whatever is not discarded is kept, also when this page is left without an answer. */
function keepEnded(): void {
  const { takes } = ending.value ?? { takes: [] }
  ending.value = null
  settle(takes.map((t) => t.take))
  takes.forEach((t) => t.release())
}
onBeforeUnmount(keepEnded)
async function keep(): Promise<void> {
  keepEnded()
  recorder.done()
  await navigateTo(`/lecture/${lectureId}?step=tidied`)
}
async function discard(): Promise<void> {
  for (const { take, seconds, release } of ending.value?.takes ?? []) {
    await discardTake(take.id, seconds)
    release()
  }
  ending.value = null
  recorder.done()
}
function chooseArea(input: RoomInput, area: ShareBox): void {
  choosing.value = null
  void room.change(input, { picture: input.plan.picture && { ...input.plan.picture, area } })
}
function endRehearsal(): void {
  rehearsing.value = false
  hall.value?.hush()
}
async function bringBack(take: Take): Promise<void> {
  settle([take])
  await navigateTo(`/lecture/${lectureId}?step=tidied`)
}
</script>

<template>
  <div v-if="where === undefined" class="page quiet">Opening the recording room …</div>
  <div v-else-if="!where" class="page">
    <p class="notice">There is no such lecture. Go to <NuxtLink to="/">the term</NuxtLink> and make one.</p>
  </div>
  <div v-else class="room">
    <section class="stage" aria-label="Pictures">
      <div class="pictures" :class="{ two: pictures.length === 2, many: pictures.length > 2 }">
        <LivePreview
          v-for="p in pictures"
          :key="p.plan.id"
          :input="p"
          :choosing="choosing === p.plan.id"
          :strokes="screenStrokes(kindOf(p.plan.source))"
          @area="chooseArea(p, $event)"
        />
        <div v-if="pictures.length === 0" class="empty surface">
          <p>
            Switch on a camera, a screen or the hall to see it here.<br /><span class="quiet"
              >With the microphone alone, only sound is recorded.</span
            >
          </p>
        </div>
        <div v-if="countdown" class="countdown" role="status" aria-live="assertive">
          <span>{{ countdown }}</span><el-button @click="recorder.skip()">Begin now</el-button>
        </div>
      </div>
      <p v-if="pictures.some((p) => p.plan.source === 'display') && !locked" class="quiet mirror">
        If this page is on the screen that is recorded, it shows itself smaller and smaller. That is no fault: show your
        slides before you begin.
      </p>
      <DrawBar v-if="state === 'live' && pictures.some((p) => kindOf(p.plan.source) === 'screen')" :strokes="strokes" />
      <HallPanel v-if="hall" :hall="hall" @slide="recorder.slide($event)" />
    </section>
    <aside>
      <h1>{{ where.lecture.title }}</h1>
      <p class="quiet">
        {{
          where.course
            ? `Goes to ${sayWhere(where.course, where.lecture)}.`
            : 'Goes to no course yet; you can give it one later, under Particulars.'
        }}
        <el-button link @click="particulars = true">Particulars</el-button>
        <el-button link title="?" :aria-expanded="keysShown" @click="keysShown = !keysShown">Keys</el-button>
      </p>
      <p v-if="where.taken" class="notice">
        {{ sayDuration(where.taken) }} are recorded already. This is a further take: it goes on after them, and
        <NuxtLink :to="`/lecture/${lectureId}?step=tidied`">the desk</NuxtLink> shows both as one.
      </p>
      <div class="scroll">
        <SetupMenu
          v-show="!locked"
          :locked="locked"
          :present="() => ({ inputs: plans, countdown: countdownLength, pausing: rolls ? 'rolls' : 'stops' })"
          @load="load"
        />
        <p v-for="m in missing" :key="m" class="notice" role="alert">{{ m }}</p>
        <p v-for="t in where.discarded" :key="t.id" class="notice">
          A recording of {{ sayDuration(t.duration) }} was discarded
          {{ dayjs(t.discardedAt ?? t.startedAt).fromNow() }}.
          <el-button v-if="!locked" link @click="bringBack(t)">Bring it back</el-button>
        </p>
        <section class="inputs surface" aria-label="Inputs">
          <div v-if="!locked" class="hall">
            <span>Lecture hall<br /><small class="quiet">simulated: screen, camera, two microphones</small></span
            ><el-switch
              :model-value="hall !== null"
              :disabled="locked"
              aria-label="Lecture hall"
              @change="room.setHall(Boolean($event))"
            />
          </div>
          <InputRow
            v-for="i in shownInputs"
            :key="i.plan.id"
            :input="i"
            :devices="devices"
            :locked="locked"
            :removable="!isHall(i.plan.source)"
            :choosing="choosing === i.plan.id"
            :health="health.find((h) => h.label === i.plan.label)"
            @toggle="$event ? room.open(i) : room.close(i)"
            @change="room.change(i, $event)"
            @remove="room.remove(i)"
            @choose="choosing = $event ? i.plan.id : null"
          />
          <el-dropdown v-if="!locked" trigger="click" @command="room.add($event)">
            <el-button text size="small">Add an input …</el-button>
            <template #dropdown
              ><el-dropdown-menu
                ><el-dropdown-item v-for="e in extra" :key="e.source" :command="e.source">{{
                  e.label
                }}</el-dropdown-item></el-dropdown-menu
              ></template
            >
          </el-dropdown>
        </section>
        <LiveCard
          v-if="where.course && (!where.published || announced)"
          v-model:shown="shown"
          :lecture="where.lecture"
          :course="where.course"
          :announced="announced ?? null"
          :pictures="pictures.map((p) => p.plan.label)"
          :live="state === 'live' || state === 'ending'"
          :locked="locked"
          :state="watched.state.value"
        />
        <p v-for="a in advice" :key="a" class="notice" role="status">{{ a }}</p>
        <p v-if="wrong" class="notice" role="status">{{ wrong }}</p>
      </div>
      <div class="foot">
        <p v-for="w in [...warnings, ...lostFrames]" :key="w" class="notice bad" role="alert">{{ w }}</p>
        <p v-if="storageWarning" class="notice bad" role="alert">{{ storageWarning }}</p>
        <TakeControls
          v-if="state === 'live' || state === 'ending'"
          :recorder="recorder"
          :floating="floating"
          :rolls="rolls"
          :watched="!!announced"
          @pause="pauseOrGoOn"
          @stop="stop"
        />
        <template v-if="state === 'ready' || state === 'counting'">
          <p class="quiet">
            {{
              nothing
                ? 'Nothing is switched on yet.'
                : `About ${(sum / 1e9).toFixed(1)} GB an hour; ${fitsWords} on this machine.`
            }}
          </p>
          <label class="count left"
            >Pausing
            <el-select v-model="rolls" size="small" :disabled="locked" aria-label="Pausing"
              ><el-option :value="true" label="keeps rolling, folded away" /><el-option
                :value="false"
                label="truly stops" /></el-select
          ></label>
          <div class="row">
            <el-button :disabled="nothing || locked" @click="rehearsing = true">Rehearse</el-button>
            <label class="count"
              >Countdown
              <el-input-number
                v-model="countdownLength"
                size="small"
                :min="0"
                :max="30"
                :disabled="locked"
                aria-label="Seconds counted down"
                controls-position="right"
              />
              s</label
            >
          </div>
          <el-button type="danger" size="large" :disabled="nothing || locked" @click="start">Start recording</el-button>
        </template>
      </div>
    </aside>
    <LazyKeysDialog v-if="keysShown" v-model="keysShown" :parts="[{ title: '', keys }]" />
    <el-dialog v-model="particulars" title="Particulars" width="560px"
      ><ParticularsForm :lecture="where.lecture" @change="describeLecture(where.lecture, $event)"
    /></el-dialog>
    <TakeEndDialog
      v-if="ending"
      :lecture="where.lecture"
      :takes="ending.takes.map((t) => t.take)"
      :seconds="clock"
      :says="ending.says"
      @keep="keep"
      @discard="discard"
    />
    <RehearsalDialog v-if="rehearsing" :inputs="running" :begin="async () => hall?.begin()" @close="endRehearsal" />
  </div>
</template>

<style scoped>
.page {
  padding: 40px;
  max-width: 720px;
}
.room {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 360px;
  gap: 20px;
  height: 100%;
  padding: 16px 24px;
}
.stage {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}
.pictures {
  position: relative;
  display: grid;
  gap: 10px;
  min-height: 0;
  flex: 1;
}
.pictures.two {
  grid-template-rows: minmax(0, 3fr) minmax(0, 2fr);
}
.pictures.many {
  grid-template-columns: repeat(2, minmax(0, 1fr));
  grid-auto-rows: minmax(0, 1fr);
}
.empty {
  display: grid;
  place-items: center;
  text-align: center;
  border-style: dashed;
}
.countdown {
  position: absolute;
  inset: 0;
  display: grid;
  place-content: center;
  justify-items: center;
  gap: 12px;
  background: rgb(16 24 27 / 55%);
  border-radius: var(--surface-radius);
}
.countdown span {
  font: 560 130px var(--title);
  color: #fff;
  line-height: 1;
}
.mirror {
  margin: 0;
  font-size: 14px;
}
aside {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}
aside h1 {
  font-size: 24px;
}
aside > p {
  margin: 0;
}
.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.scroll > p {
  margin: 0;
}
.inputs {
  padding: 2px 12px 6px;
}
.hall {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 5px 0;
  line-height: 1.25;
  border-bottom: 1px solid var(--hairline);
}
.foot {
  padding-top: 8px;
  border-top: 1px solid var(--hairline);
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.foot > p {
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
.count {
  margin-left: auto;
  color: var(--quiet);
  font-size: 14px;
}
.count .el-input-number {
  width: 76px;
}
.count.left {
  margin: 0;
  display: flex;
  align-items: center;
  gap: 8px;
}
.count .el-select {
  width: 230px;
}
@media (max-width: 759px) {
  .room {
    grid-template-columns: minmax(0, 1fr);
    height: auto;
    padding: 12px;
  }
  .pictures {
    min-height: 260px;
  }
}
</style>
