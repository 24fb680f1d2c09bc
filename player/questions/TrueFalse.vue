<script setup lang="ts">
import type { AnswerOf } from '#core/questions/kinds'
import type { FieldProps } from './fields'

defineProps<FieldProps<'true-false'>>()
const emit = defineEmits<{ answer: [answer: AnswerOf<'true-false'>] }>()
</script>

<template>
  <label
    v-for="value in [true, false]"
    :key="String(value)"
    class="choice"
    :class="{ right: told?.right === value, wrong: told && told.right !== value && answer?.value === value }"
  >
    <input
      type="radio"
      :name="open.id"
      :checked="answer?.value === value"
      @change="emit('answer', { kind: 'true-false', value })"
    />
    <span>{{ value ? 'True' : 'False' }}</span>
    <span v-if="told?.right === value" class="verdict">right</span>
    <span v-else-if="told && answer?.value === value" class="verdict">yours</span>
  </label>
</template>
