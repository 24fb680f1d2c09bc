<script setup lang="ts">
import dayjs from 'dayjs'
import type { History, PlaceHistory } from '#core/results/history'
import { sayLog } from '#core/results/marking'

/** Everything that was decided about answers, the latest first. */
const props = defineProps<{ history: History; place: PlaceHistory }>()
const emit = defineEmits<{ close: [] }>()
const log = computed(() => sayLog(props.history, props.place.grading))
</script>

<template>
  <el-dialog :model-value="true" title="What was decided" width="min(880px, 94vw)" top="6vh" @close="emit('close')">
    <p v-if="!log.length">Nothing yet: all results are what the keys say.</p>
    <div v-else class="scroll" tabindex="0" role="group" aria-label="Log">
      <table>
        <thead>
          <tr>
            <th>When</th>
            <th>Student</th>
            <th>About</th>
            <th>What</th>
            <th>Reason or comment</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="e in log" :key="e.id">
            <td class="when">{{ dayjs(e.at).format('D MMM YYYY, HH:mm') }}</td>
            <td>{{ e.student }}</td>
            <td>{{ e.about }}</td>
            <td>{{ e.what }}</td>
            <td>{{ e.reason }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </el-dialog>
</template>

<style scoped>
.scroll {
  max-height: 66vh;
  overflow: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  vertical-align: top;
  padding: 5px 10px 5px 0;
  border-bottom: 1px solid var(--hairline);
}
.when {
  white-space: nowrap;
}
</style>
