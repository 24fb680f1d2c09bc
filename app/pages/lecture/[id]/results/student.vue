<script setup lang="ts">
import dayjs from 'dayjs'
import { Trash2 } from 'lucide-vue-next'
import { personKey, sayStudent } from '#core/course/people'
import { isGraded } from '#core/questions/grade'
import { sayAnswer } from '#core/results/marking'
import type { JudgedQuestion } from '#core/results/history'
import { computeResults } from '#core/results/results'
import { formatTimecode, sayDuration } from '#core/time/timecode'
import { lineOf } from '#core/text/rich-text'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { forgetStudent, type NewDecision } from '~/services/results'

/** What came of a lecture for one student. */
const route = useRoute()
const id = String(route.params.id)
const who = String(route.query.who ?? '')
const followed = usePlaceHistory(id, String(route.query.place ?? ''))
const { data, history, map, watching, decide } = followed
const own = computed(() => history.value?.students.find((s) => personKey(s.student) === who))
const name = computed(() => (own.value ? sayStudent(own.value.student) : ''))
useHead({ title: computed(() => `${name.value}: ${data.value?.parts.lecture.title ?? ''} · Thaw`) })
const result = computed(
  () => history.value && computeResults(history.value).students.find((s) => personKey(s.student) === who),
)
/** What of the lecture was watched; undefined where that is not known of single people, or nothing was. */
const watched = computed(() => watching.value?.students.find((w) => personKey(w.student) === who))
const sets = computed(() =>
  (own.value?.sets ?? []).map((at) => ({
    ...at,
    judged: at.attempts.map((attempt) => {
      const judged = history.value?.judge(at, attempt)
      return { number: attempt.number, handedInAt: judged?.handedInAt ?? null, questions: judged?.questions ?? [] }
    }),
  })),
)
const answerOf = ({ state, seen }: JudgedQuestion) =>
  state?.kind === 'answered' ? sayAnswer(seen, state.answer) : state ? 'begun, not handed in' : 'not answered'
function sayEarned({ earned, by, decision }: JudgedQuestion): string {
  if (!isGraded(by.open)) return ''
  if (earned.excused) return `excused: ${decision.excuse?.reason ?? ''}`
  const why =
    earned.by === 'override'
      ? `given: ${decision.override?.reason ?? ''}`
      : earned.by === 'marker'
        ? earned.comment
        : decision.regrade
          ? 'by the changed question'
          : ''
  const points = earned.points === null ? 'to be marked' : `${earned.points} of ${by.open.points}`
  return why ? `${points} (${why})` : points
}

/** What is being decided about one question. */
const deciding = shallowRef<{
  kind: 'override' | 'excuse'
  set: string
  attempt: number
  question: JudgedQuestion
} | null>(null)
const points = ref(0)
const reason = ref('')
function open(kind: 'override' | 'excuse', set: string, attempt: number, question: JudgedQuestion): void {
  deciding.value = { kind, set, attempt, question }
  points.value = question.earned.points ?? 0
  reason.value = ''
}
async function keep(): Promise<void> {
  const { value } = deciding
  const student = own.value?.student
  if (!value || !student || !reason.value.trim()) return
  const { set, attempt, question } = value
  const about = { student, set, questionId: question.questionId, reason: reason.value.trim() }
  const decision: NewDecision =
    value.kind === 'excuse'
      ? { kind: 'excuse', ...about, excused: !question.earned.excused }
      : { kind: 'override', ...about, attempt, points: points.value }
  if (await decide([decision])) deciding.value = null
}
async function forget(): Promise<void> {
  const student = own.value?.student
  if (!student) return
  const answer = await ElMessageBox.confirm(
    'Answers, points, comments and what was watched are deleted for good, in all lectures, on the server and in this browser. Other browsers, and files that were saved, keep what they have. The course site’s list of students is not changed.',
    `Delete all data of ${sayStudent(student)}?`,
    { confirmButtonText: 'Delete for good', cancelButtonText: 'Keep', type: 'warning' },
  ).catch(() => 'keep')
  if (answer !== 'confirm' || !(await askForAuthor())) return
  try {
    const places = await forgetStudent(student)
    ElMessage({ type: 'success', message: `Deleted. There was something in ${sayCount(places, 'place', 'places')}.` })
    await navigateTo(`/lecture/${id}/results`)
  } catch (error) {
    ElMessage({ type: 'error', duration: 0, showClose: true, message: errorMessage(error) })
  }
}
async function takeBack(set: string, attempt: number, { questionId }: JudgedQuestion): Promise<void> {
  const student = own.value?.student
  if (student)
    await decide([{ kind: 'override', student, set, attempt, questionId, points: null, reason: 'Taken back' }])
}
</script>

