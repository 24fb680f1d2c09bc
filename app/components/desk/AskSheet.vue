<script setup lang="ts">
import { Plus, Trash2 } from 'lucide-vue-next'
import { checkpointProblems } from '#core/questions/grade'
import type { Checkpoint } from '#core/schema/questions'
import { toResult } from '#core/time/time-map'
import { formatTimecode } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { newId } from '~/services/ids'
import { useDesk } from '~/stores/desk'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'

const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const checkpoints = computed(() => desk.questions?.checkpoints ?? [])
const active = computed(() => checkpoints.value.find((c) => c.id === desk.activeCheckpoint) ?? null)
const lost = (c: Checkpoint) => desk.lostCheckpoints.find((l) => l.item.id === c.id)
const problems = computed(() => (active.value ? checkpointProblems(active.value) : []))

/** @param field what is being typed into, when something is */
function change(patch: (c: Checkpoint) => Checkpoint, field?: string): void {
  if (active.value) void desk.changeCheckpoint(patch(active.value), `Changed ${sayQuestion(active.value)}`, field)
}
const sayQuestion = (c: Checkpoint) => `question ${checkpoints.value.indexOf(c) + 1}`
const question = (patch: Partial<Checkpoint['question']>, field?: string) =>
  change((c) => ({ ...c, question: { ...c.question, ...patch } }), field)
const key = (patch: Partial<Checkpoint['key']>, field?: string) =>
  change((c) => ({ ...c, key: { ...c.key, ...patch } }), field)
const choice = (id: string, text: string) =>
  question({ choices: active.value?.question.choices.map((c) => (c.id === id ? { ...c, text } : c)) ?? [] }, id)

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
function tellFeedback(atOnce: boolean): void {
  const set = desk.questions
  if (!set) return
  const policy = { ...set.policy, feedback: atOnce ? ('at-once' as const) : ('none' as const) }
  void desk.changeQuestions(
    { ...set, policy },
    { says: atOnce ? 'Told students at once' : 'Kept the answers to yourself' },
  )
}
</script>

<template>
  <div class="sheet">
    <div class="row">
      <h2>Questions</h2>
      <el-button type="primary" @click="desk.addCheckpoint(desk.recordedTime)"
        ><Plus :size="15" aria-hidden="true" /> Ask at the playhead</el-button
      >
    </div>
    <ConflictNotice kind="questions" />
    <HistoryList
      v-if="desk.questions"
      kind="questions"
      label="What was done to the questions"
      origin="As it was at first"
      folded
    />
    <el-checkbox
      v-if="desk.questions && checkpoints.length"
      :model-value="desk.questions.policy.feedback === 'at-once'"
      @update:model-value="tellFeedback(Boolean($event))"
      >Students are told at once if they are right, and why</el-checkbox
    >
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
          <span class="mono">{{ lost(c) ? '–:––' : formatTimecode(toResult(desk.map, c.at).at) }}</span>
          {{ c.question.prompt || `Question ${i + 1}` }}
        </button>
        <p v-if="lost(c)" class="notice bad">
          This question lies inside a removed part and will not be asked.
          <el-button size="small" @click="moveOut(c)">Move it out</el-button>
        </p>
      </li>
    </ul>
    <form v-if="active" class="form" @submit.prevent>
      <div class="row">
        <TimeField
          :model-value="active.at"
          label="At (recorded time)"
          :max="desk.map.duration"
          @update:model-value="change((c) => ({ ...c, at: recorded($event) }))"
        />
        <label class="points"
          >Points<el-input-number
            :model-value="active.question.points"
            :min="0"
            :max="100"
            aria-label="Points"
            @update:model-value="question({ points: Number($event ?? 0) }, 'points')"
        /></label>
      </div>
      <label for="prompt-field">Question</label>
      <el-input
        id="prompt-field"
        :model-value="active.question.prompt"
        type="textarea"
        :rows="2"
        maxlength="2000"
        @update:model-value="question({ prompt: $event }, 'prompt')"
      />
      <fieldset>
        <legend>Choices – mark the right one</legend>
        <div v-for="(c, i) in active.question.choices" :key="c.id" class="choice">
          <input
            type="radio"
            name="right"
            :checked="active.key.right === c.id"
            :aria-label="`Choice ${i + 1} is right`"
            @change="key({ right: c.id })"
          />
          <el-input
            :model-value="c.text"
            maxlength="500"
            :aria-label="`Choice ${i + 1}`"
            @update:model-value="choice(c.id, $event.replace(/\s*\n\s*/g, ' '))"
          />
          <el-button
            text
            :aria-label="`Remove choice ${i + 1}`"
            :disabled="active.question.choices.length <= 2"
            @click="question({ choices: active.question.choices.filter((x) => x.id !== c.id) })"
            ><Trash2 :size="15"
          /></el-button>
        </div>
        <el-button
          size="small"
          :disabled="active.question.choices.length >= 12"
          @click="question({ choices: [...active.question.choices, { id: newId(), text: '' }] })"
          >Add a choice</el-button
        >
      </fieldset>
      <label for="hint-field">Hint, before answering</label>
      <el-input
        id="hint-field"
        :model-value="active.question.hint"
        maxlength="2000"
        @update:model-value="question({ hint: $event }, 'hint')"
      />
      <label for="why-field">Explanation, after answering</label>
      <el-input
        id="why-field"
        :model-value="active.key.explanation"
        type="textarea"
        :rows="2"
        maxlength="5000"
        @update:model-value="key({ explanation: $event }, 'explanation')"
      />
      <p v-if="problems.length" class="notice" role="status">{{ problems.join(' ') }} Until then it is not asked.</p>
      <p v-else class="notice good" role="status">Complete. Saved as you write.</p>
      <el-button type="danger" plain @click="desk.removeCheckpoint(active.id)">Delete this question</el-button>
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
.form label,
legend {
  font-size: 14px;
  color: var(--quiet);
}
.points {
  display: flex;
  flex-direction: column;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 4px 0;
  display: grid;
  gap: 5px;
  justify-items: start;
}
.choice {
  display: grid;
  grid-template-columns: 22px 1fr auto;
  gap: 6px;
  align-items: center;
  width: 100%;
}
.choice input[type='radio'] {
  width: 17px;
  height: 17px;
  accent-color: var(--moss);
}
.form .el-button {
  align-self: start;
}
.notice {
  margin: 6px 0;
}
</style>
