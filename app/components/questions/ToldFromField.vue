<script setup lang="ts">
import type { ToldFrom } from '#core/schema/questions'
import { nowInstant } from '~/services/ids'

/** From when students are told something. */
const props = defineProps<{ modelValue: ToldFrom; label: string }>()
const emit = defineEmits<{ 'update:modelValue': [from: ToldFrom] }>()
const choices: [string, string][] = [
  ['answered', 'at once'],
  ['handed-in', 'when handed in'],
  ['marked', 'after marking'],
  ['date', 'from a date on'],
  ['never', 'never'],
]
const chosen = computed(() => (typeof props.modelValue === 'object' ? 'date' : props.modelValue))
const choose = (to: string) =>
  emit('update:modelValue', to === 'date' ? { date: nowInstant() } : (to as Exclude<ToldFrom, object>))
</script>

<template>
  <div class="told">
    <span>{{ label }}</span>
    <el-select :model-value="chosen" :aria-label="`${label} is told`" @update:model-value="choose">
      <el-option v-for="[value, says] in choices" :key="value" :value="value" :label="says" />
    </el-select>
    <el-date-picker
      v-if="typeof modelValue === 'object'"
      :model-value="new Date(modelValue.date)"
      type="datetime"
      format="D MMM YYYY HH:mm"
      :clearable="false"
      :aria-label="`${label} is told from`"
      @update:model-value="emit('update:modelValue', { date: ($event as Date).toISOString() })"
    />
  </div>
</template>

<style scoped>
.told {
  display: grid;
  grid-template-columns: 170px 1fr;
  gap: 4px 10px;
  align-items: center;
}
.told :deep(.el-date-editor) {
  grid-column: 2;
  width: 100%;
}
</style>
