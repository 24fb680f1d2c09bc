<script setup lang="ts">
import { ElMessage, ElMessageBox } from 'element-plus'
import { Mic, Monitor, Presentation, Video } from 'lucide-vue-next'
import { formatTimecode } from '#core/time/timecode'
import { db } from '~/db/database'
import { startTake, type LiveTake, type Source } from '~/services/recording'
import { settleTake, takeOf } from '~/services/takes'
import { useJobs } from '~/stores/jobs'

const lectureId = String(useRoute().query.lecture ?? '')
const jobs = useJobs()
const sources = useSources()
const meter = useMeter()
const { pictures, sound, on, problem } = sources

const where = useLive(async () => {
  const lecture = await db.lectures.get(lectureId)
  const course = lecture && (await db.courses.get(lecture.courseId))
  return lecture && course ? { lecture, course, taken: Boolean(await takeOf(lectureId)) } : null
})
useHead({ title: computed(() => `Record ${where.value?.lecture.title ?? ''} · Thaw`) })

const gain = ref(1)
const countdown = ref(0)
const clock = ref(0)
const kept = ref(0)
const paused = ref(false)
const ending = ref(false)
const live = shallowRef<LiveTake | null>(null)
const warnings = ref<string[]>([])
let recordedTrack: MediaStreamTrack | null = null
let startedAt = 0

const inputs = [
  { key: 'hall', label: 'Lecture hall', says: 'simulated: screen, camera and microphone', icon: Presentation },
  { key: 'screen', label: 'Screen', says: 'this screen, a window or a tab', icon: Monitor },
  { key: 'camera', label: 'Camera', says: 'a face as an inset, or alone', icon: Video },
  { key: 'microphone', label: 'Microphone', says: 'lecture volume, please', icon: Mic },
] as const

const perHour = computed(() => {
  const bits = pictures.value.reduce((sum, p) => sum + p.bitrate, 0) + (sound.value ? 96_000 : 0)
  return (bits * 3600) / 8 / 1e9
})
const nothing = computed(() => pictures.value.length === 0 && !sound.value)

watch(sound, async (input) => {
  recordedTrack = input ? await meter.open(input.stream, gain.value) : null
  if (!input) meter.close()
})
watch(gain, (g) => meter.setGain(g))

const tick = setInterval(() => {
  if (!live.value) return
  clock.value = (performance.now() - startedAt) / 1000
  kept.value = live.value.bytes()
}, 250)

const warnLeaving = (event: BeforeUnloadEvent) => {
  if (live.value) event.preventDefault()
}
window.addEventListener('beforeunload', warnLeaving)
onBeforeUnmount(() => {
  clearInterval(tick)
  window.removeEventListener('beforeunload', warnLeaving)
})
onBeforeRouteLeave(() => {
  if (!live.value) return true
  ElMessage({ type: 'warning', message: 'Stop the recording before leaving this page.' })
  return false
})

async function start(): Promise<void> {
  for (countdown.value = 3; countdown.value > 0; countdown.value--) await new Promise((resolve) => setTimeout(resolve, 1000))
  const chosen: Source[] = pictures.value.flatMap((p) => {
    const track = p.stream.getVideoTracks()[0]
    return track ? [{ kind: p.kind, label: p.label, track, frameRate: p.frameRate, bitrate: p.bitrate }] : []
  })
  if (sound.value && recordedTrack) chosen.push({ kind: 'sound', label: sound.value.label, track: recordedTrack, frameRate: 0, bitrate: 96_000 })
  try {
    // Persistent storage is asked for before anything has to be kept in it.
    await navigator.storage.persist()
    await sources.beginTalk()
    live.value = await startTake(lectureId, chosen, (says) => warnings.value.push(says))
    startedAt = performance.now()
    paused.value = false
    warnings.value = []
  } catch (error) {
    ElMessage({ type: 'error', duration: 0, showClose: true, message: `Recording could not start: ${error instanceof Error ? error.message : String(error)}` })
  }
}

async function togglePause(): Promise<void> {
  if (!live.value) return
  await (paused.value ? live.value.resume() : live.value.pause())
  paused.value = !paused.value
}

async function stop(): Promise<void> {
  if (!live.value || ending.value) return
  ending.value = true
  const take = await live.value.stop()
  live.value = null
  const keep = await ElMessageBox.confirm(`${formatTimecode(clock.value)} were recorded. ${where.value ? `They belong to “${where.value.lecture.title}” in ${where.value.course.code}.` : ''}`, 'Keep this recording?', {
    confirmButtonText: 'Keep it', cancelButtonText: 'Discard and start over', distinguishCancelAndClose: true, closeOnClickModal: false,
  }).then(() => true, (action: string) => action !== 'cancel')
  if (!keep && (await confirmDiscard())) {
    const { removeFile } = await import('~/db/files')
    await db.takes.delete(take.id)
    for (const feed of take.feeds) await removeFile(feed.fileId)
    ending.value = false
    clock.value = kept.value = 0
    return
  }
  settleTake(take, jobs).catch((error: unknown) => ElMessage({ type: 'error', duration: 0, showClose: true, message: error instanceof Error ? error.message : String(error) }))
  await navigateTo(`/lecture/${lectureId}?step=tidied`)
}

const confirmDiscard = () =>
  ElMessageBox.confirm('The recording is deleted for good.', 'Really discard it?', { confirmButtonText: 'Discard it', cancelButtonText: 'Keep it', confirmButtonClass: 'el-button--danger', type: 'warning' }).then(() => true, () => false)
