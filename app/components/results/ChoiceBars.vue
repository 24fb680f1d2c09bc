<script setup lang="ts">
import { max } from 'd3-array'
import { scaleLinear } from 'd3-scale'
import type { QuestionResult } from '#core/results/results'

const props = defineProps<{ counts: QuestionResult['counts']; answered: number }>()
const x = computed(() => scaleLinear([0, Math.max(1, max(props.counts, (c) => c.count) ?? 1)], [0, 100]))
</script>

<template>
  <table>
    <caption class="unseen">
      How many answered what
    </caption>
    <tbody>
      <tr v-for="c in counts" :key="c.id">
        <th scope="row">{{ c.text }} <span v-if="c.right" class="right">right</span></th>
        <td><span class="bar" :class="{ right: c.right }" :style="{ width: `${x(c.count)}%` }" /></td>
        <td class="count mono">{{ c.count }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 400;
  width: 44%;
  padding: 3px 14px 3px 0;
}
td {
  padding: 3px 0;
}
.count {
  width: 48px;
  text-align: right;
}
.bar {
  display: block;
  height: 16px;
  min-width: 2px;
  border-radius: 4px;
  background: #a9bfc4;
}
.bar.right {
  background: var(--moss);
}
th .right {
  color: var(--moss-ink);
  font-weight: 600;
  margin-left: 4px;
}
</style>
