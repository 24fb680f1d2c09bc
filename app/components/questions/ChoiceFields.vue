<script setup lang="ts">
import { ArrowDown, ArrowUp, GripVertical, Trash2 } from 'lucide-vue-next'
import type { Choice } from '#core/questions/kinds/kind'
import { EMPTY } from '#core/text/rich-text'
import { newId } from '~/services/ids'

/** The choices of a question, in an order that can be changed; before each stands what marks it (slot). */
const props = withDefaults(defineProps<{ choices: readonly Choice[]; noun?: string }>(), { noun: 'Choice' })
const emit = defineEmits<{
  /** @param field of what is being written, when something is */
  change: [choices: Choice[], field?: string]
}>()

const list = useTemplateRef<HTMLElement>('list')
useDraggedOrder(list, { handle: '.handle', moved: move })

function move(from: number, to: number): void {
  const next = [...props.choices]
  next.splice(to, 0, ...next.splice(from, 1))
  emit('change', next)
}
</script>

<template>
  <div ref="list" class="list">
    <div v-for="(c, i) in choices" :key="c.id" class="choice">
      <GripVertical class="handle" :size="15" aria-hidden="true" />
      <slot :choice="c" :index="i" />
      <RichField
        :text="c.text"
        :label="`${noun} ${i + 1}`"
        :rows="1"
        :maxlength="500"
        @change="
          emit(
            'change',
            choices.map((x) => (x.id === c.id ? { ...x, text: $event } : x)),
            c.id,
          )
        "
      />
      <el-button-group>
        <el-button
          text
          :aria-label="`Move ${noun.toLowerCase()} ${i + 1} up`"
          :disabled="i === 0"
          @click="move(i, i - 1)"
          ><ArrowUp :size="15"
        /></el-button>
        <el-button
          text
          :aria-label="`Move ${noun.toLowerCase()} ${i + 1} down`"
          :disabled="i === choices.length - 1"
          @click="move(i, i + 1)"
          ><ArrowDown :size="15"
        /></el-button>
        <el-button
          text
          :aria-label="`Remove ${noun.toLowerCase()} ${i + 1}`"
          :disabled="choices.length <= 2"
          @click="
            emit(
              'change',
              choices.filter((x) => x.id !== c.id),
            )
          "
          ><Trash2 :size="15"
        /></el-button>
      </el-button-group>
    </div>
  </div>
  <el-button
    size="small"
    :disabled="choices.length >= 20"
    @click="emit('change', [...choices, { id: newId(), text: EMPTY }])"
    >Add a {{ noun.toLowerCase() }}</el-button
  >
</template>

<style scoped>
.list {
  display: grid;
  gap: 5px;
  width: 100%;
}
.handle {
  color: var(--quiet);
  cursor: grab;
}
.choice {
  display: grid;
  grid-template-columns: 16px 22px 1fr auto;
  gap: 6px;
  align-items: center;
  width: 100%;
}
.choice :deep(input[type='radio']),
.choice :deep(input[type='checkbox']) {
  width: 17px;
  height: 17px;
  accent-color: var(--moss);
}
.choice :deep(.el-button) {
  padding: 8px 5px;
}
</style>
