<script setup lang="ts">
import type { KeyOf, OpenOf } from '#core/questions/kinds'
import type { Choice } from '#core/questions/kinds/kind'
import type { FormChange } from '~/utils/question-forms'

const props = defineProps<{ open: OpenOf<'several-right'>; answerKey: KeyOf<'several-right'> }>()
const emit = defineEmits<{ change: FormChange<'several-right'> }>()

const mark = (id: string, on: boolean) =>
  emit('change', {}, { right: [...props.answerKey.right.filter((r) => r !== id), ...(on ? [id] : [])] })
/** A right one that is removed is no right one any more. */
const write = (choices: Choice[], field?: string) =>
  emit('change', { choices }, { right: props.answerKey.right.filter((r) => choices.some((c) => c.id === r)) }, field)
const gradings = [
  { value: 'parts', says: 'Each choice counts alike' },
  { value: 'penalty', says: 'Right ones count, wrong ones take off' },
  { value: 'all', says: 'All or nothing' },
] as const
</script>

<template>
  <fieldset>
    <legend>Choices – mark all that are right</legend>
    <ChoiceFields v-slot="{ choice, index }" :choices="open.choices" @change="write">
      <input
        type="checkbox"
        :checked="answerKey.right.includes(choice.id)"
        :aria-label="`Choice ${index + 1} is right`"
        @change="mark(choice.id, ($event.target as HTMLInputElement).checked)"
      />
    </ChoiceFields>
    <el-checkbox :model-value="open.shuffled" @update:model-value="emit('change', { shuffled: Boolean($event) }, {})"
      >Each student sees them in another order</el-checkbox
    >
  </fieldset>
  <el-radio-group
    :model-value="open.grading"
    aria-label="What earns points"
    @update:model-value="emit('change', { grading: $event as typeof open.grading }, {})"
    ><el-radio v-for="g in gradings" :key="g.value" :value="g.value">{{ g.says }}</el-radio></el-radio-group
  >
</template>
