<script setup lang="ts">
import { useStorage } from '@vueuse/core'
import { personKey, sayStudent } from '#core/course/people'
import {
  answersToMark,
  byPerson,
  namesHidden,
  readyToRelease,
  sayAnswer,
  type AnswerToMark,
} from '#core/results/marking'
import { sayCount } from '#core/text/words'
import { lineOf } from '#core/text/rich-text'

/** Longer answers, one after another. */
const id = String(useRoute().params.id)
const followed = usePlaceHistory(id, String(useRoute().query.place ?? ''))
const { data, history, decide } = followed
useHead({ title: computed(() => `Marking: ${data.value?.parts.lecture.title ?? ''} · Thaw`) })

const order = useStorage<'question' | 'student'>('thaw-marking-order', 'question')
const hideNames = useStorage('thaw-marking-hide-names', false)
const show = ref<'waiting' | 'all'>('waiting')
const all = computed(() => (history.value ? answersToMark(history.value) : []))
const inOrder = computed(() =>
  hideNames.value ? namesHidden(all.value) : order.value === 'student' ? byPerson(all.value) : all.value,
)
const needsMark = (a: AnswerToMark) => !a.mark && !a.excused
const chosen = ref('')
/** The one that is open stays in the list when it is marked, until one goes on. */
const listed = computed(() =>
  inOrder.value.filter((a) => show.value === 'all' || needsMark(a) || a.id === chosen.value),
)
const current = computed(() => listed.value.find((a) => a.id === chosen.value) ?? listed.value[0])
const names = computed(() => new Map(namesHidden(all.value).map((a, i) => [a.id, `Answer ${i + 1}`])))
const nameOf = (a: AnswerToMark) => (hideNames.value ? (names.value.get(a.id) ?? '') : sayStudent(a.student))
const groups = computed(() => {
  const made = new Map<string, { title: string; answers: AnswerToMark[] }>()
  for (const a of listed.value) {
    const isBy = order.value === 'student' && !hideNames.value
    const key = isBy ? personKey(a.student) : a.question.open.id
    const group = made.get(key) ?? { title: isBy ? sayStudent(a.student) : lineOf(a.question.open.prompt), answers: [] }
    group.answers.push(a)
    made.set(key, group)
  }
  return [...made].map(([key, group]) => ({ key, ...group }))
})
/** An answer in a list, beside the heading of its group. */
const rowOf = (a: AnswerToMark) =>
  (order.value === 'student' && !hideNames.value ? lineOf(a.question.open.prompt) : nameOf(a)) +
  (a.attempt > 1 ? `, attempt ${a.attempt}` : '')
const stateOf = (a: AnswerToMark) =>
  a.excused
    ? 'excused'
    : a.changed
      ? 'changed since it was marked'
      : a.mark
        ? `${a.mark.points} of ${a.question.open.points}${a.released ? '' : ', not released'}`
        : a.final
          ? 'to be marked'
          : 'not handed in yet'

function go(by: 1 | -1): void {
  const at = listed.value.findIndex((a) => a.id === current.value?.id)
  const next = listed.value[at + by]
  if (!next) return
  chosen.value = next.id
  void nextTick(() => document.getElementById(`answer-${next.id}`)?.scrollIntoView({ block: 'nearest' }))
}

async function mark(given: { points: number; rubric: Record<string, number>; comment: string }): Promise<void> {
  const answer = current.value
  if (!answer) return
  const { student, set, attempt, question, id: answerId } = answer
  const at = listed.value.findIndex((a) => a.id === answer.id)
  const next = listed.value.slice(at + 1).find(needsMark) ?? listed.value.slice(0, at).find(needsMark)
  const about = { student, set: set.id, attempt, questionId: question.open.id }
  if (await decide([{ kind: 'mark', ...about, answerId, ...given }])) chosen.value = next?.id ?? answer.id
}

const ready = computed(() => readyToRelease(all.value))
const release = (which: typeof ready.value, released: boolean) =>
  decide(which.map((one) => ({ kind: 'release' as const, ...one, released })))
async function releaseAll(): Promise<void> {
  const count = ready.value.length
  if (await release(ready.value, true))
    ElMessage.success(`Released: ${sayCount(count, 'student is', 'students are')} told, as far as the set says so.`)
}
const own = computed(() => {
  const answer = current.value
  if (!answer) return null
  const { student, set, attempt } = answer
  const key = personKey(student)
  const isIn = (r: { student: typeof student; set: string; attempt: number }) =>
    personKey(r.student) === key && r.set === set.id && r.attempt === attempt
  return { which: [{ student, set: set.id, attempt }], canRelease: ready.value.some(isIn), released: answer.released }
})
const waiting = computed(() => all.value.filter(needsMark).length)
const entries = computed(() => data.value?.place?.grading.map((g) => g.entry) ?? [])
const logIsOpen = ref(false)

useShortcuts([
  { shown: 'J', says: 'Next answer', press: { j: () => go(1) } },
  { shown: 'K', says: 'Answer before', press: { k: () => go(-1) } },
])
</script>

