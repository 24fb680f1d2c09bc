<script setup lang="ts">
import { Layers } from 'lucide-vue-next'
import { db } from '~/db/database'
import { useJobs } from '~/stores/jobs'

const jobs = useJobs()
const rows = useLive(async () => {
  const all = (await db.jobs.toArray()).sort((a, b) => b.startedAt.localeCompare(a.startedAt))
  const titles = new Map((await db.lectures.bulkGet(all.map((j) => j.lectureId))).map((l) => [l?.id, l?.title]))
  return all.map((job) => ({
    ...job,
    lecture: titles.get(job.lectureId) ?? (job.lectureId ? 'a deleted lecture' : 'Several lectures'),
  }))
})
const running = computed(() => rows.value?.filter((j) => j.state === 'running').length ?? 0)
const words = { running: 'under way', done: 'done', failed: 'did not work', cancelled: 'cancelled' }
</script>

<template>
  <el-popover trigger="click" width="380" placement="bottom-end">
    <template #reference>
      <el-button text
        ><Layers :size="17" aria-hidden="true" /> Jobs<span v-if="running" class="count"
          >{{ running }}<span class="unseen"> under way</span></span
        ></el-button
      >
    </template>
    <h3>Jobs</h3>
    <p v-if="!rows?.length" class="quiet">Work that takes time is listed here.</p>
    <ul v-else>
      <li v-for="job in rows" :key="job.id">
        <p>
          <strong>{{ job.lecture }}</strong> <span class="quiet">{{ words[job.state] }}</span><br />{{ job.says }}
        </p>
        <details v-if="job.report?.some((r) => r.look.length)">
          <summary>What needs a look</summary>
          <p v-for="r in job.report.filter((one) => one.look.length)" :key="r.lectureId">
            <NuxtLink :to="`/lecture/${r.lectureId}?step=tidied`">{{ r.title }}</NuxtLink><br />{{ r.look.join(' ') }}
          </p>
        </details>
        <div v-if="job.state === 'running'" class="line">
          <el-progress :percentage="Math.round(100 * job.progress)" :aria-label="job.says" />
          <el-button size="small" @click="jobs.cancel(job.id)">Cancel</el-button>
        </div>
      </li>
    </ul>
  </el-popover>
</template>

<style scoped>
.count {
  background: var(--marigold);
  color: #231a00;
  border-radius: 9px;
  padding: 0 7px;
  margin-left: 6px;
  font-size: 13px;
}
ul {
  list-style: none;
  padding: 0;
  margin: 8px 0 0;
  max-height: 50vh;
  overflow: auto;
}
li {
  border-top: 1px solid var(--hairline);
  padding: 8px 0;
}
li p {
  margin: 0;
}
.line {
  display: flex;
  gap: 10px;
  align-items: center;
}
.line .el-progress {
  flex: 1;
}
</style>
