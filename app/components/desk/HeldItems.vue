<script setup lang="ts">
import { recorded } from '#core/time/units'
import { timeLineKey } from '~/composables/use-time-line'
import { injectStrict } from '~/utils/inject'
import { ROW, type ItemLaneKind, type LaneItem } from '~/utils/lanes'

/** Where what is dragged on a lane would go. Apart from the lane, so that only this is drawn while it moves. */
const props = defineProps<{ lane: ItemLaneKind; items: readonly { item: LaneItem; row: number }[] }>()
const line = injectStrict(timeLineKey)
const held = computed(() =>
  line.held.value
    ? props.items
        .filter(({ item }) => line.isHeld(item.ref))
        .map(({ item, row }) => {
          const range = line.shown(item.ref, { from: recorded(item.from), to: recorded(item.to) })
          const x = line.px(range.from)
          return { id: item.ref.id, x, width: 'at' in item.item ? 3 : Math.max(3, line.px(range.to) - x), row }
        })
    : [],
)
</script>

<template>
  <span
    v-for="h in held"
    :key="h.id"
    class="moving"
    :style="{ transform: `translateX(${h.x}px)`, width: `${h.width}px`, top: `${3 + ROW * h.row}px` }"
  />
</template>

<style scoped>
.moving {
  position: absolute;
  left: 0;
  will-change: transform;
  z-index: 3;
  height: 23px;
  border: 2px solid var(--tarn);
  border-radius: 4px;
  background: rgb(27 75 87 / 22%);
  pointer-events: none;
}
</style>
