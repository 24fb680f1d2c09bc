<script setup lang="ts">
import { personKey, sayStudent } from '#core/course/people'
import type { RegradeChange } from '#core/results/marking'
import { sayCount } from '#core/text/words'
import type { NewDecision } from '~/services/results'

/** Who gets other points when answers count by the questions as they are asked now. */
const props = defineProps<{
  changes: readonly RegradeChange[]
  decide: (decisions: readonly NewDecision[]) => Promise<boolean>
}>()
const emit = defineEmits<{ close: [] }>()
const reason = ref('')
const busy = ref(false)
async function regrade(): Promise<void> {
  busy.value = true
  const decisions = props.changes.map(({ student, set, attempt, questionId, version }): NewDecision => ({
    ...{ kind: 'regrade', student, set, attempt, questionId, version },
    reason: reason.value.trim(),
  }))
  if (await props.decide(decisions)) emit('close')
  busy.value = false
}
</script>

<template>
  <el-dialog
    :model-value="true"
    title="By the changed questions"
    width="min(760px, 94vw)"
    top="6vh"
    @close="emit('close')"
  >
    <div class="scroll" tabindex="0" role="group" aria-label="Who changes">
      <table>
        <thead>
          <tr>
            <th>Student</th>
            <th>Question</th>
            <th class="number">Now</th>
            <th class="number">Then</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in changes" :key="`${personKey(c.student)} ${c.attempt} ${c.questionId}`">
            <td>{{ sayStudent(c.student) }}{{ c.attempt > 1 ? `, attempt ${c.attempt}` : '' }}</td>
            <td>{{ c.prompt }}</td>
            <td class="number">{{ c.before }}</td>
            <td class="number">{{ c.after }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <el-input v-model="reason" maxlength="1000" placeholder="Why, for the log" aria-label="Why, for the log" />
    <template #footer>
      <el-button @click="emit('close')">Leave it as it is</el-button>
      <el-button type="primary" :loading="busy" :disabled="!reason.trim() || !changes.length" @click="regrade"
        >Change {{ sayCount(changes.length, 'answer', 'answers') }}</el-button
      >
    </template>
  </el-dialog>
</template>

<style scoped>
.scroll {
  max-height: 50vh;
  overflow: auto;
  margin-bottom: 12px;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  padding: 5px 10px 5px 0;
  border-bottom: 1px solid var(--hairline);
}
.number {
  text-align: right;
}
</style>
