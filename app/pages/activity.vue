<script setup lang="ts">
import { Activity, auditActions, type StoredAuditEntry } from '#core/schema/audit'
import { toCsv } from '#core/results/csv'
import { parseAs } from '#core/schema/validate'
import { errorMessage } from '#core/text/error-message'
import { Download } from 'lucide-vue-next'
import { authorFetch } from '~/utils/author'
import { download } from '~/utils/download'

/** What was done on the server by whoever signed in there. */
useHead({ title: 'Activity log · Thaw' })
const entries = shallowRef<StoredAuditEntry[] | null>(null)
const problem = ref('')
const ALL = 'all'
const wanted = ref(ALL)
/** How many are listed at first, and more each time. */
const STEP = 200
const listed = ref(STEP)

async function fetchAll(): Promise<void> {
  problem.value = ''
  try {
    if (!(await askForAuthor())) return
    const answer = await authorFetch('/api/author/activity')
    entries.value = parseAs(Activity, await answer.json(), 'answer of the server').entries.reverse()
  } catch (error) {
    problem.value = errorMessage(error)
  }
}
onMounted(fetchAll)

const found = computed(() => (entries.value ?? []).filter((e) => wanted.value === ALL || e.action === wanted.value))
const when = (instant: string) =>
  new Date(instant).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'medium' })
function save(): void {
  const rows = found.value.map((e) => [
    ...[e.at, auditActions[e.action], e.says, e.from, e.publicationId ?? '', e.placeId ?? ''],
  ])
  const columns = ['Time (UTC)', 'What', 'Particulars', 'From address', 'Publication', 'Place']
  download('activity-log.csv', 'text/csv', toCsv([columns, ...rows]))
}
</script>

<template>
  <div class="page">
    <div class="top">
      <div>
        <h1>Activity log</h1>
        <p class="quiet">
          Signing in, publishing, releasing, grading and reading results on this server. Nothing here is changed or
          deleted.
        </p>
      </div>
      <div class="row">
        <el-select v-model="wanted" aria-label="Show" class="what"
          ><el-option :value="ALL" label="Everything" /><el-option
            v-for="(name, action) in auditActions"
            :key="action"
            :value="action"
            :label="name"
        /></el-select>
        <el-button :disabled="found.length === 0" @click="save"
          ><Download :size="15" aria-hidden="true" /> Save as CSV</el-button
        >
      </div>
    </div>
    <p v-if="problem" class="notice bad" role="alert">
      {{ problem }} <el-button size="small" @click="fetchAll">Try again</el-button>
    </p>
    <template v-if="entries">
      <p v-if="found.length === 0" class="quiet">Nothing of this was done yet.</p>
      <div v-else class="scrolls" tabindex="0" role="group" aria-label="Log">
        <table>
          <thead>
            <tr>
              <th scope="col">When</th>
              <th scope="col">What</th>
              <th scope="col">Particulars</th>
              <th scope="col">From address</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="e in found.slice(0, listed)" :key="e.id">
              <td class="when">{{ when(e.at) }}</td>
              <td class="when">{{ auditActions[e.action] }}</td>
              <td>{{ e.says }}</td>
              <td class="mono">{{ e.from }}</td>
            </tr>
          </tbody>
        </table>
        <el-button v-if="found.length > listed" @click="listed += STEP">Show older ones</el-button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.page {
  max-width: 1180px;
  margin: 0 auto;
  padding: 22px 24px;
}
.top,
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}
.top {
  justify-content: space-between;
  margin-bottom: 12px;
}
.what {
  width: 220px;
}
.scrolls {
  overflow: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  background: var(--paper);
}
th,
td {
  padding: 8px 10px;
  border-bottom: 1px solid var(--hairline);
  text-align: left;
  vertical-align: top;
}
.when {
  white-space: nowrap;
}
</style>
