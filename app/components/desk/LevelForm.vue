<script setup lang="ts">
import type { Timed } from '#core/documents/items'
import { sayStretch } from '#core/edit/edit'
import type { Stretch } from '#core/schema/edit'
import { useChosen } from '~/stores/chosen'

/** A stretch of the sound that is louder, quieter or silent. */
const props = defineProps<{ stretch: Stretch & { what: { kind: 'level' } } }>()
const chosen = useChosen()
const own = computed(() => ({ kind: 'edit' as const, list: 'stretches', id: props.stretch.id }))
async function change(gain: number | null): Promise<void> {
  const what = { kind: 'level' as const, gain }
  const item = { ...props.stretch, what } as Timed
  await chosen.put([{ ref: own.value, item }], sayStretch(what), `level ${props.stretch.id}`)
}
</script>

<template>
  <RangeFields :ref-to="own" :item="stretch" />
  <label class="field"
    >Level, dB
    <el-input-number
      :model-value="stretch.what.gain ?? 0"
      :min="-40"
      :max="12"
      :step="1"
      :disabled="stretch.what.gain === null"
      aria-label="Level in dB"
      @change="$event !== undefined && change($event)"
  /></label>
  <el-checkbox :model-value="stretch.what.gain === null" @update:model-value="change($event ? null : 0)"
    >Silent</el-checkbox
  >
</template>

<style scoped>
.field {
  display: grid;
  gap: 2px;
  font-size: 13px;
  color: var(--quiet);
}
</style>
