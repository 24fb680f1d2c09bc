<script setup lang="ts">
import { readCaptionFile } from '#core/captions/read-file'
import { writeSrt } from '#core/captions/srt'
import { addCue, deleteCue, doubtfulWords, InvalidCaptionChange, newTrack, setState } from '#core/captions/track'
import { writeVtt } from '#core/captions/vtt'
import { uncaptioned } from '#core/record/recording'
import type { CaptionState, CaptionTrack, Cue } from '#core/schema/captions'
import { formatTimecode } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { errorMessage } from '#core/text/error-message'
import { draftCaptions, recogniserProblem } from '~/services/captioning'
import { newId } from '~/services/ids'
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
const track = computed(() => desk.captions)
/** Takes without captions, while others have some. */
const further = computed(() => (track.value && desk.recording ? uncaptioned(desk.recording, track.value.cues) : []))
const doubtful = computed(() => (track.value?.cues ?? []).filter((c) => doubtfulWords(c).length > 0))
const job = useLive(
  () =>
    db.jobs
      .where('lectureId')
      .equals(desk.lecture?.id ?? '')
      .and((j) => j.state === 'running' && j.kind === 'captions')
      .first(),
  [() => desk.lecture?.id],
)

const states: { state: CaptionState; label: string; says: string }[] = [
  { state: 'draft', label: 'Draft', says: 'A draft. Students do not see it.' },
  { state: 'checked', label: 'Checked', says: 'Checked, but students still do not see it. Switch it on.' },
  { state: 'on', label: 'On for students', says: 'Students see these captions once the lecture is published.' },
]

const at = (time: number) => `at ${formatTimecode(time, 1)}`

/** @param says what is done, for the list of what was done */
async function change(next: (t: CaptionTrack) => CaptionTrack, says: string): Promise<void> {
  if (!track.value) return
  try {
    problem.value = ''
    await desk.changeCaptions(next(track.value), { says })
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
  problem.value = await recogniserProblem()
  if (problem.value || !(await askForAuthor())) return
  try {
    await draftCaptions(recording, lecture.id, keep ? further.value : recording.takes, keep, jobs)
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  }
}
async function read(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  input.value = ''
  if (!file) return
  try {
    if (file.size > 10 << 20) throw new Error('This is larger than any caption file.')
    await desk.changeCaptions(newTrack(readCaptionFile(await file.text(), newId), 'file'), {
      says: `Read from “${file.name}”`,
    })
    problem.value = ''
    ElMessage.success(`Read ${track.value?.cues.length ?? 0} cues from “${file.name}”.`)
  } catch (error) {
    problem.value = `“${file.name}” was not read. ${errorMessage(error)} Nothing was changed.`
  }
}

function write(kind: 'vtt' | 'srt'): void {
  if (!track.value || !desk.lecture) return
  download(
    `${fileName(desk.lecture.title)}.${kind}`,
    kind === 'vtt' ? 'text/vtt' : 'application/x-subrip',
    kind === 'vtt' ? writeVtt(track.value) : writeSrt(track.value),
  )
}

async function add(): Promise<void> {
  const id = newId()
  const base = track.value ?? newTrack({ cues: [] }, 'person')
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
function nextDoubt(): void {
  const at = track.value?.cues.findIndex((c) => c.id === opened.value) ?? -1
  const cue = doubtful.value.find((c) => (track.value?.cues.indexOf(c) ?? 0) > at) ?? doubtful.value[0]
  if (cue) open(cue)
}
</script>

<template>
  <div class="sheet">
    <div v-if="track" class="states" role="radiogroup" aria-label="State of the captions">
      <button
        v-for="s in states"
        :key="s.state"
        type="button"
        role="radio"
        :aria-checked="track.state === s.state"
        :class="[s.state, { is: track.state === s.state }]"
        @click="change((t) => setState(t, s.state), `State: ${s.label}`)"
      >
        {{ s.label }}
      </button>
    </div>
    <p v-if="track" class="notice" :class="{ good: track.state === 'on' }">
      {{ states.find((s) => s.state === track?.state)?.says }}
    </p>
    <p v-if="further.length" class="notice">
      {{ further.length === 1 ? 'A take has' : `${further.length} takes have` }} no captions yet.
    </p>
    <ConflictNotice kind="captions" />
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <div class="row">
      <el-button
        :type="track ? 'default' : 'primary'"
        :loading="!!job"
        :disabled="!desk.recording"
        @click="draft(false)"
        >{{ track ? 'Draft again' : 'Draft captions from the speech' }}</el-button
      >
      <el-button v-if="further.length" type="primary" :disabled="!!job" @click="draft(true)"
        >Draft the further take{{ further.length > 1 ? 's' : '' }}</el-button
      >
      <label class="file el-button"
        ><input type="file" class="unseen" accept=".vtt,.srt,text/vtt" @change="read" />Read a file</label
      >
      <el-button v-if="track" @click="write('vtt')">WebVTT</el-button
      ><el-button v-if="track" @click="write('srt')">SRT</el-button>
      <el-button @click="add">Add a cue here</el-button>
    </div>
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
    <p v-if="track && doubtful.length" class="doubts">
      <el-button link @click="nextDoubt">Next doubtful words</el-button>
      <span class="quiet">{{ doubtful.length }} of {{ track.cues.length }} cues have some</span>
    </p>
    <p v-if="!track && !job" class="quiet">
      A draft takes about half as long as the lecture and gets subject terms wrong; go through the marked words
      afterwards.
    </p>
    <CueList v-if="track" :track="track" :opened="opened" @open="open" @remove="remove" @change="change" />
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
.states {
  display: grid;
  grid-template-columns: 1fr 1fr 1.3fr;
  border: 1px solid #b9c3c0;
  border-radius: var(--control-radius);
  overflow: hidden;
  flex: none;
}
.states button {
  border: 0;
  background: var(--paper);
  padding: 7px 4px;
  cursor: pointer;
  border-left: 1px solid var(--hairline);
}
.states .is {
  color: #fff;
  background: var(--marigold-ink);
  font-weight: 600;
}
.states .on.is {
  background: var(--moss-ink);
}
.states :focus-visible {
  outline-offset: -3px;
}
.row {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.row .el-button {
  margin: 0;
}
.file:focus-within {
  outline: 3px solid var(--marigold);
  outline-offset: 2px;
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
