<script setup lang="ts">
import { format } from 'date-fns'
import { errorMessage } from '#core/text/error-message'
import type { RevisionRow } from '~/db/database'
import { bringBack, deleteRevision, differencesSince, keepRevision, revisionsOf } from '~/services/revisions'
import type { Difference } from '#core/documents/differences'
import { recorded } from '#core/time/units'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'
import { useDesk } from '~/stores/desk'

const emit = defineEmits<{ close: [] }>()
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const name = ref('')
const problem = ref('')
const lectureId = desk.lecture?.id ?? ''
const revisions = useLive(() => revisionsOf(lectureId))

/** Does it once all that was typed is stored; what goes wrong is said, and the dialog stays. */
async function attempt(act: () => Promise<void>): Promise<boolean> {
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

/** What was changed since the revision that is compared. */
const compared = shallowRef<{ id: string; found: Difference[] } | null>(null)
const kindNames = {
  edit: 'Edit',
  captions: 'Captions',
  chapters: 'Chapters',
  links: 'Link cards',
  questions: 'Questions',
}
async function compare({ id }: RevisionRow): Promise<void> {
  if (compared.value?.id === id) compared.value = null
  else
    await attempt(async () => {
      compared.value = { id, found: await differencesSince(id) }
    })
}
function show({ at }: Difference): void {
  if (at === null) return
  media.seekRecorded(recorded(at))
  emit('close')
}

async function goBack(revision: RevisionRow): Promise<void> {
  if (!(await attempt(() => bringBack(revision.id)))) return
  await desk.refresh()
  ElMessage.success(`The lecture is as it was in “${revision.name}”. Undo takes that back, step by step.`)
  emit('close')
}
</script>

<template>
  <el-dialog :model-value="true" title="Revisions" width="560px" top="8vh" @close="emit('close')">
    <p class="quiet">
      A revision keeps the edit, captions, questions, chapters and links as they are now. Going back to one is a step
      that can be undone; the recording is never changed.
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
          ><br /><span class="quiet">{{ format(new Date(revision.madeAt), 'd MMMM yyyy, HH:mm') }}</span></span
        >
        <el-button
          text
          :aria-label="`What differs from ${revision.name}`"
          :aria-expanded="compared?.id === revision.id"
          @click="compare(revision)"
          >What differs</el-button
        >
        <el-button :aria-label="`Go back to ${revision.name}`" @click="goBack(revision)">Go back to it</el-button>
        <el-button text :aria-label="`Delete ${revision.name}`" @click="attempt(() => deleteRevision(revision.id))"
          >Delete</el-button
        >
        <div v-if="compared?.id === revision.id" class="since">
          <p v-if="compared.found.length === 0" class="quiet">Nothing was changed since.</p>
          <ol v-else :aria-label="`Changed since ${revision.name}`">
            <li v-for="(d, i) in compared.found" :key="i">
              <span class="quiet">{{ kindNames[d.kind] }}, {{ d.how }}:</span>
              <button v-if="d.at !== null" type="button" title="Go there" @click="show(d)">
                {{ d.says }}</button><template v-else> {{ d.says }}</template>
            </li>
          </ol>
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
.what {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}
</style>
