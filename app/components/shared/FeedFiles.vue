<script setup lang="ts">
import { Download } from 'lucide-vue-next'
import dayjs from 'dayjs'
import type { Feed, Take } from '#core/schema/lecture'
import { errorMessage } from '#core/text/error-message'
import { db } from '~/db/database'
import { readChunks, readFile } from '~/db/files'
import { showFeed } from '~/services/takes'
import { useJobs } from '~/stores/jobs'
import { download, fileName } from '~/utils/download'

/**
 * Every feed of some takes, each to be saved as a file of its own: a copy, the recording stays. Of several alike,
 * students get one.
 */
const props = defineProps<{ title: string; takes: readonly Take[] }>()
const jobs = useJobs()
const problem = ref('')
/** Picture and sound that were brought in together stand in one file. */
/** A whole file, or what there is of one that is not whole yet. */
const anyOf = async (fileId: string) => (await readFile(fileId)) ?? (await readChunks(fileId))
const files = useLive(async () => {
  const rows = props.takes.flatMap((take, t) => take.feeds.map((feed) => ({ feed, take, number: t + 1 })))
  // By kind and name: those to choose from stand together, and keep their places.
  const each = rows
    .filter(({ feed }, i) => rows.findIndex((r) => r.feed.fileId === feed.fileId) === i)
    .sort(
      (a, b) =>
        a.number - b.number || a.feed.kind.localeCompare(b.feed.kind) || a.feed.label.localeCompare(b.feed.label),
    )
  return Promise.all(
    each.map(async ({ feed, take, number }) => {
      const labels = rows
        .filter((r) => r.feed.fileId === feed.fileId)
        .map((r) => r.feed.label)
        .join(' and ')
      const alike = take.state === 'whole' ? take.feeds.filter((f) => f.kind === feed.kind) : []
      return {
        feed,
        fileId: feed.fileId,
        labels,
        take,
        number,
        size: (await anyOf(feed.fileId))?.size ?? 0,
        shown: alike.length > 1 ? alike[0]?.fileId : null,
      }
    }),
  )
}, [() => props.takes.map((t) => `${t.id} ${t.state} ${t.feeds.map((f) => f.fileId).join(' ')}`).join(' ')])
const which = (number: number) => (props.takes.length > 1 ? `, take ${number}` : '')

async function choose(take: Take, feed: Feed): Promise<void> {
  problem.value = await showFeed(take.id, feed, jobs).then(
    () => '',
    (error: unknown) => errorMessage(error),
  )
}

async function save(fileId: string, labels: string, number: number): Promise<void> {
  const data = await anyOf(fileId)
  problem.value = data ? '' : 'There is nothing of this feed any more.'
  if (!data) return
  // What is not whole yet has no name; the recorder writes MP4.
  const extension = /\.\w{2,5}$/.exec((await db.files.get(fileId))?.name ?? '')?.[0] ?? '.mp4'
  download(
    `${fileName(props.title)}${props.takes.length > 1 ? `-take-${number}` : ''}-${fileName(labels)}${extension}`,
    data.type,
    data,
  )
}
</script>

<template>
  <section aria-label="Recorded files">
    <h3>Recorded files</h3>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <ul>
      <li v-for="f in files" :key="f.fileId">
        <span
          ><strong>{{ f.labels }}</strong
          ><br /><small class="quiet"
            >{{ dayjs(f.take.startedAt).format('D MMM YYYY, HH:mm') }}, {{ (f.size / 1e6).toFixed(1) }} MB{{
              which(f.number)
            }}</small
          ></span
        >
        <el-radio
          v-if="f.shown"
          class="shown"
          :model-value="f.shown"
          :value="f.fileId"
          :name="`${f.take.id} ${f.feed.kind}`"
          @change="choose(f.take, f.feed)"
          >Students {{ f.feed.kind === 'sound' ? 'hear' : 'see' }} this
          <span class="unseen">one: {{ f.labels }}{{ which(f.number) }}</span></el-radio
        >
        <el-button
          size="small"
          :disabled="f.size === 0"
          :aria-label="`Save a copy of ${f.labels}${which(f.number)}`"
          @click="save(f.fileId, f.labels, f.number)"
          ><Download :size="14" aria-hidden="true" /> Save a copy</el-button
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
h3 {
  margin: 0 0 4px;
  font-size: 16px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 172px;
  overflow: auto;
}
li {
  display: flex;
  align-items: center;
  gap: 12px;
  border-top: 1px solid var(--hairline);
  padding: 6px 2px;
  line-height: 1.3;
}
li > span {
  flex: 1;
}
.shown {
  margin: 0;
}
</style>
