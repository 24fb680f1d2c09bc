<script setup lang="ts">
import type { KeyOf, OpenOf } from '#core/questions/kinds'
import type { FormChange } from '~/utils/question-forms'

defineProps<{ open: OpenOf<'words'>; answerKey: KeyOf<'words'> }>()
const emit = defineEmits<{ change: FormChange<'words'> }>()

/** A line each; there is always one, which may be empty. */
const linesOf = (text: string) => {
  const lines = text
    .split('\n')
    .slice(0, 50)
    .map((line) => line.slice(0, 500))
  return lines.length > 0 ? lines : ['']
}
</script>

<template>
  <label for="accepted-field">Right answers – a line each; the first is the one that is shown</label>
  <el-input
    id="accepted-field"
    :model-value="answerKey.accepted.join('\n')"
    type="textarea"
    :autosize="{ minRows: 2, maxRows: 10 }"
    @update:model-value="emit('change', {}, { accepted: linesOf($event) }, 'accepted')"
  />
  <div class="row">
    <el-checkbox
      :model-value="answerKey.caseCounts"
      @update:model-value="emit('change', {}, { caseCounts: Boolean($event) })"
      >Capitals count</el-checkbox
    >
    <el-checkbox
      :model-value="answerKey.accentsCount"
      @update:model-value="emit('change', {}, { accentsCount: Boolean($event) })"
      >Accents count</el-checkbox
    >
    <label
      >Letters that may be wrong<el-input-number
        :model-value="answerKey.slips"
        :min="0"
        :max="3"
        aria-label="Letters that may be wrong"
        @update:model-value="emit('change', {}, { slips: Number($event ?? 0) }, 'slips')"
    /></label>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
}
.row label {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
