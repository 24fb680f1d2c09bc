<script setup lang="ts">
import { max } from 'd3-array'
import { ArrowDown, ArrowUp, Eye, Plus } from 'lucide-vue-next'
import { nameCheckpoint, newQuestion } from '#core/questions/set'
import type { Checkpoint, Question, SetPolicy } from '#core/schema/questions'
import { isEmpty } from '#core/text/rich-text'
import { toRecorded, toResult } from '#core/time/time-map'
import { recorded, result } from '#core/time/units'
import { newId } from '~/services/ids'
import { useDesk } from '~/stores/desk'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'

const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const checkpoints = computed(() => desk.questions?.checkpoints ?? [])
const active = computed(() => checkpoints.value.find((c) => c.id === desk.activeCheckpoint) ?? null)
const lost = (c: Checkpoint) => desk.lostCheckpoints.find((l) => l.item.id === c.id)
const trying = ref(false)
/** Which of its questions is open. */
const shown = ref(0)
watch(
  () => active.value?.id,
  () => (shown.value = 0),
)
const question = computed(
  () => active.value?.questions[Math.min(shown.value, active.value.questions.length - 1)] ?? null,
)

/** @param field what is being typed into, when something is */
function change(patch: (c: Checkpoint) => Checkpoint, field?: string, did = 'Changed'): void {
  if (active.value) void desk.changeCheckpoint(patch(active.value), `${did} ${sayQuestion(active.value)}`, field)
}
const sayQuestion = (c: Checkpoint) => `question ${checkpoints.value.indexOf(c) + 1}`
const write = (next: Question, field?: string) =>
  change(
    (c) => ({ ...c, questions: c.questions.map((q) => (q.open.id === next.open.id ? next : q)) }),
    field && `${next.open.id} ${field}`,
  )
function addQuestion(): void {
  change((c) => ({ ...c, questions: [...c.questions, newQuestion('one-right', newId)] }), undefined, 'Added to')
  shown.value = active.value ? active.value.questions.length : 0
}
function removeQuestion(): void {
  const id = question.value?.open.id
  if (!active.value || !id) return
  if (active.value.questions.length === 1) void desk.removeCheckpoint(active.value.id)
  else change((c) => ({ ...c, questions: c.questions.filter((q) => q.open.id !== id) }), undefined, 'Took one out of')
}
function moveQuestion(by: number): void {
  const from = Math.min(shown.value, (active.value?.questions.length ?? 1) - 1)
  change(
    (c) => {
      const questions = [...c.questions]
      questions.splice(from + by, 0, ...questions.splice(from, 1))
      return { ...c, questions }
    },
    undefined,
    'Put in order',
  )
  shown.value = from + by
}

const isWritten = (c: Checkpoint) => c.questions.some((q) => !isEmpty(q.open.prompt))
function open(c: Checkpoint): void {
  desk.activeCheckpoint = c.id
  media.seekRecorded(c.at)
}
/** The last instant that is kept before a removed part: where a question that fell into it is best moved. */
function moveOut(c: Checkpoint): void {
  const hole = lost(c)?.removed
  if (!hole) return
  const at = recorded(hole.from > 0.1 ? hole.from - 0.1 : hole.to)
  void desk.changeCheckpoint({ ...c, at }, `Moved ${sayQuestion(c)} out of a removed part`)
}
function changePolicy(policy: SetPolicy, says: string, field?: string): void {
  const set = desk.questions
  if (set) void desk.changeQuestions({ ...set, policy }, { says, ...(field && { field }) })
}
/** Where a question near the end is best asked, in result time (s); null where there is one, or nothing to ask at. */
const nearEnd = computed(() => {
  const { length } = desk.map
  const last = max(checkpoints.value, (c) => toResult(desk.map, c.at).at) ?? 0
  return checkpoints.value.length > 0 && length > 0 && last < 0.85 * length ? Math.max(0, length - 5) : null
})
function askNearEnd(): void {
  if (nearEnd.value !== null) void desk.addCheckpoint(toRecorded(desk.map, result(nearEnd.value)))
}
</script>

