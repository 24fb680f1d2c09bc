<script setup lang="ts">
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { db, type FinishReport } from '~/db/database'
import { finishes, putFinishOn } from '~/services/finishes'
import { JobCancelled, useJobs } from '~/stores/jobs'

/** Puts a finish on lectures, and tells what came of each. */
const props = defineProps<{ lectureIds: readonly string[] }>()
const emit = defineEmits<{ close: []; done: [] }>()
const jobs = useJobs()
const all = useLive(finishes)
const chosen = ref('')
const finishId = computed(() => all.value?.find((f) => f.id === chosen.value)?.id ?? all.value?.[0]?.id ?? '')
const problem = ref('')
const report = shallowRef<FinishReport[] | null>(null)
const busy = ref(false)
const job = useLive(() =>
  db.jobs
    .where('state')
    .equals('running')
    .and((j) => j.kind === 'finish')
    .first(),
)
const told = computed(() => report.value ?? (busy.value ? (job.value?.report ?? []) : []))
const look = computed(() => told.value.filter((r) => r.look.length > 0).length)

async function put(): Promise<void> {
  busy.value = true
  problem.value = ''
  report.value = null
  try {
    report.value = await putFinishOn(finishId.value, props.lectureIds, jobs)
    emit('done')
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <el-dialog :model-value="true" title="Put on a finish" width="min(640px, 94vw)" top="8vh" @close="emit('close')">
    <p v-if="all?.length === 0">
      There is none yet. <NuxtLink to="/finishes">Make one</NuxtLink>: cards, a mark, sound and trims that many lectures
      have alike.
    </p>
    <template v-else>
      <div class="row">
        <el-select :model-value="finishId" aria-label="Finish" :disabled="busy" @update:model-value="chosen = $event"
          ><el-option v-for="f in all" :key="f.id" :value="f.id" :label="f.name"
        /></el-select>
        <NuxtLink to="/finishes">Change finishes</NuxtLink>
      </div>
      <p class="quiet">
        It is put on {{ sayCount(lectureIds.length, 'lecture', 'lectures') }}, and can be undone on each. Recordings are
        never changed.
      </p>
    </template>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <div v-if="busy && job" role="status" class="job">
      <el-progress :percentage="Math.round(100 * job.progress)" aria-label="Putting on" />
      <span class="quiet">{{ job.says }}</span>
      <el-button size="small" @click="jobs.cancel(job.id)">Cancel</el-button>
    </div>
    <section v-if="told.length" aria-label="What came of it">
      <h3>{{ look ? `${sayCount(look, 'needs', 'need')} a look` : 'Nothing needs a look' }}</h3>
      <ul>
        <li v-for="r in told" :key="r.lectureId">
          <NuxtLink :to="`/lecture/${r.lectureId}?step=tidied`">{{ r.title }}</NuxtLink>
          <span class="quiet did">{{ r.did.join(' ') }}</span>
          <ul v-if="r.look.length">
            <li v-for="says in r.look" :key="says" class="look">{{ says }}</li>
          </ul>
        </li>
      </ul>
    </section>
    <template #footer>
      <el-button @click="emit('close')">{{ report ? 'Done' : 'Close' }}</el-button>
      <el-button type="primary" :loading="busy" :disabled="!finishId || lectureIds.length === 0" @click="put"
        >Put it on</el-button
      >
    </template>
  </el-dialog>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  gap: 14px;
}
.row .el-select {
  width: 300px;
}
.job {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 10px;
  align-items: center;
}
.job .el-progress {
  grid-column: 1 / -1;
}
h3 {
  margin: 14px 0 4px;
  font-size: 16px;
}
section > ul {
  list-style: none;
  padding: 0;
  margin: 0;
  max-height: 40vh;
  overflow: auto;
}
section > ul > li {
  border-top: 1px solid var(--hairline);
  padding: 6px 0;
}
.did {
  margin-left: 8px;
}
li ul {
  list-style: none;
  margin: 2px 0 0;
  padding-left: 14px;
}
.look {
  color: var(--marigold-ink);
}
</style>
