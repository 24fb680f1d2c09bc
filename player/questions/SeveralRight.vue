<script setup lang="ts">
import type { AnswerOf } from '#core/questions/kinds'
import { RichText } from '../RichText'
import type { FieldProps } from './fields'

const props = defineProps<FieldProps<'several-right'>>()
const emit = defineEmits<{ answer: [answer: AnswerOf<'several-right'>] }>()

const isChosen = (id: string) => props.answer?.choices.includes(id) ?? false
const isRight = (id: string) => props.told?.right.includes(id) ?? false
function choose(id: string, on: boolean): void {
  const others = props.answer?.choices.filter((c) => c !== id) ?? []
  emit('answer', { kind: 'several-right', choices: on ? [...others, id] : others })
}
function verdict(id: string): string {
  if (!props.told) return ''
  if (isChosen(id)) return isRight(id) ? 'right' : 'not right'
  return isRight(id) ? 'right, not chosen' : ''
}
</script>

<template>
  <label
    v-for="c in open.choices"
    :key="c.id"
    class="choice"
    :class="{ right: told && isRight(c.id), wrong: told && isChosen(c.id) && !isRight(c.id) }"
  >
    <input
      type="checkbox"
      :checked="isChosen(c.id)"
      @change="choose(c.id, ($event.target as HTMLInputElement).checked)"
    />
    <RichText :text="c.text" flat />
    <span v-if="verdict(c.id)" class="verdict">{{ verdict(c.id) }}</span>
  </label>
</template>