<template>
  <div class="sheet">
    <div class="row head">
      <h2>Questions</h2>
      <el-button
        v-if="desk.questions"
        aria-label="Try it as a student"
        title="Try it as a student"
        :disabled="desk.recordingIs !== 'whole'"
        @click="trying = true"
        ><Eye :size="16" aria-hidden="true"
      /></el-button>
      <el-button type="primary" @click="desk.addCheckpoint(desk.recordedTime)"
        ><Plus :size="15" aria-hidden="true" /> Ask at the playhead</el-button
      >
    </div>
    <TrialFrame v-if="trying" @close="trying = false" />
    <ConflictNotice kind="questions" />
    <HistoryList
      v-if="desk.questions"
      kind="questions"
      label="What was done to the questions"
      origin="As it was at first"
      folded
    />
    <QuestionSets />
    <PolicyForm v-if="desk.questions" :policy="desk.questions.policy" @change="changePolicy" />
    <p v-if="!checkpoints.length" class="quiet">
      Move the playhead to where the video should stop, then ask. A question near the end makes people watch to the end.
    </p>
    <ul class="list">
      <li v-for="(c, i) in checkpoints" :key="c.id">
        <button
          type="button"
          :class="{ active: c.id === active?.id }"
          :aria-expanded="c.id === active?.id"
          @click="open(c)"
        >
          <span class="mono">{{ lost(c) ? '–:––' : desk.sayTime(c.at) }}</span>
          {{ isWritten(c) ? nameCheckpoint(c) : `Question ${i + 1}` }}
          <span v-if="c.questions.length > 1" class="quiet">and {{ c.questions.length - 1 }} more</span>
        </button>
        <p v-if="lost(c)" class="notice bad">
          This question lies inside a removed part and will not be asked.
          <el-button size="small" @click="moveOut(c)">Move it out</el-button>
        </p>
      </li>
    </ul>
    <p v-if="nearEnd !== null" class="notice press">
      <span>Nothing is asked near the end: a question there makes people watch to the end.</span
      ><el-button size="small" @click="askNearEnd">Ask one there</el-button>
    </p>
    <form v-if="active" class="form" @submit.prevent>
      <div class="row">
        <DeskTimeField
          :model-value="active.at"
          label="Asked at"
          @update:model-value="change((c) => ({ ...c, at: recorded($event) }))"
        />
      </div>
      <div v-if="active.questions.length > 1" class="row">
        <el-radio-group v-model="shown" aria-label="Question of this checkpoint" size="small"
          ><el-radio-button v-for="(q, i) in active.questions" :key="q.open.id" :value="i">{{
            i + 1
          }}</el-radio-button></el-radio-group
        >
        <el-button-group>
          <el-button size="small" aria-label="Ask it earlier" :disabled="shown === 0" @click="moveQuestion(-1)"
            ><ArrowUp :size="15"
          /></el-button>
          <el-button
            size="small"
            aria-label="Ask it later"
            :disabled="shown >= active.questions.length - 1"
            @click="moveQuestion(1)"
            ><ArrowDown :size="15"
          /></el-button>
        </el-button-group>
      </div>
      <QuestionForm v-if="question" :key="question.open.id" :question="question" @change="write" />
      <div class="acts">
        <el-button :disabled="active.questions.length >= 20" @click="addQuestion">Ask another here</el-button
        ><el-button type="danger" plain @click="removeQuestion">Delete this question</el-button>
      </div>
    </form>
  </div>
</template>

<style scoped>
.sheet {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.row {
  display: flex;
  justify-content: space-between;
  align-items: end;
  gap: 10px;
}
.press {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
}
.head {
  flex-wrap: wrap;
  gap: 8px;
}
.head .el-button {
  margin: 0;
}
.head h2 {
  flex: 1;
}
.list {
  list-style: none;
  padding: 0;
  margin: 0;
}
.list > li > button {
  display: block;
  width: 100%;
  text-align: left;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  padding: 6px 10px;
  cursor: pointer;
}
.list .active {
  background: var(--tarn-wash);
  border-left-color: var(--tarn);
}
.list .mono {
  color: var(--quiet);
  margin-right: 6px;
}
.form {
  border-top: 1px solid var(--hairline);
  padding-top: 10px;
  display: flex;
  flex-direction: column;
  gap: 5px;
}
.notice {
  margin: 6px 0;
}
</style>
