<script setup lang="ts">
import { Trash2 } from 'lucide-vue-next'
import type { KeyOf, OpenOf } from '#core/questions/kinds'
import type { Criterion } from '#core/questions/kinds/longer'
import { newId } from '~/services/ids'
import type { FormChange } from '~/utils/question-forms'

const props = defineProps<{ open: OpenOf<'longer'>; answerKey: KeyOf<'longer'> }>()
const emit = defineEmits<{ change: FormChange<'longer'> }>()

/** The points of the question are those of its rubric. */
function write(rubric: Criterion[], field?: string): void {
  const points = rubric.reduce((sum, c) => sum + c.points, 0)
  emit('change', rubric.length > 0 ? { points } : {}, { rubric }, field)
}
const changed = (id: string, patch: Partial<Criterion>) =>
  props.answerKey.rubric.map((c) => (c.id === id ? { ...c, ...patch } : c))
</script>

<template>
  <fieldset>
    <legend>Rubric – what is looked for, and for how many points</legend>
    <div v-for="(c, i) in answerKey.rubric" :key="c.id" class="criterion">
      <el-input
        :model-value="c.text"
        maxlength="300"
        :aria-label="`Criterion ${i + 1}`"
        @update:model-value="write(changed(c.id, { text: $event }), `${c.id} text`)"
      />
      <el-input-number
        :model-value="c.points"
        :min="0"
        :max="100"
        :controls="false"
        :aria-label="`Points of criterion ${i + 1}`"
        @update:model-value="write(changed(c.id, { points: Number($event ?? 0) }), `${c.id} points`)"
      />
      <el-button
        text
        :aria-label="`Remove criterion ${i + 1}`"
        @click="write(answerKey.rubric.filter((x) => x.id !== c.id))"
        ><Trash2 :size="15"
      /></el-button>
    </div>
    <el-button
      size="small"
      :disabled="answerKey.rubric.length >= 12"
      @click="write([...answerKey.rubric, { id: newId(), text: '', points: 1 }])"
      >Add a criterion</el-button
    >
  </fieldset>
  <label
    >Words at most, 0 for any number<el-input-number
      :model-value="open.words"
      :min="0"
      :max="5000"
      aria-label="Words at most"
      @update:model-value="emit('change', { words: Number($event ?? 0) }, {}, 'words')"
  /></label>
  <label for="model-field">A good answer, shown after</label>
  <el-input
    id="model-field"
    :model-value="answerKey.model"
    type="textarea"
    :autosize="{ minRows: 2, maxRows: 10 }"
    maxlength="10000"
    @update:model-value="emit('change', {}, { model: $event }, 'model')"
  />
</template>

<style scoped>
.criterion {
  display: grid;
  grid-template-columns: 1fr 64px auto;
  gap: 6px;
  width: 100%;
}
.criterion .el-input-number {
  width: 64px;
}
</style>
