<script setup lang="ts">
import { format } from 'date-fns'
import { releaseState } from '#core/course/release'
import type { Kind } from '#core/documents/kinds'
import { projectLecture } from '#core/packages/publication'
import { sayDuration } from '#core/time/timecode'
import { errorMessage } from '#core/text/error-message'
import { documentOf, fingerprint } from '~/services/fingerprint'
import { publish, replace } from '~/services/publishing'
import { JobCancelled, useJobs } from '~/stores/jobs'
import { useDesk } from '~/stores/desk'
import { db } from '~/db/database'

const desk = useDesk()
const jobs = useJobs()
const courses = useLive(() => db.courses.toArray())
const release = computed(() => desk.parts?.release ?? null)
const courseId = ref(release.value?.place.courseId ?? desk.lecture?.courseId ?? '')
const week = ref(release.value?.place.week ?? desk.lecture?.week ?? 1)
const from = ref<Date>(new Date(release.value?.place.from ?? Date.now()))
const until = ref<Date | null>(release.value?.place.until ? new Date(release.value.place.until) : null)
const problem = ref('')
const course = computed(() => courses.value?.find((c) => c.id === courseId.value))
const projected = computed(() => {
  const of = <K extends Kind>(kind: K) => desk.parts && documentOf(desk.parts, kind)
  return projectLecture(desk.map, {
    captions: of('captions'),
    chapters: of('chapters'),
    links: of('links'),
    questions: of('questions'),
  })
})
const job = useLive(
  () =>
    db.jobs
      .where('lectureId')
      .equals(desk.lecture?.id ?? '')
      .and((j) => j.state === 'running' && j.kind === 'publish')
      .first(),
  [() => desk.lecture?.id],
)
const announced = useLive(
  async () => (await db.broadcasts.get(desk.lecture?.id ?? '')) ?? null,
  [() => desk.lecture?.id],
)
const outdated = computed(() => {
  const { parts } = desk
  return Boolean(parts?.release && parts.release.fingerprint !== fingerprint(parts))
})

const where = computed(() => ({
  courseId: courseId.value,
  week: week.value,
  from: from.value.toISOString(),
  until: until.value?.toISOString() ?? null,
}))
const moved = computed(() => {
  const place = release.value?.place
  return Boolean(
    place &&
    JSON.stringify(where.value) !==
      JSON.stringify({ courseId: place.courseId, week: place.week, from: place.from, until: place.until }),
  )
})
const when = computed(() => {
  const state = releaseState(where.value, new Date().toISOString())
  const date = (d: Date) => format(d, 'd MMMM yyyy, HH:mm')
  if (state === 'released' && !release.value)
    return `Students see it as soon as it is published${until.value ? `, until ${date(until.value)}` : ''}.`
  return state === 'waiting'
    ? `Students see it from ${date(from.value)} on.`
    : state === 'over'
      ? 'This window is over: students do not see it.'
      : `Students see it now${until.value ? `, until ${date(until.value)}` : ''}.`
})
const windowProblem = computed(() =>
  until.value && until.value <= from.value ? 'The release has to end after it begins.' : '',
)
const notes = computed(() => {
  const { lost } = projected.value
  const out: string[] = []
  if (!desk.captions) out.push('There are no captions: many students cannot follow without.')
  else if (desk.captions.state !== 'on')
    out.push('Captions are written but not on: students will not see them. Switch them on in the Captions step.')
  if (lost.checkpoints.length)
    out.push(
      `${lost.checkpoints.length === 1 ? 'One question lies' : `${lost.checkpoints.length} questions lie`} inside a removed part and will not be asked.`,
    )
  if (lost.unfinished.length)
    out.push(
      `${lost.unfinished.length === 1 ? 'One question is' : `${lost.unfinished.length} questions are`} unfinished and will not be asked.`,
    )
  if (lost.chapters.length)
    out.push(
      `${lost.chapters.length === 1 ? 'One chapter lies' : `${lost.chapters.length} chapters lie`} inside removed parts and ${lost.chapters.length === 1 ? 'is' : 'are'} left out.`,
    )
  if (lost.links.length)
    out.push(
      `${lost.links.length === 1 ? 'One link card is' : `${lost.links.length} link cards are`} left out: nothing of where ${lost.links.length === 1 ? 'it is' : 'they are'} seen, or of where ${lost.links.length === 1 ? 'it leads' : 'they lead'}, is kept.`,
    )
  const whole = lost.captions.filter((c) => c.whole).length
  if (whole)
    out.push(
      `${whole} ${whole === 1 ? 'cue falls' : 'cues fall'} into removed parts and ${whole === 1 ? 'is' : 'are'} left out.`,
    )
  return out
})

