<script setup lang="ts">
import type { TrialHost } from '#player/trial'
import { errorMessage } from '#core/text/error-message'
import { makeTrial, trialGateway, type Tried } from '~/services/trying'
import { JobCancelled, useJobs } from '~/stores/jobs'
import { useDesk } from '~/stores/desk'

/** The lecture as a student has it, in the player itself; what is answered there goes when this is closed. */
const emit = defineEmits<{ close: [] }>()
const desk = useDesk()
const jobs = useJobs()
const tried = shallowRef<Tried | null>(null)
const problem = ref('')
const later = ref(false)
/** Counts beginnings: the player is loaded anew at each. */
const turn = ref(0)
let leave = (): void => undefined
let gone = false

async function make(): Promise<void> {
  const { parts } = desk
  if (!parts) return
  try {
    await desk.flush()
    const made = await makeTrial(desk.parts ?? parts, jobs)
    if (gone) made.leave()
    else {
      leave = made.leave
      tried.value = made.tried
    }
  } catch (error) {
    if (error instanceof JobCancelled) emit('close')
    else problem.value = errorMessage(error)
  }
}
onMounted(make)
onBeforeUnmount(() => {
  gone = true
  leave()
  delete (window as TrialHost).thawTrial
})
watch([tried, turn], ([now]) => {
  if (now) (window as TrialHost).thawTrial = trialGateway(now, () => ({ later: later.value }))
})
const beginAnew = () => {
  turn.value++
}
</script>

<template>
  <el-dialog model-value fullscreen title="As a student has it" class="trial" @update:model-value="emit('close')">
    <div class="bar">
      <p>Nothing that you answer here is kept, or stands in the results.</p>
      <el-checkbox v-model="later">As after the date, and after marking</el-checkbox>
      <el-button size="small" :disabled="!tried" @click="beginAnew">Begin anew</el-button>
    </div>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-else-if="!tried" role="status">Making it ready to try …</p>
    <iframe v-else :key="turn" src="/player/?trial" title="The lecture as a student has it" allow="fullscreen"></iframe>
  </el-dialog>
</template>

<style>
.trial.el-dialog {
  display: flex;
  flex-direction: column;
}
.trial .el-dialog__body {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.trial .bar {
  display: flex;
  gap: 16px;
  align-items: center;
  flex-wrap: wrap;
}
.trial .bar p {
  margin: 0;
  flex: 1;
}
.trial iframe {
  flex: 1;
  width: 100%;
  border: 1px solid var(--hairline);
  border-radius: var(--surface-radius, 10px);
}
</style>