<template>
  <div v-if="data === null" class="page">
    <p class="notice">There is no such lecture. <NuxtLink to="/">Go to the term</NuxtLink>.</p>
  </div>
  <div v-else-if="data" class="page">
    <PlaceHead
      :lecture-id="id"
      :title="`Marking: ${data.parts.lecture.title}`"
      :followed="followed"
      back="Back to the results"
      :to="`/lecture/${id}/results`"
    >
      <el-button @click="logIsOpen = true">Log</el-button>
      <el-button type="primary" :disabled="!ready.length" @click="releaseAll"
        >Release all that is marked ({{ ready.length }})</el-button
      >
    </PlaceHead>
    <p v-if="!all.length" class="notice">
      No longer answers were sent back here yet. What students answer comes by itself while this page is open.
    </p>
    <div v-else class="columns">
      <nav class="surface list" aria-label="Answers">
        <div class="filter">
          <el-radio-group v-model="show" size="small" aria-label="Which answers">
            <el-radio-button value="waiting">To mark ({{ waiting }})</el-radio-button>
            <el-radio-button value="all">All ({{ all.length }})</el-radio-button>
          </el-radio-group>
          <el-radio-group v-model="order" size="small" aria-label="Order" :disabled="hideNames">
            <el-radio-button value="question">By question</el-radio-button>
            <el-radio-button value="student">By student</el-radio-button>
          </el-radio-group>
          <el-checkbox v-model="hideNames">Hide names</el-checkbox>
        </div>
        <section v-for="group in groups" :key="group.key">
          <h2>{{ group.title }}</h2>
          <ul>
            <li v-for="a in group.answers" :key="a.id">
              <button
                :id="`answer-${a.id}`"
                type="button"
                :aria-current="a.id === current?.id"
                :class="{ done: a.mark }"
                @click="chosen = a.id"
              >
                <span>{{ rowOf(a) }}</span> <small>{{ stateOf(a) }}</small>
              </button>
            </li>
          </ul>
        </section>
        <p v-if="!listed.length" class="quiet done">Everything is marked.</p>
      </nav>
      <template v-if="current">
        <article class="surface answer" :aria-label="nameOf(current)">
          <p class="quiet who">
            {{ nameOf(current) }}<template v-if="current.attempt > 1">, attempt {{ current.attempt }}</template> ·
            {{ stateOf(current) }}
          </p>
          <h2>{{ lineOf(current.question.open.prompt) }}</h2>
          <p class="text">{{ sayAnswer(current.question, current.answer) }}</p>
          <p class="quiet">
            {{ sayCount(sayAnswer(current.question, current.answer).match(/\S+/g)?.length ?? 0, 'word', 'words')
            }}{{
              'words' in current.question.open && current.question.open.words
                ? ` of ${current.question.open.words} at most`
                : ''
            }}
          </p>
          <details v-if="'model' in current.question.key && current.question.key.model">
            <summary>What a good answer says</summary>
            <p class="text">{{ current.question.key.model }}</p>
          </details>
        </article>
        <div class="surface side">
          <MarkForm :key="current.id" :answer="current" :entries="entries" @mark="mark" @go="go" />
          <p v-if="own" class="release">
            <el-button v-if="own.released" size="small" @click="release(own.which, false)"
              >Take the release back</el-button
            >
            <el-button v-else size="small" :disabled="!own.canRelease" @click="release(own.which, true)"
              >Release this attempt</el-button
            >
            <span class="quiet">{{
              own.released
                ? 'The student is told.'
                : own.canRelease
                  ? 'Marked; the student is not told yet.'
                  : 'Can be released when all of the attempt is marked.'
            }}</span>
          </p>
        </div>
      </template>
    </div>
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
  padding: 16px 24px;
  height: 100%;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.columns {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 290px minmax(0, 1fr) 340px;
  gap: 12px;
}
.columns > * {
  overflow: auto;
}
.filter {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding: 12px;
  position: sticky;
  top: 0;
  background: var(--paper);
  border-bottom: 1px solid var(--hairline);
}
.list h2 {
  font: 600 14px/1.35 var(--text);
  padding: 10px 12px 4px;
}
.list ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.list button {
  display: flex;
  flex-direction: column;
  width: 100%;
  padding: 6px 12px;
  border: 0;
  border-left: 4px solid transparent;
  background: none;
  text-align: left;
  cursor: pointer;
}
.list button[aria-current='true'] {
  background: var(--tarn-wash);
  border-left-color: var(--tarn);
}
.list small {
  color: var(--quiet);
}
.list .done small {
  color: var(--moss);
}
.list > .done {
  padding: 12px;
}
.answer {
  padding: 18px 24px;
}
.answer h2 {
  margin-bottom: 12px;
}
.who {
  margin-bottom: 4px;
}
.text {
  white-space: pre-wrap;
  max-width: 68ch;
  font-size: 17px;
}
.side {
  padding: 14px 18px;
}
.release {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 4px;
  margin: 14px 0 0;
  padding-top: 12px;
  border-top: 1px solid var(--hairline);
}
@media (max-width: 1000px) {
  .page {
    height: auto;
  }
  .columns {
    grid-template-columns: 1fr;
  }
}
</style>