<template>
  <div v-if="data === null" class="page">
    <p class="notice">There is no such lecture. <NuxtLink to="/">Go to the term</NuxtLink>.</p>
  </div>
  <div v-else-if="data && history" class="page">
    <PlaceHead
      :lecture-id="id"
      :title="name || 'A student'"
      :followed="followed"
      :back="`Back to the results of ${data.parts.lecture.title}`"
      :to="`/lecture/${id}/results`"
      ><el-button v-if="own" @click="forget"
        ><Trash2 :size="15" aria-hidden="true" /> Delete this student’s data …</el-button
      ></PlaceHead
    >
    <p v-if="!own || !result" class="notice">Nobody of this name is known here yet. Fetch new responses first.</p>
    <template v-else>
      <dl class="figures">
        <div>
          <dt>Points</dt>
          <dd>
            {{ result.points }} <small>of {{ result.possible }}</small>
          </dd>
        </div>
        <div>
          <dt>Per cent</dt>
          <dd>{{ result.percent.toFixed(0) }} %</dd>
        </div>
        <div>
          <dt>Attempts</dt>
          <dd>{{ result.attempts }}</dd>
        </div>
        <div>
          <dt>Last answer</dt>
          <dd>{{ own.lastAnswerAt ? dayjs(own.lastAnswerAt).format('D MMM YYYY, HH:mm') : '–' }}</dd>
        </div>
        <div v-if="watched">
          <dt>Watched</dt>
          <dd>
            {{ Math.round(100 * watched.share) }} %
            <small>{{ watched.sittings === 1 ? 'in one sitting' : `in ${watched.sittings} sittings` }}</small>
          </dd>
        </div>
        <div v-if="watched">
          <dt>Watched last</dt>
          <dd>{{ dayjs(watched.lastAt).format('D MMM YYYY, HH:mm') }}</dd>
        </div>
      </dl>
      <section v-if="map && watched" class="surface" aria-labelledby="watched-heading">
        <h2 id="watched-heading">What was watched</h2>
        <svg class="seen" viewBox="0 0 1000 10" preserveAspectRatio="none" aria-hidden="true">
          <rect
            v-for="[from, to] in watched.once"
            :key="from"
            :x="(1000 * from) / map.length"
            :width="Math.max(2, (1000 * (to - from)) / map.length)"
            height="10"
          />
        </svg>
        <p class="quiet">
          {{ watched.once.map(([from, to]) => `${formatTimecode(from)} to ${formatTimecode(to)}`).join(', ') }}, of
          {{ formatTimecode(map.length)
          }}{{
            watched.total > watched.seconds + 5 ? `; ${sayDuration(watched.total - watched.seconds)} of it again` : ''
          }}
        </p>
      </section>
      <template v-for="s in sets" :key="s.own.set.id">
        <section v-for="a in s.judged" :key="a.number" class="surface">
          <h2>
            {{ s.own.set.title }}{{ s.judged.length > 1 ? `, attempt ${a.number}` : '' }}
            <small class="quiet">{{
              a.handedInAt ? `handed in ${dayjs(a.handedInAt).format('D MMM YYYY, HH:mm')}` : 'not handed in'
            }}</small>
          </h2>
          <ul>
            <li v-for="q in a.questions.filter((one) => one.seen.open.kind !== 'note')" :key="q.questionId">
              <div class="what">
                <strong>{{ lineOf(q.seen.open.prompt) }}</strong>
                <span class="answer">{{ answerOf(q) }}</span>
              </div>
              <span class="points">{{ sayEarned(q) }}</span>
              <span v-if="isGraded(q.by.open)" class="actions">
                <el-button
                  size="small"
                  :aria-label="`Give points for: ${lineOf(q.seen.open.prompt)}`"
                  @click="open('override', s.own.set.id, a.number, q)"
                  >Give points</el-button
                ><el-button
                  v-if="q.earned.by === 'override'"
                  size="small"
                  :aria-label="`Take back what was given for: ${lineOf(q.seen.open.prompt)}`"
                  @click="takeBack(s.own.set.id, a.number, q)"
                  >Take back</el-button
                ><el-button
                  size="small"
                  :aria-label="`${q.earned.excused ? 'Count again' : 'Excuse'}: ${lineOf(q.seen.open.prompt)}`"
                  @click="open('excuse', s.own.set.id, a.number, q)"
                  >{{ q.earned.excused ? 'Count again' : 'Excuse' }}</el-button
                >
              </span>
            </li>
          </ul>
        </section>
      </template>
    </template>
    <el-dialog
      v-if="deciding"
      :model-value="true"
      :title="
        deciding.kind === 'override'
          ? 'Points in place of those that were earned'
          : deciding.question.earned.excused
            ? 'Let it count again'
            : 'Let it not count'
      "
      width="min(480px, 94vw)"
      @close="deciding = null"
    >
      <form id="decision" aria-label="Decision" @submit.prevent="keep">
        <p>{{ lineOf(deciding.question.seen.open.prompt) }}</p>
        <p v-if="deciding.kind === 'override'">
          <el-input-number
            v-model="points"
            :min="0"
            :max="1000"
            :step="0.5"
            controls-position="right"
            aria-label="Points"
          />
          of {{ deciding.question.by.open.points }}
        </p>
        <el-input v-model="reason" maxlength="1000" placeholder="Why, for the log" aria-label="Why, for the log" />
      </form>
      <template #footer>
        <el-button @click="deciding = null">Cancel</el-button>
        <el-button native-type="submit" form="decision" type="primary" :disabled="!reason.trim()">Keep</el-button>
      </template>
    </el-dialog>
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
  gap: 40px;
  margin: 0;
  flex-wrap: wrap;
}
.figures dt {
  color: var(--quiet);
  font-size: 14px;
}
.figures dd {
  margin: 0;
  font: 560 26px/1.2 var(--title);
}
.figures small,
h2 small {
  font-size: 16px;
}
.surface {
  padding: 14px 18px;
}
h2 small {
  font-family: var(--text);
  font-weight: 400;
}
.seen {
  display: block;
  width: 100%;
  height: 18px;
  margin: 8px 0 4px;
  border-radius: 4px;
  background: var(--hairline);
}
.seen rect {
  fill: var(--tarn);
}
.seen + p {
  margin: 0;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(120px, 220px) auto;
  gap: 6px 16px;
  align-items: start;
  padding: 8px 0;
  border-top: 1px solid var(--hairline);
}
.what {
  display: flex;
  flex-direction: column;
}
.answer {
  white-space: pre-wrap;
}
.points {
  font-variant-numeric: tabular-nums;
}
.actions {
  display: flex;
  gap: 6px;
}
.actions :deep(.el-button + .el-button) {
  margin-left: 0;
}
@media (max-width: 640px) {
  li {
    grid-template-columns: minmax(0, 1fr);
  }
  .actions {
    flex-wrap: wrap;
  }
}
@media print {
  .actions {
    display: none;
  }
}
</style>
