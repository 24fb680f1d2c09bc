<script setup lang="ts">
/** What would change in captions, one by one, each to be taken or left. Only what is near what is seen is drawn. */
import { useVirtualizer } from '@tanstack/vue-virtual'

export interface CueChange {
  key: string
  /** Where it stands, as it is read. */
  at: string
  /** The lecture and track, where there are several. */
  where: string
  before: string
  after: string
}
const props = defineProps<{
  changes: readonly CueChange[]
  /** Keys of those that are left as they are. */
  left: ReadonlySet<string>
  /** What taking one does, as its box says it (“Replace”). */
  does: string
}>()
const emit = defineEmits<{ toggle: [key: string] }>()
const list = useTemplateRef<HTMLElement>('list')
const virtual = useVirtualizer(
  computed(() => ({
    count: props.changes.length,
    getScrollElement: () => list.value,
    estimateSize: () => 76,
    overscan: 8,
    getItemKey: (i: number) => props.changes[i]?.key ?? i,
  })),
)
const drawn = computed(() =>
  virtual.value.getVirtualItems().flatMap(({ index }) => {
    const change = props.changes[index]
    return change ? [{ change, index }] : []
  }),
)
/** Room for those that are not drawn, px. */
const room = computed(() => {
  const items = virtual.value.getVirtualItems()
  return { before: items[0]?.start ?? 0, after: virtual.value.getTotalSize() - (items.at(-1)?.end ?? 0) }
})
const measure = (row: unknown) => virtual.value.measureElement(row as HTMLElement | null)
</script>

<template>
  <ul
    v-show="changes.length"
    ref="list"
    class="found"
    aria-label="What would change"
    :style="{ '--before': `${room.before}px`, '--after': `${room.after}px` }"
  >
    <li
      v-for="{ change: c, index } in drawn"
      :key="c.key"
      :ref="measure"
      :data-index="index"
      :aria-posinset="index + 1"
      :aria-setsize="changes.length"
    >
      <el-checkbox
        :model-value="!left.has(c.key)"
        :aria-label="`${does} at ${c.at}${c.where && ` in ${c.where}`}`"
        @update:model-value="emit('toggle', c.key)"
      />
      <div>
        <span class="quiet"
          ><span class="mono">{{ c.at }}</span
          ><template v-if="c.where"> {{ c.where }}</template></span
        >
        <span class="before">{{ c.before }}</span>
        <span>{{ c.after }}</span>
      </div>
    </li>
  </ul>
</template>

<style scoped>
.found {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 40vh;
  overflow: auto;
  overflow-anchor: none;
}
.found::before,
.found::after {
  content: '';
  display: block;
}
.found::before {
  height: var(--before);
}
.found::after {
  height: var(--after);
}
.found li {
  display: grid;
  grid-template-columns: 28px 1fr;
  padding: 5px 0;
  border-top: 1px solid var(--hairline);
}
.found li > div {
  display: flex;
  flex-direction: column;
}
.mono {
  margin-right: 8px;
}
.before {
  text-decoration: line-through;
  color: var(--quiet);
}
</style>
