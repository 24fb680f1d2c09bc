<script setup lang="ts">
import dayjs from 'dayjs'
import { releaseState } from '#core/course/release'
import { documentId } from '#core/documents/kinds'
import { projectCaptions, projectLecture } from '#core/packages/publication'
import { DEFAULT_OPTIONS } from '#core/packages/upgrade'
import { sayTracks } from '#core/captions/languages'
import { answeredChanges, sayAnsweredChange } from '#core/results/answered-changes'
import type { Place } from '#core/schema/publication'
import { sayDuration } from '#core/time/timecode'
import { errorMessage } from '#core/text/error-message'
import { followCaptions, setTrackState } from '~/services/caption-tracks'
import { isCurrent } from '~/services/cards'
import { courseSiteAddress } from '~/services/course-site'
import { newId, nowInstant } from '~/services/ids'
import { sentBackAt } from '~/services/results'
import {
  filmsAreOut,
  projectSets,
  publicationIdOf,
  publish,
  removeEarlier,
  removePlace,
  savePlace,
  withOwnSets,
} from '~/services/publishing'
import { JobCancelled, useJobs } from '~/stores/jobs'
import { useDesk } from '~/stores/desk'
import { db, type PlaceRow } from '~/db/database'

const desk = useDesk()
const jobs = useJobs()
const courses = useLive(() => db.courses.toArray())
const release = computed(() => desk.parts?.release ?? null)
const places = computed(() => desk.parts?.places.filter((p) => !p.removed) ?? [])
const problem = ref('')
const formProblem = ref('')
/** The place that is being written; null while none is. */
const draft = shallowRef<Place | null>(null)

const announced = useLive(
  async () => (await db.broadcasts.get(desk.lecture?.id ?? '')) ?? null,
  [() => desk.lecture?.id],
)
async function newPlace(id: string): Promise<Place | null> {
  const { parts } = desk
  return (
    parts && {
      id,
      publicationId: await publicationIdOf(parts),
      sets: choices.value.length > 0 ? choices.value.map((s) => s.id) : [documentId(parts.lecture.id, 'questions')],
      courseId: parts.lecture.courseId,
      week: parts.lecture.week,
      from: nowInstant(),
      until: null,
      options: DEFAULT_OPTIONS,
    }
  )
}
// Where it stands nowhere yet, its first place is written here; what was watched live has its place already.
watch(
  [() => desk.lecture?.id, () => places.value.length, announced],
  async ([id, count]) => {
    if (announced.value === undefined || !id || count > 0 || draft.value) return
    const first = announced.value?.place ?? (await newPlace(id))
    draft.value ??= first
  },
  { immediate: true },
)
const isFirst = computed(() => places.value.length === 0)
/** Where students find it; null where that is not known here. */
const siteAddress = ref<string | null>(null)
watch(
  [release, signedIn],
  async ([now]) => {
    // Only a link depends on it: who looks is asked for nothing, and where the server is away there is none.
    if (now && !(await authorProblem())) siteAddress.value = await courseSiteAddress().catch(() => null)
  },
  { immediate: true },
)

const projected = computed(() => projectLecture(desk.map, { chapters: desk.chapters, links: desk.links }))
const captions = computed(() =>
  projectCaptions(
    desk.map,
    desk.tracks.map((t) => t.document),
  ),
)
const sets = computed(() => (desk.parts ? projectSets(desk.parts, desk.parts.lecture.id, desk.map) : []))
/** Sets that may be asked at a place. */
const choices = computed(() => desk.sets.map(({ id, document }) => ({ id, title: document.title })))
const asked = computed(() => sets.value.reduce((sum, { set }) => sum + set.checkpoints.length, 0))
const job = useLive(
  () =>
    db.jobs
      .where('lectureId')
      .equals(desk.lecture?.id ?? '')
      .and((j) => j.state === 'running' && j.kind === 'publish')
      .first(),
  [() => desk.lecture?.id],
)
const progress = useTemplateRef<HTMLElement>('progress')
const standing = useTemplateRef<HTMLElement>('standing')
// The button is gone while it is published: to how far it is, and then to what stands.
watch(
  () => Boolean(job.value),
  (isRunning) => focusIfLost(() => (isRunning ? progress : standing).value),
  { flush: 'post' },
)
/** The revision that students see. */
const shownName = useLive(
  async () => (await db.revisions.get(release.value?.revisionId ?? ''))?.name ?? '',
  [() => release.value?.revisionId],
)
const outdated = computed(() => Boolean(desk.parts?.release) && !(desk.parts && isCurrent(desk.parts)))
const publicationId = computed(() => places.value[0]?.place.publicationId ?? null)
const quick = computed(() => outdated.value && Boolean(desk.parts && filmsAreOut(desk.parts)))

