<script setup lang="ts">
import { rangeOf, withEdge, type ItemRef, type Timed } from '#core/documents/items'
import { frameLength } from '#core/time/frames'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'

/** Where something holds, by typed times or by the playhead. */
const props = defineProps<{ refTo: ItemRef; item: Timed }>()
const desk = useDesk()
const chosen = useChosen()
const range = computed(() => rangeOf(props.item))
const isInstant = computed(() => 'at' in props.item)

async function set(edge: 'from' | 'to', at: number): Promise<void> {
  const least = frameLength(desk.edit?.frameRate ?? 0)
  await chosen.place(
    (r) =>
      (isInstant.value ? { from: at, to: at } : withEdge(r, edge, Math.min(at, desk.map.duration), least)) as typeof r,
    [{ ref: props.refTo, item: props.item }],
  )
}
</script>

<template>
  <div class="row">
    <DeskTimeField
      :model-value="range.from"
      :label="isInstant ? 'At' : 'Starts'"
      @update:model-value="set('from', $event)"
    />
    <DeskTimeField v-if="!isInstant" :model-value="range.to" label="Ends" end @update:model-value="set('to', $event)" />
    <span class="links">
      <el-button link @click="set('from', desk.recordedTime)">{{
        isInstant ? 'To the playhead' : 'Start at the playhead'
      }}</el-button>
      <el-button v-if="!isInstant" link @click="set('to', desk.recordedTime)">End at the playhead</el-button>
    </span>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: end;
}
.links {
  display: grid;
  justify-items: start;
}
.links .el-button {
  margin: 0;
  height: 20px;
}
</style>
