<script setup lang="ts">
import { ChevronDown } from 'lucide-vue-next'
import { correctionsOf, type Correction } from '#core/captions/word-list'
import { writeSrt } from '#core/captions/srt'
import { doubtsOf, nextDoubtful } from '#core/captions/doubts'
import { addCue, deleteCue, InvalidCaptionChange, newTrack } from '#core/captions/track'
import { writeTtml } from '#core/captions/ttml'
import { writeVtt } from '#core/captions/vtt'
import { uncaptioned } from '#core/record/recording'
import type { CaptionTrack, Cue } from '#core/schema/captions'
import { formatTimecode } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { errorMessage } from '#core/text/error-message'
import { draftCaptions, recogniserProblem } from '~/services/captioning'
import { stoppedDrafts } from '~/services/heard'
import { newId } from '~/services/ids'
import { languageOf } from '~/services/lectures'
import { JobCancelled, useJobs } from '~/stores/jobs'
import { useDesk } from '~/stores/desk'
import { db } from '~/db/database'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'
import { download, fileName } from '~/utils/download'

const desk = useDesk()
const jobs = useJobs()
const media = injectStrict(scriptPlayerKey)
const opened = ref<string | null>(null)
const problem = ref('')
const retiming = ref(false)
const scripting = ref(false)
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

const at = (time: number) => `at ${formatTimecode(time, 1)}`

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
  media.seekRecorded(cue.from)
}

async function remove(cue: Cue): Promise<void> {
  opened.value = null
  await change((t) => deleteCue(t, cue.id), `Deleted the cue ${at(cue.from)}`)
}

/** Opens the next cue with a doubtful word, and goes there. */
async function nextDoubt(): Promise<void> {
  // Once what was changed just now is shown.
  await nextTick()
  const cue = nextDoubtful(track.value?.cues ?? [], opened.value)
  if (cue) open(cue)
}
</script>

<template>
  <div class="sheet">
    <CaptionTracks @problem="problem = $event" />
    <p v-if="stopped?.length && !job" class="notice">The draft stopped before the end.</p>
    <p v-else-if="bare.length && !job" class="notice">
      {{ bare.length === 1 ? 'A take has' : `${bare.length} takes have` }} no captions yet.
    </p>
    <ConflictNotice kind="captions" />
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <div class="row">
      <el-button
        size="small"
        v-if="isSpoken"
        :type="track ? 'default' : 'primary'"
        :loading="!!job"
        :disabled="!desk.recording"
        @click="draft(false)"
        >{{ track ? 'Draft again' : 'Draft captions from the speech' }}</el-button
      >
      <el-button size="small" v-if="further.length && !job" type="primary" :disabled="!!job" @click="draft(true)">{{
        stopped?.length ? 'Go on with the draft' : `Draft the further take${further.length > 1 ? 's' : ''}`
      }}</el-button>
      <ReadCaptions @problem="problem = $event" />
      <el-button size="small" v-if="isSpoken" :disabled="!desk.recording" @click="scripting = true"
        >From a script</el-button
      >
      <LazyScriptDialog v-if="scripting" @close="scripting = false" />
      <el-dropdown v-if="track" trigger="click" @command="save">
        <el-button size="small">Save as <ChevronDown :size="14" aria-hidden="true" /></el-button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item v-for="f in forms" :key="f.key" :command="f.key">{{ f.name }}</el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
      <el-button size="small" v-if="track?.cues.length" @click="replacing = true">Find and replace</el-button>
      <LazyReplaceDialog
        v-if="replacing"
        :correction="typeof replacing === 'object' ? replacing : undefined"
        @close="replacing = false"
      />
      <el-button size="small" v-if="track?.cues.length" :aria-expanded="retiming" @click="retiming = !retiming"
        >All times</el-button
      >
      <el-button size="small" @click="add">Add a cue here</el-button>
    </div>
    <RetimeForm
      v-if="retiming && track"
      :key="desk.track"
      :track="track"
      :opened="track.cues.find((c) => c.id === opened) ?? null"
      @done="retiming = false"
    />
    <HistoryList
      v-if="track"
      kind="captions"
      label="What was done to the captions"
      origin="As it was at first"
      folded
    />
    <div v-if="job" class="job" role="status">
      <el-progress :percentage="Math.round(100 * job.progress)" aria-label="Drafting captions" /><span class="quiet">{{
        job.says
      }}</span>
      <el-button size="small" @click="jobs.cancel(job.id)">Cancel</el-button>
    </div>
    <ProblemList v-if="track" :key="desk.track" :track="track" :opened="opened" @open="open" @change="change" />
    <p v-if="track && doubtful.length" class="doubts">
      <el-button link @click="nextDoubt">Next doubtful words</el-button>
      <span class="quiet">{{ doubtful.length }} of {{ track.cues.length }} cues have some</span>
    </p>
    <p v-if="!track && !job" class="quiet">
      A draft takes about a fifth as long as the lecture and gets subject terms wrong; go through the marked words
      afterwards.
    </p>
    <CorrectionOffer
      v-for="c in corrected"
      :key="`${c.heard} ${c.said}`"
      :correction="c"
      @close="corrected = corrected.filter((o) => o !== c)"
      @replace="replacing = c"
    />
    <CueList
      v-if="track"
      :track="track"
      :opened="opened"
      @open="open"
      @remove="remove"
      @next="nextDoubt"
      @change="change"
    />
  </div>
</template>

<style scoped>
.sheet {
  display: flex;
  flex-direction: column;
  gap: 10px;
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
