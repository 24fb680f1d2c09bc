<script setup lang="ts">
import { ChevronDown } from 'lucide-vue-next'
import { correctionsOf, type Correction } from '#core/captions/word-list'
import { writeSrt } from '#core/captions/srt'
import { doubtsOf, nextDoubtful } from '#core/captions/doubts'
import { addCue, checkedShare, deleteCue, InvalidCaptionChange, newTrack, nextUnchecked } from '#core/captions/track'
import { writeTtml } from '#core/captions/ttml'
import { writeVtt } from '#core/captions/vtt'
import { uncaptioned } from '#core/record/recording'
import type { CaptionTrack, Cue } from '#core/schema/captions'
import { recorded } from '#core/time/units'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { draftCaptions, recogniserProblem } from '~/services/captioning'
import { stoppedDrafts } from '~/services/heard'
import { newId } from '~/services/ids'
import { languageOf } from '~/services/lectures'
import { isLate, isOpen } from '~/services/ordering'
import { JobCancelled, useJobs } from '~/stores/jobs'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { db } from '~/db/database'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'
import { download, fileName } from '~/utils/download'

const desk = useDesk()
const jobs = useJobs()
const chosen = useChosen()
const media = injectStrict(scriptPlayerKey)
const opened = computed({
  get: () => desk.activeCue,
  set: (id) => {
    desk.activeCue = id
  },
})
const problem = ref('')
const retiming = ref(false)
const scripting = ref(false)
const punctuating = ref(false)
const printing = ref(false)
const ordering = ref(false)
const covering = useCovering(() => track.value)
const problemList = useTemplateRef<{ next(kind: null): void }>('problemList')
const offers = useTemplateRef<{ keep(): unknown }[]>('offers')
const tracks = useTemplateRef<{ setState(state: 'checked'): unknown }>('tracks')
const reader = useTemplateRef<{ choose(): void }>('reader')
const replacing = shallowRef<Correction | boolean>(false)
const track = computed(() => desk.captions)
/** Whether it is the track of what is spoken, which can be drafted. */
const isSpoken = computed(() => desk.track === 'captions')
/** Takes without captions, while others have some; and those whose draft stopped before the end. */
const bare = computed(() =>
  isSpoken.value && track.value && desk.recording ? uncaptioned(desk.recording, track.value.cues) : [],
)
const stopped = useLive(
  async () => (isSpoken.value && desk.recording ? stoppedDrafts(desk.recording) : []),
  [() => desk.recording, isSpoken],
)
const further = computed(() => [...new Set([...bare.value, ...(stopped.value ?? [])])])
const doubtful = computed(() => (track.value?.cues ?? []).filter((c) => doubtsOf(c).length > 0))
const job = useLive(
  () =>
    db.jobs
      .where('lectureId')
      .equals(desk.lecture?.id ?? '')
      .and((j) => j.state === 'running' && j.kind === 'captions')
      .first(),
  [() => desk.lecture?.id],
)

/** What is ordered for the lecture, or waits to be decided. */
const order = useLive(
  () =>
    db.orders
      .where('lectureId')
      .equals(desk.lecture?.id ?? '')
      .filter((o) => isOpen(o) || o.held !== null)
      .first(),
  [() => desk.lecture?.id],
)

const at = (time: number) => `at ${desk.sayTime(time, 1)}`

/** Words that were corrected last, which may stand wrongly elsewhere too. */
const corrected = shallowRef<Correction[]>([])
function noteCorrections(before: CaptionTrack, after: CaptionTrack): void {
  if (!isSpoken.value || before.cues.length !== after.cues.length) return
  const known = new Map(before.cues.map((c) => [c.id, c]))
  const changed = after.cues.filter((c) => known.get(c.id)?.text !== c.text)
  const [cue] = changed
  const was = cue && changed.length === 1 ? known.get(cue.id) : undefined
  if (cue && was) corrected.value = correctionsOf(was.text, cue.text)
}

/** @param says what is done, for the list of what was done */
async function change(next: (t: CaptionTrack) => CaptionTrack, says: string): Promise<void> {
  if (!track.value) return
  try {
    problem.value = ''
    const before = track.value
    const after = next(before)
    await desk.changeCaptions(after, { says })
    noteCorrections(before, after)
  } catch (error) {
    if (!(error instanceof InvalidCaptionChange)) throw error
    problem.value = error.message
  }
}

/** @param keep only takes without captions are drafted, after what is there */
async function draft(keep: boolean): Promise<void> {
  const { recording, lecture } = desk
  if (!recording || !lecture) return
  if (
    track.value &&
    !keep &&
    !(await ElMessageBox.confirm('The new draft takes the place of the captions that are there.', 'Draft again?', {
      confirmButtonText: 'Draft again',
      cancelButtonText: 'Leave them',
    }).then(
      () => true,
      () => false,
    ))
  )
    return
  problem.value = await recogniserProblem(await languageOf(lecture))
  if (problem.value || !(await askForAuthor())) return
  try {
    const takes = keep ? further.value : recording.takes
    // Where there is nothing yet, what was begun goes on.
    await draftCaptions(recording, lecture.id, takes, keep || !track.value ? 'add' : 'replace', jobs)
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  }
}
const languageOfDesk = async () => (desk.lecture ? languageOf(desk.lecture) : 'en')

