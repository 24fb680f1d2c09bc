<script setup lang="ts">
import { format } from 'date-fns'
import { personKey, sayStudent } from '#core/course/people'
import { computeResults, type StudentResult } from '#core/results/results'
import { questionsCsv, studentsCsv } from '#core/results/csv'
import { errorMessage } from '#core/text/error-message'
import { db } from '~/db/database'
import { loadParts } from '~/services/cards'
import { askedSets, pullResults } from '~/services/results'
import { download, fileName } from '~/utils/download'

const id = String(useRoute().params.id)
/** The place whose results are shown; empty for the first. */
const placeId = ref('')
const data = useLive(async () => {
  const parts = await loadParts(id)
  if (!parts) return null
  // Those that it was taken off stand last.
  const places = [...parts.places].sort((a, b) => Number(a.removed) - Number(b.removed))
  const row = places.find((p) => p.id === placeId.value) ?? places[0] ?? null
  const events = row ? await db.answers.where('placeId').equals(row.id).toArray() : []
  const roster = row ? ((await db.rosters.get(row.place.courseId))?.students ?? []) : []
  const sets = row ? await askedSets(row) : { sets: [], current: [] }
  const courses = new Map((await db.courses.toArray()).map((c) => [c.id, c.code]))
  const choices = places.map(({ id, place, removed }) => ({
    id,
    says: `${courses.get(place.courseId) ?? place.courseId}, week ${place.week}, from ${format(new Date(place.from), 'd MMM yyyy')}${removed ? ' (taken off)' : ''}`,
  }))
  return { parts, row, choices, results: computeResults(sets, events, roster) }
}, [placeId])
useHead({ title: computed(() => `Results: ${data.value?.parts.lecture.title ?? ''} · Thaw`) })
const sayRow = ({ student }: StudentResult) => sayStudent(student)
const busy = ref(false)
const results = computed(() => data.value?.results)
const came = computed(() => results.value?.students.filter((s) => s.lastAnswerAt !== null).length ?? 0)
const hasUnmarked = computed(() => results.value?.students.some((s) => s.unmarked > 0) ?? false)
const mean = computed(() => {
  const answered = results.value?.students.filter((s) => s.lastAnswerAt !== null) ?? []
  return answered.length ? answered.reduce((sum, s) => sum + s.percent, 0) / answered.length : null
})

async function pull(): Promise<void> {
  const row = data.value?.row
  if (!row || !(await askForAuthor())) return
  busy.value = true
  try {
    const fresh = await pullResults(row)
    ElMessage.success(
      fresh === 0 ? 'Nothing new since last time.' : fresh === 1 ? 'One new response.' : `${fresh} new responses.`,
    )
  } catch (error) {
    ElMessage({
      type: 'error',
      duration: 0,
      showClose: true,
      message: errorMessage(error),
    })
  } finally {
    busy.value = false
  }
}
const save = (kind: 'students' | 'questions') => {
  if (!results.value || !data.value) return
  download(
    `${fileName(data.value.parts.lecture.title)}-${kind}.csv`,
    'text/csv',
    kind === 'students' ? studentsCsv(results.value) : questionsCsv(results.value),
  )
}
</script>

<template>
  <div v-if="data === null" class="page">
    <p class="notice">There is no such lecture. <NuxtLink to="/">Go to the term</NuxtLink>.</p>
  </div>
  <div v-else-if="data && results" class="page">
    <header>
      <div>
        <p class="quiet"><NuxtLink :to="`/lecture/${id}?step=released`">Back to the desk</NuxtLink></p>
        <h1>Results: {{ data.parts.lecture.title }}</h1>
      </div>
      <div>
        <el-select
          v-if="data.choices.length > 1"
          :model-value="data.row?.id"
          class="place"
          aria-label="Place"
          @update:model-value="placeId = $event"
          ><el-option v-for="c in data.choices" :key="c.id" :value="c.id" :label="c.says" /></el-select
        ><el-button @click="save('students')">Students as CSV</el-button
        ><el-button @click="save('questions')">Questions as CSV</el-button
        ><el-button type="primary" :loading="busy" :disabled="!data.row" @click="pull">Fetch new responses</el-button>
      </div>
    </header>
    <p v-if="!data.row" class="notice">This lecture is not published yet, so nobody can have answered.</p>
    <p v-else-if="!results.students.length" class="notice">
      Nothing has been fetched yet. “Fetch new responses” gets what students sent back.
    </p>
    <dl class="figures">
      <div>
        <dt>Answered</dt>
        <dd>
          {{ came }} <small>of {{ results.students.length }}</small>
        </dd>
      </div>
      <div>
        <dt>Mean of those</dt>
        <dd>{{ mean === null ? '–' : `${mean.toFixed(0)} %` }}</dd>
      </div>
      <div>
        <dt>Points to be had now</dt>
        <dd>{{ results.possible }}</dd>
      </div>
    </dl>
    <section v-for="q in results.questions" :key="q.questionId" class="surface question">
      <h2>{{ q.prompt }}</h2>
      <p v-if="q.earlier" class="notice">This question is asked no longer. It counts for those who answered it.</p>
      <p class="quiet">
        {{ q.answered }} answered{{ q.facility === null ? '' : `, ${Math.round(100 * q.facility)} % of the points` }}
      </p>
      <ChoiceBars :counts="q.counts" :answered="q.answered" />
    </section>
    <section class="surface">
      <el-table
        :data="results.students"
        :row-key="(row: StudentResult) => personKey(row.student)"
        :default-sort="{ prop: 'student', order: 'ascending' }"
        size="small"
      >
        <el-table-column prop="student" label="Student" sortable :sort-by="sayRow" min-width="180"
          ><template #default="{ row }">{{ sayRow(row as StudentResult) }}</template></el-table-column
        >
        <el-table-column prop="right" label="Right" sortable align="right" />
        <el-table-column prop="partly" label="Partly" sortable align="right" />
        <el-table-column prop="wrong" label="Wrong" sortable align="right" />
        <el-table-column v-if="hasUnmarked" prop="unmarked" label="Not marked" sortable align="right" width="130" />
        <el-table-column prop="unanswered" label="Unanswered" sortable align="right" width="130" />
        <el-table-column prop="points" label="Points" sortable align="right" />
        <el-table-column prop="possible" label="Possible" sortable align="right" width="112" />
        <el-table-column prop="percent" label="Per cent" sortable align="right" width="110" />
        <el-table-column label="Last answer" min-width="150" align="right"
          ><template #default="{ row }">{{
            row.lastAnswerAt ? format(new Date(row.lastAnswerAt), 'd MMM yyyy, HH:mm') : '–'
          }}</template></el-table-column
        >
      </el-table>
    </section>
  </div>
</template>

<style scoped>
.page {
  padding: 20px 24px 40px;
  max-width: 1180px;
  margin: 0 auto;
  display: flex;
  flex-direction: column;
  gap: 14px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: end;
  gap: 20px;
  flex-wrap: wrap;
}
header p {
  margin: 0;
}
.place {
  width: 280px;
  margin-right: 12px;
}
.figures {
  display: flex;
  gap: 40px;
  margin: 0;
}
.figures dt {
  color: var(--quiet);
  font-size: 14px;
}
.figures dd {
  margin: 0;
  font: 560 30px/1.2 var(--title);
}
.figures small {
  font-size: 16px;
  color: var(--quiet);
}
.question {
  padding: 14px 18px;
}
.surface {
  overflow: hidden;
}
.el-table {
  font-size: 15px;
  font-variant-numeric: tabular-nums;
}
</style>
