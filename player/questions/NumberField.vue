<script setup lang="ts">
import { computed, ref } from 'vue'
import type { AnswerOf } from '#core/questions/kinds'
import { readNumber } from '#core/questions/kinds/number'
import type { FieldProps } from './fields'

const props = defineProps<FieldProps<'number'>>()
/** Null while what is written is no number. */
const emit = defineEmits<{ answer: [answer: AnswerOf<'number'> | null] }>()

const text = ref(props.answer ? String(props.answer.value) : '')
const unit = ref(props.answer?.unit ?? 0)
const value = computed(() => readNumber(text.value))
const tell = () =>
  emit('answer', value.value === null ? null : { kind: 'number', value: value.value, unit: unit.value })
</script>

<template>
  <p class="field">
    <input
      v-model="text"
      type="text"
      inputmode="decimal"
      autocomplete="off"
      aria-label="Your number"
      :aria-invalid="text.trim() !== '' && value === null"
      @input="tell"
    />
    <select v-if="open.units.length > 1" v-model.number="unit" aria-label="Unit" @change="tell">
      <option v-for="(u, i) in open.units" :key="u" :value="i">{{ u }}</option>
    </select>
    <span v-else-if="open.units[0]">{{ open.units[0] }}</span>
  </p>
  <p v-if="text.trim() && value === null" role="status">That is no number yet.</p>
</template>
