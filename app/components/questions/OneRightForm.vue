<script setup lang="ts">
import type { KeyOf, OpenOf } from '#core/questions/kinds'
import type { FormChange } from '~/utils/question-forms'

defineProps<{ open: OpenOf<'one-right'>; answerKey: KeyOf<'one-right'> }>()
const emit = defineEmits<{ change: FormChange<'one-right'> }>()
</script>

<template>
  <fieldset>
    <legend>Choices – mark the right one</legend>
    <ChoiceFields
      v-slot="{ choice, index }"
      :choices="open.choices"
      @change="(choices, field) => emit('change', { choices }, {}, field)"
    >
      <input
        type="radio"
        name="right"
        :checked="answerKey.right === choice.id"
        :aria-label="`Choice ${index + 1} is right`"
        @change="emit('change', {}, { right: choice.id })"
      />
    </ChoiceFields>
    <el-checkbox :model-value="open.shuffled" @update:model-value="emit('change', { shuffled: Boolean($event) }, {})"
      >Each student sees them in another order</el-checkbox
    >
  </fieldset>
</template>
