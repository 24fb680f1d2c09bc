<script setup lang="ts">
import equal from 'fast-deep-equal'
import { policyProblems, type PolicyRules } from '#core/questions/policy-presets'
import type { SetPolicy } from '#core/schema/questions'
import { deletePolicy, keepPolicy, loadPolicies } from '~/services/question-sets'

/** What holds for a set: one of the policies that there are, or something of its own that may be kept as one more. */
const props = defineProps<{ policy: SetPolicy }>()
const emit = defineEmits<{
  /** @param field of what is being written, when something is */
  change: [policy: SetPolicy, says: string, field?: string]
}>()
provideTextTools()
const policies = useLive(loadPolicies)
const rules = computed((): PolicyRules => {
  const { welcome: _, ...rest } = props.policy
  return rest
})
const chosen = computed(() => policies.value?.find((p) => equal(p.rules, rules.value)) ?? null)
const problems = computed(() => policyProblems(props.policy))
const open = ref(false)
const name = ref('')

const change = (patch: Partial<SetPolicy>, says: string, field?: string) =>
  emit('change', { ...props.policy, ...patch }, says, field)
function choose(id: string): void {
  const found = policies.value?.find((p) => p.id === id)
  if (found) change(found.rules, `Chose “${found.name}”`)
  else open.value = true
}
async function keep(): Promise<void> {
  if (!name.value.trim()) return
  await keepPolicy(name.value.trim(), rules.value)
  name.value = ''
}
const changeAttempts = (patch: Partial<SetPolicy['attempts']>) =>
  change({ attempts: { ...props.policy.attempts, ...patch } }, 'Changed the attempts')
const ticks: { field: 'readBefore' | 'changes' | 'putOff' | 'ahead'; says: string }[] = [
  { field: 'readBefore', says: 'The questions may be read and printed before watching' },
  { field: 'changes', says: 'Answers may be changed until they are handed in' },
  { field: 'putOff', says: 'A question may be put off to the end' },
  { field: 'ahead', says: 'One may jump ahead of what one has watched' },
]
const counts: [SetPolicy['attempts']['counts'], string][] = [
  ['best', 'the best counts'],
  ['first', 'the first counts'],
  ['last', 'the last counts'],
  ['mean', 'the mean counts'],
]
</script>

<template>
  <section class="policy" aria-label="What holds for these questions">
    <div class="which">
      <el-select
        :model-value="chosen?.id ?? ''"
        aria-label="What holds for these questions"
        @update:model-value="choose"
      >
        <el-option v-for="p in policies" :key="p.id" :value="p.id" :label="p.name" />
        <el-option value="" label="Something of its own" />
      </el-select>
      <el-button :aria-expanded="open" @click="open = !open">{{ open ? 'Fold' : 'Change' }}</el-button>
    </div>
    <p class="quiet says">{{ chosen?.says ?? 'As it is set here.' }}</p>
    <div v-if="open" class="rules">
      <TextTools />
      <p class="label">Welcome, before watching</p>
      <RichField
        :text="policy.welcome"
        label="Welcome, before watching"
        @change="change({ welcome: $event }, 'Wrote the welcome', 'welcome')"
      />
      <el-checkbox
        v-for="t in ticks"
        :key="t.field"
        :model-value="policy[t.field]"
        @update:model-value="change({ [t.field]: Boolean($event) }, 'Changed what holds for the questions')"
        >{{ t.says }}</el-checkbox
      >
      <div class="attempts">
        <span>Attempts</span>
        <el-input-number
          :model-value="policy.attempts.most ?? undefined"
          :min="1"
          :max="20"
          aria-label="Attempts"
          :disabled="policy.attempts.most === null"
          @update:model-value="changeAttempts({ most: $event ?? 1 })"
        />
        <el-checkbox
          :model-value="policy.attempts.most === null"
          @update:model-value="changeAttempts({ most: $event ? null : 1 })"
          >as many as they like</el-checkbox
        >
        <el-select
          v-if="policy.attempts.most !== 1"
          :model-value="policy.attempts.counts"
          aria-label="Which attempt counts"
          @update:model-value="changeAttempts({ counts: $event })"
          ><el-option v-for="[value, says] in counts" :key="value" :value="value" :label="says"
        /></el-select>
      </div>
      <p class="label">Students are told</p>
      <ToldFromField
        :model-value="policy.feedback"
        label="if they are right, and why"
        @update:model-value="change({ feedback: $event }, 'Changed what students are told')"
      />
      <ToldFromField
        :model-value="policy.score"
        label="their points"
        @update:model-value="change({ score: $event }, 'Changed what students are told')"
      />
      <ToldFromField
        :model-value="policy.solutions"
        label="what is right"
        @update:model-value="change({ solutions: $event }, 'Changed what students are told')"
      />
      <form v-if="!chosen" class="keep" @submit.prevent="keep">
        <el-input v-model="name" maxlength="80" placeholder="A name for this" aria-label="Name to keep this under" />
        <el-button native-type="submit" :disabled="!name.trim()">Keep for other lectures</el-button>
      </form>
      <el-button v-else-if="chosen.own" size="small" @click="deletePolicy(chosen.id)"
        >Do not keep “{{ chosen.name }}” any more</el-button
      >
    </div>
    <p v-for="p in problems" :key="p" class="notice" role="status">{{ p }}</p>
  </section>
</template>

<style scoped>
.policy {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.policy p {
  margin: 0;
}
.which,
.keep {
  display: flex;
  gap: 8px;
}
.which .el-select {
  flex: 1;
}
.says,
.label {
  font-size: 14px;
}
.label {
  color: var(--quiet);
  margin-top: 6px !important;
}
.rules {
  display: flex;
  flex-direction: column;
  gap: 6px;
  border-left: 2px solid var(--hairline);
  padding-left: 12px;
}
.rules .el-checkbox {
  height: auto;
  min-height: 28px;
  white-space: normal;
}
.attempts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
.attempts .el-input-number {
  width: 120px;
}
.attempts .el-select {
  width: 170px;
}
</style>
