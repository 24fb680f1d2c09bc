<script setup lang="ts">
import { median } from 'd3-array'
import { personKey, sayStudent } from '#core/course/people'
import { sayConcern, studentConcerns, type StudentConcerns } from '#core/results/concerns'
import { answersToMark, regradeChanges } from '#core/results/marking'
import { computeResults, type QuestionResult } from '#core/results/results'
import { sayCount } from '#core/text/words'
import { FEW } from '#core/results/statistics'
import { unreachedAnswers } from '#core/results/watching'
import { errorMessage } from '#core/text/error-message'
import { formatTimecode, sayDuration } from '#core/time/timecode'
import { tableCsv } from '#core/results/csv'
import { itemsTable, questionsTable, studentsTable } from '#core/results/tables'
import type { Student } from '#core/schema/attempt'
import { workbookOf } from '~/services/spreadsheet'
import { authorFetch } from '~/utils/author'
import { download, fileName } from '~/utils/download'
import { studentRows } from '~/utils/student-rows'

const id = String(useRoute().params.id)
const followed = usePlaceHistory(id, String(useRoute().query.place ?? ''))
const { data, history, map, watching, busy, pull, decide } = followed
useHead({ title: computed(() => `Results: ${data.value?.parts.lecture.title ?? ''} · Thaw`) })
const results = computed(() => history.value && computeResults(history.value))
const came = computed(() => results.value?.students.filter((s) => s.lastAnswerAt !== null).length ?? 0)
const mean = computed(() => {
  const answered = results.value?.students.filter((s) => s.lastAnswerAt !== null) ?? []
  return answered.length ? answered.reduce((sum, s) => sum + s.percent, 0) / answered.length : null
})
/** Null where it is not known who watched. */
const watchers = computed(() => (watching.value && !watching.value.sums ? watching.value.students : null))
const seen = computed(
  () =>
    watchers.value &&
    new Map(watchers.value.map((w) => [personKey(w.student), { watched: w.share, lastAt: w.lastAt }])),
)
const rows = computed(() => studentRows(results.value?.students ?? [], seen.value))
const typical = computed(() => median(watchers.value ?? [], (w) => w.share))
const concerns = computed(() => studentConcerns(results.value?.students ?? [], watchers.value))
const isAbsent = ({ concerns }: StudentConcerns) => concerns.some((c) => c.kind === 'absent')
const absent = computed(() => concerns.value.filter(isAbsent))
const concerned = computed(() => concerns.value.filter((c) => !isAbsent(c)))
const unreached = computed(() => {
  const { place, watched } = data.value ?? {}
  return place && watched ? unreachedAnswers(place, watched.sessions) : []
})
const promptOf = (questionId: string) => results.value?.questions.find((q) => q.questionId === questionId)?.prompt ?? ''
const ofPlace = computed(() => (data.value?.row ? `?place=${data.value.row.id}` : ''))
const pageOf = (student: Student) =>
  `/lecture/${id}/results/student?${new URLSearchParams({ place: data.value?.row?.id ?? '', who: personKey(student) }).toString()}`

const longer = computed(() => (history.value ? answersToMark(history.value) : []))
const toMark = computed(() => longer.value.filter((a) => !a.mark && !a.excused).length)
const changes = computed(() => (history.value ? regradeChanges(history.value) : []))
const regradeIsOpen = ref(false)
const logIsOpen = ref(false)

const figure = (x: number | null, digits = 2) => (x === null ? '–' : x.toFixed(digits))
/** How a question goes with the others, how long it takes, and how many read its hint. */
function sayItem({ item, took, hinted }: QuestionResult): string {
  const parts = [
    item && item.discrimination !== null ? `discrimination ${figure(item.discrimination)}` : '',
    item && item.upperLower !== null ? `upper less lower 27 %: ${figure(item.upperLower)}` : '',
    took !== null ? `${sayDuration(took)} to answer` : '',
    hinted > 0 ? `${hinted} read the hint` : '',
  ]
  return parts
    .filter(Boolean)
    .map((p) => ` · ${p}`)
    .join('')
}
/** Sets as wholes, where there is more than one question to go together. */
const together = computed(() =>
  (results.value?.sets ?? [])
    .filter(({ items, statistics }) => items.length > 1 && statistics.count > 1)
    .map(({ id, title, statistics: s }) => ({
      ...{ id, title, count: s.count, few: s.count < FEW },
      figures: [
        ['Mean', figure(s.mean)],
        ['Standard deviation', figure(s.deviation)],
        ['Least to most', `${figure(s.least, 1)} to ${figure(s.most, 1)}`],
        ['Cronbach’s α', figure(s.alpha)],
        ['KR-20', figure(s.kr20)],
        ['Error of measurement', figure(s.error)],
      ] as const,
    })),
)