const sayPlace = ({ courseId, week }: Place) =>
  `${courses.value?.find((c) => c.id === courseId)?.code ?? 'A course that is gone'}, week ${week}`
function sayWindow(place: Place): string {
  const date = (instant: string) => dayjs(instant).format('D MMM YYYY, HH:mm')
  const state = releaseState(place, new Date().toISOString())
  if (state === 'waiting') return `Students see it from ${date(place.from)} on.`
  if (state === 'over') return `Over since ${date(place.until ?? place.from)}.`
  return place.until === null ? 'Students see it now.' : `Students see it until ${date(place.until)}.`
}

/** Answers that are known here, to questions that are about to change. */
const answered = useLive(async () => {
  const { value: id } = publicationId
  if (!id || !outdated.value) return []
  const versions = await db.sets.where('publicationId').equals(id).toArray()
  const events = await sentBackAt(places.value.map((p) => p.id))
  return answeredChanges(events, versions, sets.value)
}, [() => publicationId.value, outdated, sets, places])

const notes = computed(() => {
  const { lost } = projected.value
  const removed = sets.value.flatMap((s) => s.lost.removed).length
  const unfinished = sets.value.flatMap((s) => s.lost.unfinished).length
  const out: string[] = []
  if (!desk.spoken) out.push('There are no captions: many students cannot follow without.')
  if (removed)
    out.push(
      `${removed === 1 ? 'One question lies' : `${removed} questions lie`} inside a removed part and will not be asked.`,
    )
  if (unfinished)
    out.push(
      `${unfinished === 1 ? 'One question is' : `${unfinished} questions are`} unfinished and will not be asked.`,
    )
  const nowhere = choices.value.filter(
    ({ id }) => !isFirst.value && !places.value.some((p) => withOwnSets(p.lectureId, p.place).sets.includes(id)),
  )
  for (const { title } of nowhere)
    out.push(`“${title}” is asked at no place: “Change” at a place says what is asked there.`)
  if (lost.chapters.length)
    out.push(
      `${lost.chapters.length === 1 ? 'One chapter lies' : `${lost.chapters.length} chapters lie`} inside removed parts and ${lost.chapters.length === 1 ? 'is' : 'are'} left out.`,
    )
  if (lost.links.length)
    out.push(
      `${lost.links.length === 1 ? 'One link card is' : `${lost.links.length} link cards are`} left out: nothing of where ${lost.links.length === 1 ? 'it is' : 'they are'} seen, or of where ${lost.links.length === 1 ? 'it leads' : 'they lead'}, is kept.`,
    )
  const whole = captions.value.lost.filter((c) => c.whole).length
  if (whole)
    out.push(
      `${whole} ${whole === 1 ? 'cue falls' : 'cues fall'} into removed parts and ${whole === 1 ? 'is' : 'are'} left out.`,
    )
  return out
})

/** Does what needs the server, and says what came of it. */
async function tell(act: () => Promise<void>, says: () => string): Promise<boolean> {
  problem.value = ''
  if (!(await askForAuthor())) return false
  try {
    await act()
    await desk.refresh()
    ElMessage.success(says())
    return true
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
    return false
  }
}

