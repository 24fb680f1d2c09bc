<script setup lang="ts">
import { Redo2, Undo2 } from 'lucide-vue-next'
import { documentId, type Kind } from '#core/documents/kinds'
import { stepsOf } from '~/services/documents'
import { useDesk } from '~/stores/desk'

/** What was done to a document, one line each; any of them can be gone back to. */
const props = defineProps<{
  kind: Kind
  label: string
  /** What the first line says: how it was before anything was done. */
  origin: string
  /** Whether the list is unfolded on demand. */
  folded?: boolean
}>()
const desk = useDesk()
const id = computed(() => documentId(desk.lecture?.id ?? '', desk.nameOf(props.kind)))
const steps = useLive(() => stepsOf(id.value), [id])
const applied = computed(() => desk.row(props.kind)?.applied ?? 0)
const first = computed(() => steps.value?.[0]?.seq ?? applied.value)
const canUndo = computed(() => applied.value > first.value)
const canRedo = computed(() => applied.value < first.value + (steps.value?.length ?? 0))
</script>

<template>
  <div class="history" :class="{ folded }">
    <div class="buttons">
      <el-button :size="folded ? 'small' : 'default'" :disabled="!canUndo" @click="desk.undo(kind)"
        ><Undo2 :size="15" aria-hidden="true" /> Undo</el-button
      >
      <el-button :size="folded ? 'small' : 'default'" :disabled="!canRedo" @click="desk.redo(kind)"
        ><Redo2 :size="15" aria-hidden="true" /> Redo</el-button
      >
      <slot />
    </div>
    <slot name="sum" />
    <component :is="folded ? 'details' : 'div'">
      <summary v-if="folded">What was done</summary>
      <ol class="edits" :aria-label="label">
        <li>
          <button type="button" :class="{ at: applied === first }" @click="desk.goTo(kind, first)">{{ origin }}</button>
        </li>
        <li v-for="s in steps" :key="s.seq">
          <button
            type="button"
            :class="{ at: applied === s.seq + 1, undone: s.seq >= applied }"
            @click="desk.goTo(kind, s.seq + 1)"
          >
            {{ s.says }}<span v-if="s.seq >= applied" class="unseen"> (undone)</span>
          </button>
        </li>
      </ol>
    </component>
  </div>
</template>

<style scoped>
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.buttons :deep(.el-button) {
  margin: 0;
}
.folded {
  display: flex;
  gap: 4px 12px;
  align-items: center;
  flex-wrap: wrap;
  flex: none;
}
.folded details[open] {
  flex: 1 0 100%;
}
details .edits {
  max-height: 132px;
  overflow: auto;
}
summary {
  cursor: pointer;
  color: var(--quiet);
}
.edits {
  list-style: none;
  padding: 0;
  margin: 4px 0 0;
}
.edits button {
  display: block;
  width: 100%;
  text-align: left;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  padding: 4px 10px;
  cursor: pointer;
}
.edits button:hover {
  background: var(--snow);
}
.edits .at {
  border-left-color: var(--tarn);
  background: var(--tarn-wash);
}
.edits .undone {
  color: #6d7b7f;
  text-decoration: line-through;
}
</style>
