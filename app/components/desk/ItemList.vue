<script setup lang="ts">
import { Trash2 } from 'lucide-vue-next'
import { isSame, rangeOf } from '#core/documents/items'
import { projectRange, toResult } from '#core/time/time-map'
import { recorded } from '#core/time/units'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'
import type { LaneItem } from '~/utils/lanes'

/** Items of a lane as a list; the one that is chosen unfolds, and is described in the slot. */
const props = defineProps<{ items: readonly LaneItem[]; label: string; empty: string }>()
const desk = useDesk()
const chosen = useChosen()
const media = injectStrict(scriptPlayerKey)
const list = useTemplateRef<HTMLElement>('list')
const sorted = computed(() => [...props.items].sort((a, b) => a.from - b.from))
const one = computed(() => sorted.value.find((i) => chosen.one && isSame(chosen.one.ref, i.ref)))
const isLost = ({ item }: LaneItem) => {
  const range = rangeOf(item)
  return 'at' in item
    ? toResult(desk.map, range.from).kind === 'removed'
    : projectRange(desk.map, range).pieces.length === 0
}
function toggle(item: LaneItem): void {
  if (one.value === item) {
    chosen.clear()
    return
  }
  chosen.choose(item.ref)
  const now = desk.recordedTime
  if ('at' in item.item || now < item.from || now >= item.to) media.seekRecorded(recorded(item.from))
}
watch(
  () => one.value?.ref.id,
  async (id) => {
    await nextTick()
    if (id) list.value?.querySelector(`[data-item="${CSS.escape(id)}"]`)?.scrollIntoView({ block: 'nearest' })
  },
)
</script>

<template>
  <p v-if="sorted.length === 0" class="quiet">{{ empty }}</p>
  <ul v-else ref="list" :aria-label="label">
    <li v-for="i in sorted" :key="i.ref.id" :data-item="i.ref.id" :class="{ on: one === i }">
      <div class="row">
        <button type="button" class="where" :aria-expanded="one === i" @click="toggle(i)">
          <span class="mono">{{ desk.sayTime(i.from, 1) }}</span> {{ i.says }}
          <em v-if="isLost(i)">in a removed part</em>
        </button>
        <el-button
          text
          size="small"
          :aria-label="`Drop “${i.says}” at ${desk.sayTime(i.from, 1)}`"
          title="Drop"
          @click="chosen.drop([{ ref: i.ref, item: i.item }])"
          ><Trash2 :size="15"
        /></el-button>
      </div>
      <div v-if="one === i" class="form"><slot :item="i" /></div>
    </li>
  </ul>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
li {
  border-bottom: 1px solid var(--hairline);
}
li.on {
  border: 1px solid var(--tarn);
  border-radius: var(--control-radius);
}
.row {
  display: flex;
  align-items: center;
}
.where {
  flex: 1;
  min-width: 0;
  text-align: left;
  border: 0;
  background: none;
  padding: 6px 8px;
  cursor: pointer;
  border-radius: 5px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.where:hover {
  background: var(--snow);
}
em {
  color: var(--ember);
  font-style: normal;
  font-size: 13px;
}
.form {
  display: grid;
  gap: 10px;
  padding: 4px 10px 12px;
}
</style>