async function goOut(): Promise<void> {
  const { parts } = desk
  const first = isFirst.value ? draft.value : null
  if (!parts || formProblem.value) return
  const where = first ?? places.value[0]?.place
  const done = await tell(
    () => publish(parts, first, jobs),
    () => `“${parts.lecture.title}” is in ${where ? sayPlace(where) : 'no course'}. ${where ? sayWindow(where) : ''}`,
  )
  if (!done || !first) return
  draft.value = null
  // It was in no course: now it is in the one that it went out to.
  if (!parts.lecture.courseId) await desk.describe({ courseId: first.courseId, week: first.week })
}
/** Has students see the captions; of what is published already, at once. */
async function switchOn(): Promise<void> {
  const id = desk.lecture?.id ?? ''
  problem.value = ''
  try {
    await desk.flush()
    await setTrackState(id, 'captions', 'on')
    await followCaptions(id, () => askForAuthor('Students see it at once.'))
  } catch (error) {
    problem.value = errorMessage(error)
  }
  await desk.refresh()
}
async function keep(): Promise<void> {
  const [{ parts }, place] = [desk, draft.value]
  if (!parts || !place || formProblem.value) return
  const done = await tell(
    () => savePlace(parts, place),
    () => `“${parts.lecture.title}” is in ${sayPlace(place)}. ${sayWindow(place)}`,
  )
  if (done) draft.value = null
}
/** For what nobody may see any more, such as a name that was said and has been cut out. */
async function forgetEarlier(): Promise<void> {
  const id = release.value?.publicationId
  const sure =
    id &&
    (await ElMessageBox.confirm(
      'Earlier films and captions otherwise stay for a day, for students who are watching them. Those students will have to reload the page.',
      'Remove earlier versions now?',
      { confirmButtonText: 'Remove', cancelButtonText: 'Cancel' },
    ).catch(() => null))
  if (!sure) return
  let removed = 0
  await tell(
    async () => {
      removed = await removeEarlier(id)
    },
    () => (removed === 0 ? 'There were no earlier versions.' : 'Earlier versions are removed.'),
  )
}
async function takeOff(row: PlaceRow): Promise<void> {
  const sure = await ElMessageBox.confirm(
    'Students do not find it there any more. What they sent back is fetched before, and stays in the results.',
    `Take it off ${sayPlace(row.place)}?`,
    { confirmButtonText: 'Take it off', cancelButtonText: 'Leave it' },
  ).catch(() => null)
  if (!sure) return
  await tell(
    () => removePlace(row),
    () => `It is not in ${sayPlace(row.place)} any more.`,
  )
}
</script>

