<script setup lang="ts">
import dayjs from 'dayjs'
import { errorMessage } from '#core/text/error-message'
import { db, type RevisionRow } from '~/db/database'
import { publish } from '~/services/publishing'
import { bringBack, changesSince, deleteRevision, keepRevision, revisionsOf } from '~/services/revisions'
import type { Difference } from '#core/documents/differences'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'
import { useDesk } from '~/stores/desk'
import { JobCancelled, useJobs } from '~/stores/jobs'

const emit = defineEmits<{ close: [] }>()
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const name = ref('')
const problem = ref('')
const lectureId = desk.lecture?.id ?? ''
const revisions = useLive(() => revisionsOf(lectureId))
const publishing = useLive(() =>
  db.jobs
    .where('lectureId')
    .equals(lectureId)
    .and((j) => j.state === 'running' && j.kind === 'publish')
    .first(),
)

/** Does it once all that was typed is stored; what goes wrong is said, and the dialog stays. */
async function attempt(act: () => Promise<unknown>): Promise<boolean> {
  problem.value = ''
  try {
    await desk.flush()
    await act()
    return true
  } catch (error) {
    problem.value = errorMessage(error)
    return false
  }
}

async function keep(): Promise<void> {
  const asked = name.value.trim()
  if (asked && (await attempt(() => keepRevision(lectureId, asked)))) name.value = ''
}

/** What was changed since the revision that is looked at. */
const listed = shallowRef<{ id: string; found: Difference[] } | null>(null)
const kindNames = {
  edit: 'Edit',
  captions: 'Captions',
  chapters: 'Chapters',
  links: 'Link cards',
  questions: 'Questions',
}
async function list({ id }: RevisionRow): Promise<void> {
  if (listed.value?.id === id) listed.value = null
  else
    await attempt(async () => {
      const found = await changesSince(id)
      if (!found) throw new Error('This revision is not there any more.')
      listed.value = { id, found }
    })
}
function show({ range }: Difference): void {
  if (!range) return
  media.seekRecorded(range.from)
  emit('close')
}
function showOnLine({ id, name: called }: RevisionRow): void {
  desk.compared = { id, name: called, found: listed.value?.found ?? [] }
  emit('close')
}

const jobs = useJobs()
const out = computed(() => desk.parts?.release ?? null)
async function publishRevision(revision: RevisionRow): Promise<void> {
  const sure = await ElMessageBox.confirm(
    'Students see it in place of what they see now, wherever the lecture stands. What is on the desk stays as it is.',
    `Publish “${revision.name}”?`,
    { confirmButtonText: 'Publish it', cancelButtonText: 'Leave it' },
  ).catch(() => null)
  if (!sure || !(await askForAuthor())) return
  const done = await attempt(async () => {
    if (!desk.parts) return
    try {
      await publish(desk.parts, null, jobs, { revisionId: revision.id })
    } catch (error) {
      if (!(error instanceof JobCancelled)) throw error
    }
  })
  await desk.refresh()
  if (done && out.value?.revisionId === revision.id) ElMessage.success(`Students see “${revision.name}” now.`)
}

async function goBack(revision: RevisionRow): Promise<void> {
  if (!(await attempt(() => bringBack(revision.id)))) return
  await desk.refresh()
  ElMessage.success(`The lecture is as it was in “${revision.name}”. Undo takes that back.`)
  emit('close')
}
</script>

<template>
  <el-dialog :model-value="true" title="Revisions" width="680px" top="8vh" @close="emit('close')">
    <p class="quiet">
      A revision keeps the edit, captions, questions, chapters and links as they are now. Going back to one is a step
      that can be undone; the recording is never changed. What was published is kept by itself.
    </p>
    <form class="keep" @submit.prevent="keep">
      <label for="revision-name">Name</label>
      <el-input id="revision-name" v-model="name" maxlength="200" placeholder="as given in autumn" />
      <el-button native-type="submit" type="primary" :disabled="!name.trim()">Keep</el-button>
    </form>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-if="revisions?.length === 0" class="quiet">None is kept yet.</p>
    <ul v-else>
      <li v-for="revision in revisions" :key="revision.id">
        <span class="what"
          ><strong>{{ revision.name }}</strong
          ><br /><span class="quiet">{{ dayjs(revision.madeAt).format('D MMMM YYYY, HH:mm') }}</span
          ><span v-if="out?.revisionId === revision.id" class="seen">Students see this</span></span
        >
        <span class="does">
          <el-button
            text
            size="small"
            :aria-label="`What differs from ${revision.name}`"
            :aria-expanded="listed?.id === revision.id"
            @click="list(revision)"
            >What differs</el-button
          >
          <el-button size="small" :aria-label="`Go back to ${revision.name}`" @click="goBack(revision)"
            >Go back</el-button
          >
          <el-button
            v-if="out && out.revisionId !== revision.id"
            size="small"
            :aria-label="`Publish ${revision.name}`"
            :disabled="!!publishing"
            @click="publishRevision(revision)"
            >Publish</el-button
          >
          <el-button
            v-if="out?.revisionId !== revision.id"
            text
            size="small"
            :aria-label="`Delete ${revision.name}`"
            @click="attempt(() => deleteRevision(revision.id))"
            >Delete</el-button
          >
        </span>
        <div v-if="listed?.id === revision.id" class="since">
          <p v-if="listed.found.length === 0" class="quiet">Nothing was changed since.</p>
          <template v-else>
            <ol :aria-label="`Changed since ${revision.name}`">
              <li v-for="(d, i) in listed.found" :key="i">
                <span class="quiet">{{ kindNames[d.kind] }}, {{ d.how }}:</span>
                <button v-if="d.range" type="button" title="Go there" @click="show(d)">
                  {{ d.says }}</button><template v-else> {{ d.says }}</template>
              </li>
            </ol>
            <el-button v-if="listed.found.some((d) => d.range)" size="small" @click="showOnLine(revision)"
              >Show on the time line</el-button
            >
          </template>
        </div>
      </li>
    </ul>
  </el-dialog>
</template>

<style scoped>
.keep {
  display: grid;
  grid-template-columns: auto 1fr auto;
  gap: 8px;
  align-items: center;
  margin: 14px 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 50vh;
  overflow: auto;
}
ul > li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  border-top: 1px solid var(--hairline);
  padding: 8px 0;
}
.since {
  flex-basis: 100%;
}
ol {
  margin: 0;
  padding-left: 20px;
  max-height: 30vh;
  overflow: auto;
}
ol button {
  border: 0;
  background: none;
  padding: 2px 4px;
  text-align: left;
  text-decoration: underline;
  white-space: pre-line;
  cursor: pointer;
}
.does {
  display: flex;
}
.seen {
  margin-left: 8px;
  padding: 1px 8px;
  border-radius: 9px;
  background: #e6eee0;
  color: #2f4b22;
  font-size: 13px;
}
.what {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}
</style>
