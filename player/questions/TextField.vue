<script setup lang="ts">
import { computed } from 'vue'
import type { AnswerOf } from '#core/questions/kinds'
import type { FieldProps } from './fields'

const props = defineProps<FieldProps<'longer' | 'thought'>>()
const emit = defineEmits<{ answer: [answer: AnswerOf<'longer' | 'thought'>] }>()
const words = computed(() => props.answer?.text.match(/\S+/g)?.length ?? 0)
const most = computed(() => ('words' in props.open ? props.open.words : 0))
</script>

<template>
  <textarea
    rows="6"
    maxlength="10000"
    aria-label="Your answer"
    :value="answer?.text ?? ''"
    @input="emit('answer', { kind: open.kind, text: ($event.target as HTMLTextAreaElement).value })"
  />
  <p v-if="most" class="count" :class="{ over: words > most }" role="status">{{ words }} of {{ most }} words</p>
</template>
