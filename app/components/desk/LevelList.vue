<script setup lang="ts">
import { Volume2 } from 'lucide-vue-next'
import type { Timed } from '#core/documents/items'
import type { Stretch } from '#core/schema/edit'
import { recorded } from '#core/time/units'
import { newId } from '~/services/ids'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { itemLanes } from '~/utils/lanes'

/** Stretches of the sound that are louder, quieter or silent. */
const desk = useDesk()
const chosen = useChosen()
const items = computed(() => itemLanes.find((l) => l.key === 'level')?.items(desk) ?? [])
/** How long a change holds unless a stretch is selected, s; and what it is at first, dB. */
const USUAL = { seconds: 5, gain: -6 }

async function add(): Promise<void> {
  const { duration } = desk.map
  const from = desk.selection?.from ?? recorded(Math.min(desk.recordedTime, Math.max(0, duration - 1)))
  const to = desk.selection?.to ?? recorded(Math.min(duration, from + USUAL.seconds))
  const id = newId()
  if (!(await desk.command({ do: 'stretch', id, from, to, what: { kind: 'level', gain: USUAL.gain } }))) return
  desk.selection = null
  chosen.choose({ kind: 'edit', list: 'stretches', id })
}
const stretchOf = (item: Timed) => item as Timed & Stretch & { what: { kind: 'level' } }
</script>

<template>
  <section class="levels">
    <el-button @click="add"
      ><Volume2 :size="15" aria-hidden="true" />
      {{ desk.selection ? 'Change the level of the selection' : 'Change the level from the playhead' }}</el-button
    >
    <ItemList :items="items" label="Changes of the level" empty="The level is as it was recorded.">
      <template #default="{ item }"><LevelForm :key="item.ref.id" :stretch="stretchOf(item.item)" /></template>
    </ItemList>
  </section>
</template>

<style scoped>
.levels {
  margin-bottom: 16px;
}
</style>
