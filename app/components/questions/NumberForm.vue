<script setup lang="ts">
import { Trash2 } from 'lucide-vue-next'
import type { KeyOf, OpenOf } from '#core/questions/kinds'
import type { FormChange } from '~/utils/question-forms'

const props = defineProps<{ open: OpenOf<'number'>; answerKey: KeyOf<'number'> }>()
const emit = defineEmits<{ change: FormChange<'number'> }>()

function setUnit(index: number, unit: string): void {
  const units = props.open.units.map((u, i) => (i === index ? unit : u))
  emit('change', { units }, {}, `unit ${index}`)
}
const setFactor = (index: number, factor: number) =>
  emit('change', {}, { factors: props.answerKey.factors.map((f, i) => (i === index ? factor : f)) })
const addUnit = () => emit('change', { units: [...props.open.units, ''] }, { factors: [...props.answerKey.factors, 1] })
const removeUnit = (index: number) => {
  const rest = props.answerKey.factors.filter((_, i) => i !== index)
  emit(
    'change',
    { units: props.open.units.filter((_, i) => i !== index) },
    // Without the first unit, the next is what others are measured in.
    { factors: rest.map((f, i) => (i === 0 ? 1 : f)) },
  )
}
</script>

<template>
  <div class="row">
    <label
      >Right number<NumberText
        :value="answerKey.value"
        label="Right number"
        @change="emit('change', {}, { value: $event })"
    /></label>
    <label
      >Give or take<NumberText
        :value="answerKey.tolerance"
        label="Give or take"
        :least="0"
        @change="emit('change', {}, { tolerance: $event })"
    /></label>
    <el-radio-group
      :model-value="answerKey.toleranceIn"
      aria-label="Tolerance in"
      @update:model-value="emit('change', {}, { toleranceIn: $event as typeof answerKey.toleranceIn })"
      ><el-radio value="unit">as a number</el-radio><el-radio value="percent">in per cent</el-radio></el-radio-group
    >
  </div>
  <fieldset>
    <legend>Units – none, one that stands beside the field, or several of which students choose</legend>
    <div v-for="(unit, i) in open.units" :key="i" class="unit">
      <el-input
        :model-value="unit"
        maxlength="20"
        :aria-label="`Unit ${i + 1}`"
        @update:model-value="setUnit(i, $event)"
      />
      <template v-if="i > 0">
        <span>is</span>
        <NumberText
          :value="answerKey.factors[i] ?? 1"
          :label="`How much of the first unit ${i + 1} is`"
          :least="0"
          @change="setFactor(i, $event)"
        />
        <span>{{ open.units[0] }}</span>
      </template>
      <el-button text :aria-label="`Remove unit ${i + 1}`" @click="removeUnit(i)"><Trash2 :size="15" /></el-button>
    </div>
    <el-button size="small" :disabled="open.units.length >= 8" @click="addUnit">Add a unit</el-button>
  </fieldset>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
}
.row > label {
  display: flex;
  flex-direction: column;
  width: 110px;
}
.unit {
  display: flex;
  gap: 6px;
  align-items: center;
}
.unit .el-input {
  width: 90px;
}
</style>