async function go(what: 'publish' | 'move'): Promise<void> {
  problem.value = ''
  if (!desk.parts || windowProblem.value || !(await askForAuthor())) return
  try {
    if (what === 'publish') await publish(desk.parts, where.value, jobs)
    else await replace(desk.parts, where.value)
    await desk.refresh()
    ElMessage.success(`“${desk.lecture?.title}” is in ${course.value?.code}, week ${week.value}. ${when.value}`)
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  }
}
</script>

<template>
  <div class="sheet">
    <h2>Release to a course</h2>
    <p v-if="release" class="notice" :class="{ good: !outdated }">
      {{
        outdated
          ? 'The lecture was changed since it was published; students still see the earlier state.'
          : `Published ${format(new Date(release.publishedAt), 'd MMMM yyyy, HH:mm')}. What students get is what stands here.`
      }}
    </p>
    <p v-if="announced" class="notice">
      It was announced to be watched live. Its recording will be at the same link, once it is published.
    </p>
    <div class="grid">
      <label for="release-course">Course</label
      ><el-select id="release-course" v-model="courseId" aria-label="Course"
        ><el-option v-for="c in courses" :key="c.id" :value="c.id" :label="`${c.code} ${c.title}`"
      /></el-select>
      <label for="release-week">Week</label
      ><el-input-number id="release-week" v-model="week" :min="1" :max="course?.weeks ?? 60" aria-label="Week" />
      <label for="release-from">Visible from</label
      ><el-date-picker
        id="release-from"
        v-model="from"
        type="datetime"
        format="D MMM YYYY HH:mm"
        :clearable="false"
        aria-label="Visible from"
      />
      <label for="release-until">Until</label
      ><el-date-picker
        id="release-until"
        v-model="until"
        type="datetime"
        format="D MMM YYYY HH:mm"
        placeholder="no end"
        aria-label="Until"
      />
    </div>
    <p v-if="windowProblem" class="notice bad" role="alert">{{ windowProblem }}</p>
    <p v-else>{{ when }}</p>
    <div class="what">
      <h3>What goes out</h3>
      <p>
        {{ sayDuration(desk.map.length) }} of video, {{ projected.captions ? 'captions' : 'no captions' }},
        {{ projected.checkpoints.length === 1 ? '1 question' : `${projected.checkpoints.length} questions` }}.
      </p>
      <p v-for="n in notes" :key="n" class="notice">{{ n }}</p>
    </div>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <div v-if="job" class="job" role="status">
      <el-progress :percentage="Math.round(100 * job.progress)" aria-label="Publishing" /><span class="quiet"
        >{{ job.says }}. You can go on with something else.</span
      >
      <el-button @click="jobs.cancel(job.id)">Cancel</el-button>
    </div>
    <div v-else class="row">
      <el-button
        type="primary"
        size="large"
        :disabled="desk.recordingIs !== 'whole' || !!windowProblem"
        @click="go('publish')"
        >{{ release ? 'Publish again' : 'Publish' }}</el-button
      >
      <el-button v-if="moved" size="large" :disabled="!!windowProblem" @click="go('move')"
        >Change place and dates only</el-button
      >
    </div>
    <p v-if="release" class="links">
      <NuxtLink :to="`/lecture/${desk.lecture?.id}/results`">Results</NuxtLink> ·
      <a href="/course-site/" target="_blank" rel="noopener">The course site, as a student sees it</a>
    </p>
  </div>
</template>

<style scoped>
.sheet {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.sheet > p {
  margin: 0;
}
.grid {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
}
.grid label {
  color: var(--quiet);
  font-size: 14px;
}
.grid :deep(.el-date-editor) {
  width: 100%;
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
