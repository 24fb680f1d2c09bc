<script setup lang="ts">
import { X } from 'lucide-vue-next'
import { db, type JobRow } from '~/db/database'

/**
 * Tells the person when long work has ended while they were at something else, and leads there. It stands in the head,
 * and covers nothing.
 */
interface Notice {
  id: string
  says: string
  failed: boolean
  to: string
}
/** How long one stands, ms; one that went wrong stays until it is put away. */
const STANDS = 12_000

const route = useRoute()
const notices = ref<Notice[]>([])
/** Nothing comes between a person and a recording: what ends meanwhile is told afterwards. */
const silent = computed(() => route.path === '/record')
/** One at a time, as long as there are some. */
const first = computed(() => (silent.value ? undefined : notices.value[0]))
watch(
  () => first.value?.id,
  (id, _, onCleanup) => {
    if (!id || first.value?.failed) return
    const timer = setTimeout(() => put(id), STANDS)
    onCleanup(() => clearTimeout(timer))
  },
)
/** Jobs that were begun under this page and are under way; what was cut off before is begun again or said elsewhere. */
const since = new Date(performance.timeOrigin).toISOString()
const running = new Set<string>()
const jobs = useLive(() => db.jobs.toArray())
const put = (id: string) => {
  notices.value = notices.value.filter((n) => n.id !== id)
}

const words: Partial<Record<JobRow['kind'], (title: string, says: string) => string>> = {
  settle: (title, says) => `“${title}”: ${says}.`,
  analyse: (title) => `“${title}” is looked through and ready to tidy.`,
  captions: (title) => `Captions of “${title}” are drafted. Students do not see them yet.`,
  publish: (title) => `“${title}” is published.`,
}
const steps: Partial<Record<JobRow['kind'], string>> = { captions: 'captioned', publish: 'released' }

watch(jobs, async (all) => {
  for (const job of all ?? []) {
    if (job.state === 'running' && job.startedAt >= since) running.add(job.id)
    else if (running.delete(job.id)) await tell(job)
  }
})
async function tell({ id, kind, lectureId, state, says, awaited }: JobRow): Promise<void> {
  // Whoever has the lecture open sees it there.
  if (!awaited || state === 'cancelled' || route.path.startsWith(`/lecture/${lectureId}`)) return
  const title = (await db.lectures.get(lectureId))?.title
  const done = title !== undefined && words[kind]?.(title, says)
  if (done)
    notices.value = [
      ...notices.value,
      {
        id,
        failed: state === 'failed',
        says: state === 'failed' ? `“${title}”: ${says}` : done,
        to: `/lecture/${lectureId}?step=${steps[kind] ?? 'tidied'}`,
      },
    ]
}
</script>

<template>
  <div class="notices" role="status" aria-label="Work that has ended">
    <p v-if="first" class="one" :class="{ bad: first.failed }">
      <span :title="first.says">{{ first.says }}</span>
      <NuxtLink :to="first.to" @click="put(first.id)">Open it</NuxtLink>
      <small v-if="notices.length > 1" class="quiet">and {{ notices.length - 1 }} more</small>
      <button type="button" aria-label="Put this notice away" @click="put(first.id)">
        <X :size="15" aria-hidden="true" />
      </button>
    </p>
  </div>
</template>

<style scoped>
.one {
  display: flex;
  gap: 8px;
  align-items: center;
  width: fit-content;
  max-width: 100%;
  margin: 0 0 0 auto;
  padding: 3px 10px;
  border-radius: var(--control-radius);
  background: #edf3e8;
  border-left: 4px solid var(--moss);
}
.one.bad {
  background: #f9ecea;
  border-left-color: var(--ember);
}
span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-width: 0;
}
a,
small {
  white-space: nowrap;
}
button {
  border: 0;
  background: none;
  padding: 3px;
  border-radius: 5px;
  cursor: pointer;
  display: grid;
}
</style>
