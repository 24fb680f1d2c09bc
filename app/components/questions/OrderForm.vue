<script setup lang="ts">
import type { KeyOf, OpenOf } from '#core/questions/kinds'
import type { Choice } from '#core/questions/kinds/kind'
import type { FormChange } from '~/utils/question-forms'

/** They are written in the right order; each student gets them in another. */
const props = defineProps<{ open: OpenOf<'order'>; answerKey: KeyOf<'order'> }>()
const emit = defineEmits<{ change: FormChange<'order'> }>()

const inOrder = computed(() => {
  const at = new Map(props.answerKey.right.map((id, i) => [id, i]))
  return [...props.open.choices].sort((a, b) => (at.get(a.id) ?? 0) - (at.get(b.id) ?? 0))
})
const write = (choices: Choice[], field?: string) =>
  emit('change', { choices }, { right: choices.map((c) => c.id) }, field)
</script>

<template>
  <fieldset>
    <legend>In the right order – each student gets them in another</legend>
    <ChoiceFields v-slot="{ index }" :choices="inOrder" noun="Thing" @change="write">
      <span class="mono quiet">{{ index + 1 }}</span>
    </ChoiceFields>
  </fieldset>
  <el-radio-group
    :model-value="open.grading"
    aria-label="What earns points"
    @update:model-value="emit('change', { grading: $event as typeof open.grading }, {})"
    ><el-radio value="parts">Each that rightly follows another</el-radio
    ><el-radio value="all">All or nothing</el-radio></el-radio-group
  >
</template>