<template>
  <div class="sheet">
    <h2>Release to a course</h2>
    <!-- While it is published it is neither what it was nor yet what it will be. -->
    <p v-if="release && !job" ref="standing" tabindex="-1" class="notice" :class="{ good: !outdated }">
      {{
        outdated
          ? `The lecture was changed since it was published: students see the state of ${dayjs(release.publishedAt).format('D MMMM YYYY, HH:mm')}${shownName ? `, kept as “${shownName}”` : ''}.`
          : `Published ${dayjs(release.publishedAt).format('D MMMM YYYY, HH:mm')}. What students get is what stands here.`
      }}
    </p>
    <p v-if="announced" class="notice">
      It was announced to be watched live. Its recording will be at the same link, once it is published.
    </p>
    <ul v-if="places.length" class="places" aria-label="Places">
      <li v-for="row in places" :key="row.id">
        <template v-if="draft?.id !== row.id">
          <p>
            <strong>{{ sayPlace(row.place) }}</strong><br /><span class="quiet">{{ sayWindow(row.place) }}</span>
          </p>
          <div>
            <el-button
              size="small"
              :aria-label="`Change ${sayPlace(row.place)}`"
              :disabled="!!job"
              @click="draft = withOwnSets(row.lectureId, row.place)"
              >Change</el-button
            ><el-button
              size="small"
              :aria-label="`Take off ${sayPlace(row.place)}`"
              :disabled="!!job"
              @click="takeOff(row)"
              >Take off</el-button
            >
          </div>
        </template>
        <strong v-else>{{ sayPlace(row.place) }}</strong>
      </li>
    </ul>
    <div v-if="draft" class="draft">
      <PlaceForm v-model="draft" :sets="choices" @problem="formProblem = $event" />
      <CourseOnSite v-if="draft.courseId" :course-id="draft.courseId" />
      <div v-if="!isFirst">
        <el-button type="primary" :disabled="!!formProblem" @click="keep">Save place</el-button
        ><el-button @click="draft = null">Cancel</el-button>
      </div>
    </div>
    <p v-else-if="release && !isFirst">
      <el-button :disabled="!!job" @click="newPlace(newId()).then((place) => (draft = place))"
        >Add another place</el-button
      >
    </p>
    <div v-if="isFirst || !draft" class="what">
      <h3>What goes out</h3>
      <p>
        {{ sayDuration(desk.map.length) }} of video, {{ sayTracks(captions.tracks) }},
        {{ asked === 1 ? '1 question' : `${asked} questions` }}.
      </p>
      <p v-if="desk.spoken && desk.spoken.state !== 'on'" class="notice press">
        <span
          >Captions are {{ desk.spoken.state === 'checked' ? 'checked' : 'a draft' }} and not on: students
          {{ release ? 'do' : 'will' }} not see them.</span
        ><el-button size="small" type="primary" :disabled="!!job" @click="switchOn">Switch them on</el-button>
      </p>
      <p v-for="n in notes" :key="n" class="notice">{{ n }}</p>
      <p v-for="c in answered" :key="c.questionId" class="notice">{{ sayAnsweredChange(c) }}</p>
      <p v-if="quick">Only captions or questions were changed: they are sent alone, and the video stays as it is.</p>
    </div>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <div v-if="job" ref="progress" tabindex="-1" class="job" role="status">
      <el-progress :percentage="Math.round(100 * job.progress)" aria-label="Publishing" /><span class="quiet"
        >{{ job.says }}. You can go on with something else.</span
      >
      <el-button @click="jobs.cancel(job.id)">Cancel</el-button>
    </div>
    <div v-else-if="isFirst || !draft" class="row">
      <el-button
        type="primary"
        size="large"
        :disabled="desk.recordingIs !== 'whole' || (isFirst && (!draft || !!formProblem))"
        @click="goOut"
        >{{ release ? 'Publish again' : 'Publish' }}</el-button
      >
    </div>
    <p v-if="release" class="links">
      <NuxtLink :to="`/lecture/${desk.lecture?.id}/results`">Results</NuxtLink>
      <template v-if="siteAddress">
        · <a :href="`${siteAddress}/`" target="_blank" rel="noopener">The course site, as a student sees it</a>
      </template>
    </p>
    <p v-if="release">
      <el-button size="small" :disabled="!!job" @click="forgetEarlier">Remove earlier versions …</el-button>
    </p>
  </div>
</template>

<style scoped>
.press {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
}
.sheet {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.sheet > p {
  margin: 0;
}
.places {
  list-style: none;
  margin: 0;
  padding: 0;
  border-bottom: 1px solid var(--hairline);
}
.places li {
  border-top: 1px solid var(--hairline);
  padding: 8px 0;
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
}
.places p {
  margin: 0;
}
.places li > div {
  display: flex;
  flex-shrink: 0;
  gap: 6px;
}
.places .el-button {
  margin: 0;
}
.draft {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.what {
  border-top: 1px solid var(--hairline);
  padding-top: 10px;
}
.notice {
  margin-bottom: 6px;
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
.row {
  position: sticky;
  bottom: 0;
  background: var(--paper);
  padding: 6px 0;
}
.links {
  display: flex;
  gap: 8px;
}
</style>