</script>

<template>
  <div v-if="where === undefined" class="page quiet">Opening the recording room …</div>
  <div v-else-if="!where" class="page"><p class="notice">There is no such lecture. Go to <NuxtLink to="/">the term</NuxtLink> and make one.</p></div>
  <div v-else-if="where.taken && !live && !ending" class="page"><p class="notice">“{{ where.lecture.title }}” is recorded already. <NuxtLink :to="`/lecture/${lectureId}?step=tidied`">Open its desk</NuxtLink>, or make a new lecture on <NuxtLink to="/">the term</NuxtLink>.</p></div>
  <div v-else class="room">
    <section class="pictures" :class="{ two: pictures.length > 1 }" aria-label="Pictures">
      <LivePreview v-for="p in pictures" :key="p.label" :input="p" />
      <div v-if="pictures.length === 0" class="empty surface"><p>Switch on a camera, a screen or the hall to see it here.<br /><span class="quiet">With the microphone alone, only sound is recorded.</span></p></div>
      <div v-if="countdown" class="countdown" role="status" aria-live="assertive">{{ countdown }}</div>
    </section>
    <aside>
      <h1>{{ where.lecture.title }}</h1>
      <p class="quiet">Goes to {{ where.course.code }} {{ where.course.title }}, week {{ where.lecture.week }}.</p>
      <fieldset :disabled="!!live || !!countdown">
        <legend>Inputs</legend>
        <div v-for="i in inputs" :key="i.key" class="input">
          <component :is="i.icon" :size="18" aria-hidden="true" /><span>{{ i.label }}<br /><small class="quiet">{{ i.says }}</small></span>
          <el-switch :model-value="on[i.key]" :disabled="!!live || !!countdown" :aria-label="i.label" @change="sources.set(i.key, Boolean($event))" />
        </div>
      </fieldset>
      <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
      <section v-if="sound" aria-label="Sound">
        <LevelMeter :peak-db="meter.peakDb.value" :held-db="meter.heldDb.value" />
        <div class="gain"><label for="gain">Gain</label><el-slider id="gain" v-model="gain" :min="0" :max="4" :step="0.05" aria-label="Gain" :format-tooltip="(g: number) => `${g.toFixed(2)} ×`" /></div>
      </section>
      <p v-if="sound && meter.warning.value" class="notice" role="status">{{ meter.warning.value }}</p>
      <p v-else-if="!sound && !nothing" class="notice" role="status">No sound is switched on. The lecture will be silent.</p>
      <p v-for="w in warnings" :key="w" class="notice bad" role="alert">{{ w }}</p>
      <div class="foot">
        <template v-if="live">
          <p class="clock" role="timer"><span class="dot" :class="{ paused }" aria-hidden="true" /><span class="mono">{{ formatTimecode(clock) }}</span> <span class="quiet">{{ (kept / 1e6).toFixed(1) }} MB kept</span></p>
          <p v-if="paused" class="notice">Paused. It keeps rolling: this part is folded away and can be opened again later.</p>
          <el-button @click="togglePause">{{ paused ? 'Go on' : 'Pause' }}</el-button>
          <el-button type="danger" :loading="ending" @click="stop">Stop</el-button>
        </template>
        <template v-else>
          <p class="quiet">{{ nothing ? 'Nothing is switched on yet.' : `About ${perHour.toFixed(1)} GB an hour.` }}</p>
          <el-button type="danger" size="large" :disabled="nothing || !!countdown || ending" @click="start">Start recording</el-button>
        </template>
      </div>
    </aside>
  </div>
</template>

<style scoped>
.page { padding: 40px; max-width: 720px; }
.room { display: grid; grid-template-columns: minmax(0, 1fr) 340px; gap: 20px; height: 100%; padding: 18px 24px; }
.pictures { position: relative; display: grid; gap: 14px; min-height: 0; }
.pictures.two { grid-template-rows: minmax(0, 3fr) minmax(0, 2fr); }
.empty { display: grid; place-items: center; text-align: center; border-style: dashed; }
.countdown { position: absolute; inset: 0; display: grid; place-items: center; font: 560 140px var(--title); color: #fff; background: rgb(16 24 27 / 55%); border-radius: var(--surface-radius); }
aside { display: flex; flex-direction: column; gap: 10px; min-height: 0; overflow: auto; }
aside h1 { font-size: 24px; } aside > p { margin: 0; }
fieldset { border: 1px solid var(--hairline); border-radius: var(--surface-radius); background: var(--paper); padding: 2px 14px 6px; margin: 0; }
legend { color: var(--quiet); font-size: 14px; padding: 0 4px; }
.input { display: grid; grid-template-columns: 24px 1fr auto; gap: 8px; align-items: center; padding: 5px 0; line-height: 1.25; }
.input + .input { border-top: 1px solid var(--hairline); }
.gain { display: grid; grid-template-columns: auto 1fr; gap: 14px; align-items: center; padding-right: 10px; }
.foot { margin-top: auto; padding-top: 8px; }
.clock { display: flex; gap: 10px; align-items: center; font-size: 26px; margin-bottom: 8px; } .clock .quiet { font-size: 14px; }
.dot { width: 14px; height: 14px; border-radius: 50%; background: var(--ember); } .dot.paused { background: none; border: 3px solid var(--marigold); }
</style>