const forms = [
  { key: 'vtt', name: 'WebVTT', type: 'text/vtt', write: writeVtt },
  { key: 'srt', name: 'SubRip', type: 'application/x-subrip', write: writeSrt },
  { key: 'ttml', name: 'TTML (IMSC 1.1 text)', type: 'application/ttml+xml', write: writeTtml },
] as const
function save(key: (typeof forms)[number]['key']): void {
  const form = forms.find((f) => f.key === key)
  if (!track.value || !desk.lecture || !form) return
  const { language, role = 'captions' } = track.value
  const name = [desk.lecture.title, ...(isSpoken.value ? [] : [role, language])].join(' ')
  download(`${fileName(name)}.${key}`, form.type, form.write(track.value))
}

async function add(): Promise<void> {
  const id = newId()
  const base = track.value ?? newTrack({ cues: [] }, 'person', await languageOfDesk())
  const next = base.cues.find((c) => c.from > desk.recordedTime)
  const to = Math.min(desk.recordedTime + 3, next?.from ?? Infinity, desk.map.duration)
  try {
    await desk.changeCaptions(addCue(base, id, desk.recordedTime, recorded(to)), {
      says: `Added a cue ${at(desk.recordedTime)}`,
    })
    opened.value = id
  } catch (error) {
    problem.value = errorMessage(error)
  }
}

function open(cue: Cue): void {
  opened.value = cue.id
  // What is heard already goes on; otherwise it is gone to.
  const isHeard = desk.playing && desk.recordedTime > cue.from - 0.5 && desk.recordedTime < cue.to
  if (!isHeard) media.seekRecorded(cue.from)
}
// The one that is open can be pulled on the time line at once.
watch(opened, (id) => {
  if (id) chosen.choose({ kind: 'captions', list: 'cues', id })
})

async function remove(cue: Cue): Promise<void> {
  opened.value = null
  await change((t) => deleteCue(t, cue.id), `Deleted the cue ${at(cue.from)}`)
}

/** By what one goes from cue to cue. */
let walk: 'doubt' | 'problem' | 'unchecked' | null = null
/** Takes up what is offered for the word that was corrected last. */
function takeOffer(what: 'everywhere' | 'keep-word'): void {
  const last = corrected.value.at(-1)
  if (!last) return
  if (what === 'everywhere') replacing.value = last
  else offers.value?.at(-1)?.keep()
}
/** Opens the next cue with a doubtful word, with a problem, or that nobody has gone through, and goes there. */
async function next(what: 'doubt' | 'settled' | 'problem' | 'unchecked'): Promise<void> {
  // Who goes through all cues stays at one whose words are settled: it is yet to be confirmed.
  if (what === 'settled' && walk !== 'doubt') return
  if (what !== 'settled') walk = what
  // Once what was changed just now is shown.
  await nextTick()
  if (what === 'problem') {
    problemList.value?.next(null)
    return
  }
  const cues = track.value?.cues ?? []
  const cue = (what === 'unchecked' ? nextUnchecked : nextDoubtful)(cues, opened.value)
  if (cue) open(cue)
  else if (what === 'unchecked') opened.value = null
}
const share = computed(() => (track.value ? checkedShare(track.value) : 0))
const gone = computed(() => track.value?.cues.filter((c) => c.checked).length ?? 0)

/** What is not needed all the time. */
const acts = computed(() => [
  ...(isSpoken.value && track.value
    ? [{ key: 'again', says: 'Draft again', act: () => draft(false), off: !!job.value || !desk.recording }]
    : []),
  { key: 'read', says: 'Read a file', act: () => reader.value?.choose(), off: false },
  ...(isSpoken.value
    ? [
        { key: 'order', says: 'Order captions', act: () => (ordering.value = true), off: !desk.recording },
        { key: 'script', says: 'From a script', act: () => (scripting.value = true), off: !desk.recording },
      ]
    : []),
  ...(track.value?.cues.length
    ? [
        { key: 'capitals', says: 'Capitals and full stops', act: () => (punctuating.value = true), off: false },
        { key: 'times', says: 'Shift or stretch times', act: () => (retiming.value = true), off: false },
        { key: 'print', says: 'Text to read and print', act: () => (printing.value = true), off: false },
      ]
    : []),
])
function run(key: string): void {
  const form = forms.find((f) => f.key === key)
  if (form) save(form.key)
  else void acts.value.find((a) => a.key === key)?.act()
}
</script>

