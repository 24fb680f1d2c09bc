<script setup lang="ts">
import { X } from 'lucide-vue-next'
import { db, type JobRow } from '~/db/database'

/** Tells the person when long work has ended while they were at something else, and leads there. */
interface Notice {
  id: string
  says: string
  failed: boolean
  to: string
}
/** How long one stands, ms; one that went wrong stays until it is put away. */
const STANDS = 20_000

const route = useRoute()
const notices = ref<Notice[]>([])
/** Nothing comes between a person and a recording: what ends meanwhile is told afterwards. */
const silent = computed(() => route.path === '/record')
/** Those whose time runs. */
const timed = new Set<string>()
watch([notices, silent], () => {
  if (silent.value) return
  for (const { id, failed } of notices.value) if (!failed && !timed.has(id)) {
    timed.add(id)
    setTimeout(() => put(id), STANDS)
  }
})
/** Jobs that were seen running: what ended before this page was opened is old news. */
const running = new Set<string>()
const jobs = useLive(() => db.jobs.toArray())
const put = (id: string) => { notices.value = notices.value.filter((n) => n.id !== id) }

const words: Partial<Record<JobRow['kind'], (title: string) => string>> = {
  analyse: (title) => `“${title}” is looked through and ready to tidy.`,
  captions: (title) => `Captions of “${title}” are drafted. Students do not see them yet.`,
  publish: (title) => `“${title}” is published.`,
}
const steps: Partial<Record<JobRow['kind'], string>> = { captions: 'captioned', publish: 'released' }

watch(jobs, async (all) => {
  for (const job of all ?? []) {
    if (job.state === 'running') running.add(job.id)
    else if (running.delete(job.id)) await tell(job)
  }
})
async function tell({ id, kind, lectureId, state, says }: JobRow): Promise<void> {
  const job = jobs.value?.find((j) => j.id === id)
  // Whoever has the lecture open sees it there.
  if (state === 'cancelled' || route.path.startsWith(`/lecture/${lectureId}`) || (state === 'done' && !job?.awaited)) return
  const title = (await db.lectures.get(lectureId))?.title
  const done = title !== undefined && words[kind]?.(title)
  if (!done) return
  notices.value = [...notices.value, { id, failed: state === 'failed', says: state === 'failed' ? `“${title}”: ${says}` : done, to: `/lecture/${lectureId}?step=${steps[kind] ?? 'tidied'}` }].slice(-4)
}
</script>

<template>
  <div class="notices" role="status" aria-label="Work that has ended">
    <div v-for="n in silent ? [] : notices" :key="n.id" class="one surface" :class="{ bad: n.failed }">
      <span>{{ n.says }} <NuxtLink :to="n.to" @click="put(n.id)">Open it</NuxtLink></span>
      <button type="button" aria-label="Put this notice away" @click="put(n.id)"><X :size="15" aria-hidden="true" /></button>
    </div>
  </div>
</template>

<style scoped>
.notices { position: fixed; right: 20px; top: 58px; width: 340px; display: grid; gap: 8px; z-index: 20; }
.one { display: flex; gap: 8px; align-items: start; padding: 10px 12px; box-shadow: var(--shadow); border-left: 4px solid var(--moss); } .one.bad { border-left-color: var(--ember); }
span { flex: 1; } button { border: 0; background: none; padding: 3px; border-radius: 5px; cursor: pointer; display: grid; }
</style>