async function saveStatements(name: string): Promise<void> {
  const row = data.value?.row
  if (!row || !(await askForAuthor())) return
  try {
    const answer = await authorFetch(`/api/places/${row.id}/statements`)
    download(`${name}-statements.json`, 'application/json', await answer.blob())
  } catch (error) {
    ElMessage({ type: 'error', duration: 0, showClose: true, message: errorMessage(error) })
  }
}
const save = (kind: 'students' | 'answers' | 'workbook' | 'statements') => {
  if (!results.value || !data.value) return
  const name = fileName(data.value.parts.lecture.title)
  const made = results.value
  if (kind === 'students') download(`${name}-students.csv`, 'text/csv', tableCsv(studentsTable(made, watchers.value)))
  else if (kind === 'answers') download(`${name}-answers.csv`, 'text/csv', tableCsv(questionsTable(made)))
  else if (kind === 'statements') void saveStatements(name)
  else
    void workbookOf([studentsTable(made, watchers.value), itemsTable(made), questionsTable(made)]).then((book) =>
      download(`${name}-results.xlsx`, book.type, book),
    )
}
const print = () => window.print()
</script>

<template>
  <div v-if="data === null" class="page">
    <p class="notice">There is no such lecture. <NuxtLink to="/">Go to the term</NuxtLink>.</p>
  </div>
  <div v-else-if="data && results" class="page">
    <PlaceHead
      :lecture-id="id"
      :title="`Results: ${data.parts.lecture.title}`"
      :followed="followed"
      back="Back to the desk"
      :to="`/lecture/${id}?step=released`"
    >
      <el-dropdown trigger="click" @command="save"
        ><el-button>Save<span class="el-icon--right" aria-hidden="true">▾</span></el-button
        ><template #dropdown
          ><el-dropdown-menu>
            <el-dropdown-item command="workbook">Everything as XLSX</el-dropdown-item>
            <el-dropdown-item command="students">Students as CSV</el-dropdown-item>
            <el-dropdown-item command="answers">Answers as CSV</el-dropdown-item>
            <el-dropdown-item command="statements">Watching as xAPI statements</el-dropdown-item>
          </el-dropdown-menu></template
        ></el-dropdown
      >
      <el-button @click="print">Print</el-button>
      <el-button @click="logIsOpen = true">Log</el-button>
      <el-button type="primary" :loading="busy" :disabled="!data.row" @click="pull">Fetch new responses</el-button>
    </PlaceHead>
    <p v-if="!data.row" class="notice">This lecture is not published yet, so nobody can have answered.</p>
    <p v-else-if="!results.students.length" class="notice">
      Nothing has been fetched yet. “Fetch new responses” gets what students sent back.
    </p>
    <p v-if="longer.length" class="notice row" :class="{ good: !toMark }">
      <span>{{
        toMark
          ? `${sayCount(toMark, 'longer answer waits', 'longer answers wait')} for a person to mark ${toMark === 1 ? 'it' : 'them'}.`
          : 'All longer answers are marked.'
      }}</span>
      <NuxtLink :to="`/lecture/${id}/marking${ofPlace}`">Mark answers</NuxtLink>
    </p>
    <p v-if="changes.length" class="notice row">
      <span
        >Questions were changed after they were answered. Each answer counts by the question as it was; by the changed
        ones, {{ sayCount(changes.length, 'answer', 'answers') }} would earn other points.</span
      >
      <el-button @click="regradeIsOpen = true">See who changes</el-button>
    </p>
    <dl class="figures">
      <div v-if="watchers">
        <dt>Watched</dt>
        <dd>
          {{ watchers.length }} <small>of {{ results.students.length }}</small>
        </dd>
      </div>
      <div v-if="typical !== undefined">
        <dt>Half of them saw at least</dt>
        <dd>{{ Math.round(100 * typical) }} %</dd>
      </div>
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
    <WatchingCurve v-if="watching && map" :watching="watching" :map="map" :parts="data.parts" />
    <section v-if="concerned.length || absent.length" class="surface question" aria-labelledby="concerns-heading">
      <h2 id="concerns-heading">Who may need a word</h2>
      <ul class="people">
        <li v-for="c in concerned" :key="personKey(c.student)">
          <NuxtLink :to="pageOf(c.student)">{{ sayStudent(c.student) }}</NuxtLink>
          <span>{{ c.concerns.map(sayConcern).join('; ') }}</span>
        </li>
      </ul>
      <p v-if="absent.length" class="absent">
        Not come yet, where most have:
        <template v-for="(c, i) in absent" :key="personKey(c.student)"
          ><NuxtLink :to="pageOf(c.student)">{{ sayStudent(c.student) }}</NuxtLink
          >{{ i < absent.length - 1 ? ', ' : '.' }}
        </template>
      </p>
    </section>
    <section v-if="unreached.length" class="surface question" aria-labelledby="unreached-heading">
      <h2 id="unreached-heading">Answered before it was watched</h2>
      <p class="quiet">
        This set does not let anybody jump ahead, and what their players reported had not come to the question yet. A
        player that was long without a connection looks the same.
      </p>
      <ul class="people">
        <li v-for="u in unreached" :key="u.id">
          <NuxtLink :to="pageOf(u.student)">{{ sayStudent(u.student) }}</NuxtLink>
          <span
            >{{ promptOf(u.questionId) }}
            <small class="quiet">at {{ formatTimecode(u.at) }}; watched to {{ formatTimecode(u.reached) }}</small></span
          >
        </li>
      </ul>
    </section>
    <section v-for="q in results.questions" :key="q.questionId" class="surface question">
      <h2>{{ q.prompt }}</h2>
      <p v-if="q.earlier" class="notice">This question is asked no longer. It counts for those who answered it.</p>
      <p class="quiet">
        {{ q.answered }} answered{{ q.facility === null ? '' : `, ${Math.round(100 * q.facility)} % of the points`
        }}{{ sayItem(q) }}
      </p>
      <ChoiceBars :counts="q.counts" :answered="q.answered" />
    </section>
    <section v-for="s in together" :key="s.id" class="surface question" :aria-label="`${s.title}, as a whole`">
      <h2>{{ s.title }}, as a whole</h2>
      <dl class="figures small">
        <div v-for="[term, value] in s.figures" :key="term">
          <dt>{{ term }}</dt>
          <dd>{{ value }}</dd>
        </div>
      </dl>
      <p class="quiet">
        Of {{ s.count }} first attempts that were handed in{{
          s.few ? '. With so few, a coefficient may be far off by chance' : ''
        }}.
      </p>
    </section>
    <StudentTable v-if="rows.length" :rows="rows" :page-of="pageOf" />
    <RegradeDialog v-if="regradeIsOpen" :changes="changes" :decide="decide" @close="regradeIsOpen = false" />
    <GradingLog
      v-if="logIsOpen && history && data.place"
      :history="history"
      :place="data.place"
      @close="logIsOpen = false"
    />
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
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 40px;
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
.figures.small {
  flex-wrap: wrap;
  gap: 8px 32px;
}
.figures.small dd {
  font-size: 20px;
}
.figures small {
  font-size: 16px;
  color: var(--quiet);
}
.question {
  padding: 14px 18px;
}
.row {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 16px;
  margin: 0;
}
.absent {
  margin: 8px 0 0;
}
.people {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}
.people li {
  display: grid;
  grid-template-columns: 220px minmax(0, 1fr);
  gap: 16px;
  padding: 3px 0;
}
@media print {
  .row {
    display: none;
  }
  .question {
    break-inside: avoid;
  }
}
</style>
