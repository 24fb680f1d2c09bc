<script setup lang="ts">
import type { AnswerOf } from '#core/questions/kinds'
import type { FieldProps } from './fields'

defineProps<FieldProps<'words'>>()
const emit = defineEmits<{ answer: [answer: AnswerOf<'words'>] }>()
</script>

<template>
  <p class="field">
    <input
      type="text"
      maxlength="500"
      autocomplete="off"
      spellcheck="false"
      aria-label="Your answer"
      :value="answer?.text ?? ''"
      @input="emit('answer', { kind: 'words', text: ($event.target as HTMLInputElement).value })"
    />
  </p>
</template>
