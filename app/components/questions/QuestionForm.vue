<script setup lang="ts">
import { isEmpty } from '#core/text/rich-text'
import { kindNames, questionKinds, type QuestionKindName } from '#core/questions/kinds'
import { isGraded } from '#core/questions/grade'
import { asKind, questionProblems } from '#core/questions/set'
import type { Question } from '#core/schema/questions'
import { newId } from '~/services/ids'
import { useDesk } from '~/stores/desk'
import { questionForms } from '~/utils/question-forms'

/** A question with its key, written as one types. */
const props = defineProps<{ question: Question }>()
const emit = defineEmits<{
  /** @param field of what is being written, when something is */
  change: [question: Question, field?: string]
}>()
const desk = useDesk()
provideTextTools()
const problems = computed(() => questionProblems(props.question))

const change = (open: object, key: object, field?: string) =>
  emit(
    'change',
    {
      open: { ...props.question.open, ...open },
      key: { ...props.question.key, ...key },
    } as Question,
    field,
  )
const chooseKind = (kind: QuestionKindName) => emit('change', asKind(props.question, kind, newId))
</script>

<template>
  <div class="form">
    <div class="row">
      <el-select
        :model-value="question.open.kind"
        aria-label="Kind of question"
        class="kind"
        @update:model-value="chooseKind"
        ><el-option v-for="k in kindNames" :key="k" :value="k" :label="questionKinds[k].name"
      /></el-select>
      <label v-if="isGraded(question.open)" class="points"
        >Points<el-input-number
          :model-value="question.open.points"
          :min="0"
          :max="100"
          aria-label="Points"
          @update:model-value="change({ points: Number($event ?? 0) }, {}, 'points')"
      /></label>
    </div>
    <TextTools />
    <p class="label">{{ question.open.kind === 'note' ? 'Note' : 'Question' }}</p>
    <RichField
      :text="question.open.prompt"
      :label="question.open.kind === 'note' ? 'Note' : 'Question'"
      :autofocus="isEmpty(question.open.prompt)"
      @change="change({ prompt: $event }, {}, 'prompt')"
    />
    <component
      :is="questionForms[question.open.kind]"
      v-if="questionForms[question.open.kind]"
      :key="question.open.id"
      :open="question.open"
      :answer-key="question.key"
      @change="change"
    />
    <template v-if="question.open.kind !== 'note'">
      <p class="label">Hint, before answering</p>
      <RichField
        :text="question.open.hint"
        label="Hint, before answering"
        :rows="1"
        @change="change({ hint: $event }, {}, 'hint')"
      />
      <p class="label">Explanation, after answering</p>
      <RichField
        :text="question.key.explanation"
        label="Explanation, after answering"
        @change="change({}, { explanation: $event }, 'explanation')"
      />
      <div class="row">
        <el-checkbox
          :model-value="question.key.lookAt !== null"
          @update:model-value="change({}, { lookAt: $event ? desk.recordedTime : null })"
          >With a place to look at again</el-checkbox
        >
        <DeskTimeField
          v-if="question.key.lookAt !== null"
          :model-value="question.key.lookAt"
          label="Look again at"
          @update:model-value="change({}, { lookAt: $event })"
        />
      </div>
    </template>
    <p v-if="problems.length" class="notice" role="status">{{ problems.join(' ') }} Until then it is not asked.</p>
    <p v-else class="notice good" role="status">Complete. Saved as you write.</p>
  </div>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 5px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: end;
  gap: 10px;
}
.kind {
  width: 200px;
}
.form :deep(label),
.form :deep(legend),
.label {
  font-size: 14px;
  color: var(--quiet);
  margin: 0;
}
.points {
  display: flex;
  flex-direction: column;
}
.form :deep(fieldset) {
  border: 0;
  padding: 0;
  margin: 4px 0;
  display: grid;
  gap: 5px;
  justify-items: start;
}
.notice {
  margin: 6px 0;
}
</style>
