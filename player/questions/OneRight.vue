<script setup lang="ts">
import type { AnswerOf } from '#core/questions/kinds'
import { RichText } from '../RichText'
import type { FieldProps } from './fields'

defineProps<FieldProps<'one-right'>>()
const emit = defineEmits<{ answer: [answer: AnswerOf<'one-right'>] }>()
</script>

<template>
  <label
    v-for="c in open.choices"
    :key="c.id"
    class="choice"
    :class="{ right: told?.right === c.id, wrong: told && told.right !== c.id && answer?.choice === c.id }"
  >
    <input
      type="radio"
      :name="open.id"
      :value="c.id"
      :checked="answer?.choice === c.id"
      @change="emit('answer', { kind: 'one-right', choice: c.id })"
    />
    <RichText :text="c.text" flat />
    <span v-if="told?.right === c.id" class="verdict">right</span>
    <span v-else-if="told && answer?.choice === c.id" class="verdict">yours</span>
  </label>
</template>