<template>
  <div class="sheet">
    <CaptionTracks ref="tracks" @problem="problem = $event" />
    <p v-if="stopped?.length && !job" class="notice">The draft stopped before the end.</p>
    <p v-else-if="bare.length && !job" class="notice">
      {{ bare.length === 1 ? 'A take has' : `${bare.length} takes have` }} no captions yet.
    </p>
    <p v-if="order" class="notice" :class="{ bad: order.held }" role="status">
      {{
        order.held
          ? 'Captions that were ordered have come, and are held.'
          : isLate(order)
            ? 'Captions are ordered, and late.'
            : 'Captions are ordered.'
      }}
      <NuxtLink :to="`/orders/${order.courseId}`">Where it stands</NuxtLink>
    </p>
    <ConflictNotice kind="captions" />
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <div class="row">
      <el-button
        v-if="isSpoken && !track"
        size="small"
        type="primary"
        :loading="!!job"
        :disabled="!desk.recording"
        @click="draft(false)"
        >Draft captions from the speech</el-button
      >
      <el-button v-if="further.length && !job" size="small" type="primary" @click="draft(true)">{{
        stopped?.length ? 'Go on with the draft' : `Draft the further take${further.length > 1 ? 's' : ''}`
      }}</el-button>
      <el-button size="small" @click="add">Add a cue here</el-button>
      <el-button v-if="track?.cues.length" size="small" @click="replacing = true">Find and replace</el-button>
      <el-dropdown trigger="click" @command="run">
        <el-button size="small">More <ChevronDown :size="14" aria-hidden="true" /></el-button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item v-for="a in acts" :key="a.key" :command="a.key" :disabled="a.off">{{
              a.says
            }}</el-dropdown-item>
            <template v-if="track">
              <el-dropdown-item v-for="(f, i) in forms" :key="f.key" :command="f.key" :divided="i === 0"
                >Save as {{ f.name }}</el-dropdown-item
              >
            </template>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
    </div>
    <ReadCaptions ref="reader" @problem="problem = $event" />
    <LazyScriptDialog v-if="scripting" @close="scripting = false" />
    <LazyReplaceDialog
      v-if="replacing"
      :correction="typeof replacing === 'object' ? replacing : undefined"
      @close="replacing = false"
    />
    <LazyOrderDialog v-if="ordering && desk.lecture" :lecture-ids="[desk.lecture.id]" @close="ordering = false" />
    <LazyPunctuateDialog v-if="punctuating && track" :track="track" @change="change" @close="punctuating = false" />
    <LazyReadingDialog v-if="printing && track" :track="track" @close="printing = false" />
    <RetimeForm
      v-if="retiming && track"
      :key="desk.track"
      :track="track"
      :opened="track.cues.find((c) => c.id === opened) ?? null"
      @done="retiming = false"
    />
    <div v-if="job" class="job" role="status">
      <el-progress :percentage="Math.round(100 * job.progress)" aria-label="Drafting captions" /><span class="quiet">{{
        job.says
      }}</span>
      <el-button size="small" @click="jobs.cancel(job.id)">Cancel</el-button>
    </div>
    <div v-if="track?.cues.length" class="state">
      <template v-if="gone || track.state === 'draft'">
        <el-progress
          :percentage="Math.floor(100 * share)"
          :stroke-width="6"
          :show-text="false"
          aria-label="Gone through"
        />
        <span>{{ gone }} of {{ track.cues.length }} cues gone through</span>
      </template>
      <el-button v-if="share < 1" link @click="next('unchecked')">{{
        gone ? 'Go on' : 'Go through them one by one'
      }}</el-button>
      <el-button v-else-if="track.state === 'draft'" link @click="tracks?.setState('checked')"
        >Mark them as checked</el-button
      >
      <template v-if="doubtful.length">
        <span class="quiet">{{ sayCount(doubtful.length, 'has', 'have') }} doubtful words</span>
        <el-button link @click="next('doubt')">Next doubtful words</el-button>
      </template>
    </div>
    <ProblemList
      v-if="track"
      ref="problemList"
      :key="desk.track"
      :track="track"
      :opened="opened"
      :covering="covering"
      @open="open"
      @change="change"
    />
    <HistoryList
      v-if="track"
      kind="captions"
      label="What was done to the captions"
      origin="As it was at first"
      folded
    />
    <p v-if="!track && !job" class="quiet">
      A draft takes about a fifth as long as the lecture and gets subject terms wrong; go through the marked words
      afterwards.
    </p>
    <CorrectionOffer
      v-for="c in corrected"
      ref="offers"
      :key="`${c.heard} ${c.said}`"
      :correction="c"
      @close="corrected = corrected.filter((o) => o !== c)"
      @replace="replacing = c"
    />
    <CueList
      v-if="track"
      :track="track"
      :opened="opened"
      :covering="covering"
      @open="open"
      @remove="remove"
      @next="next"
      @offer="takeOffer"
      @change="change"
    />
  </div>
</template>

<style scoped>
.sheet {
  display: flex;
  flex-direction: column;
  gap: 7px;
  height: 100%;
  min-height: 0;
}
.sheet > p {
  margin: 0;
}
.row {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.row .el-button {
  margin: 0;
}
.state {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: center;
}
.state .el-progress {
  flex: 1 0 100%;
}
.state .el-button {
  margin: 0;
}
.job {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 10px;
  align-items: center;
}
.job .el-progress {
  grid-column: 1 / -1;
}
</style>
