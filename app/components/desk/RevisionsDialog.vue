<script setup lang="ts">
import { format } from 'date-fns'
import { errorMessage } from '#core/text/error-message'
import type { RevisionRow } from '~/db/database'
import { bringBack, deleteRevision, keepRevision, revisionsOf } from '~/services/revisions'
import { useDesk } from '~/stores/desk'

const emit = defineEmits<{ close: [] }>()
const desk = useDesk()
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
        <el-button :aria-label="`Go back to ${revision.name}`" @click="goBack(revision)">Go back to it</el-button>
        <el-button text :aria-label="`Delete ${revision.name}`" @click="attempt(() => deleteRevision(revision.id))"
          >Delete</el-button
        >
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
li {
  display: flex;
  align-items: center;
  gap: 6px;
  border-top: 1px solid var(--hairline);
  padding: 8px 0;
}
.what {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}
</style>
