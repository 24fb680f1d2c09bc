<script setup lang="ts">
import { Copy, Plus, Trash2 } from 'lucide-vue-next'
import { errorMessage } from '#core/text/error-message'
import { db } from '~/db/database'
import { addSet, copySet, deleteSet } from '~/services/question-sets'
import { useDesk } from '~/stores/desk'

/** Which set of questions is open; more of them, away with one, or a copy of it in another lecture. */
const desk = useDesk()
const doing = ref<'add' | 'copy' | null>(null)
const title = ref('')
const other = ref('')
const problem = ref('')
const says = ref('')
const lectures = useLive(async () => {
  const courses = new Map((await db.courses.toArray()).map((c) => [c.id, c.code]))
  return (await db.lectures.toArray())
    .filter((l) => l.id !== desk.lecture?.id)
    .map((l) => ({ id: l.id, says: `${courses.get(l.courseId) ?? ''} ${l.title}`.trim() }))
    .sort((a, b) => a.says.localeCompare(b.says))
}, [() => desk.lecture?.id])

async function act(what: () => Promise<unknown>): Promise<void> {
  problem.value = says.value = ''
  try {
    await desk.flush()
    await what()
    doing.value = null
  } catch (error) {
    problem.value = errorMessage(error)
  }
  await desk.refresh()
}
const add = () =>
  act(async () => {
    const name = await addSet(desk.lecture?.id ?? '', title.value.trim())
    title.value = ''
    await desk.refresh()
    desk.set = name
  })
const copy = () =>
  act(async () => {
    const late = await copySet(desk.lecture?.id ?? '', desk.set, other.value)
    const to = lectures.value?.find((l) => l.id === other.value)?.says ?? 'the other lecture'
    says.value = `Copied to “${to}”.${late ? ` ${late === 1 ? 'One question stood' : `${late} questions stood`} later than it is long, and ${late === 1 ? 'is' : 'are'} asked at its end.` : ''}`
  })
async function remove(): Promise<void> {
  const sure = await ElMessageBox.confirm(
    'Its questions go, with what was done to them. Answers that were given stay, and revisions that were kept still have it.',
    `Delete “${desk.questions?.title}”?`,
    { confirmButtonText: 'Delete it', cancelButtonText: 'Leave it' },
  ).catch(() => null)
  if (sure) await act(() => deleteSet(desk.lecture?.id ?? '', desk.set))
}
const rename = (to: string) => {
  const set = desk.questions
  if (set && to.trim() && to !== set.title)
    void desk.changeQuestions({ ...set, title: to.trim() }, { says: `Called it “${to.trim()}”`, field: 'title' })
}
</script>

<template>
  <div class="sets">
    <div v-if="desk.questions" class="which">
      <el-select v-if="desk.sets.length > 1" v-model="desk.set" aria-label="Set of questions">
        <el-option
          v-for="s in desk.sets"
          :key="s.name"
          :value="s.name"
          :label="`${s.document.title} (${s.document.checkpoints.length})`"
        />
      </el-select>
      <el-input
        v-else
        :model-value="desk.questions.title"
        maxlength="300"
        aria-label="Title of this set"
        @update:model-value="rename"
      />
      <el-button-group>
        <el-button size="small" :aria-expanded="doing === 'add'" @click="doing = doing === 'add' ? null : 'add'"
          ><Plus :size="14" aria-hidden="true" /> Another set</el-button
        ><el-button
          size="small"
          aria-label="Copy this set to another lecture"
          :aria-expanded="doing === 'copy'"
          @click="doing = doing === 'copy' ? null : 'copy'"
          ><Copy :size="14" aria-hidden="true" /></el-button
        ><el-button v-if="desk.sets.length > 1" size="small" aria-label="Delete this set" @click="remove"
          ><Trash2 :size="14" aria-hidden="true"
        /></el-button>
      </el-button-group>
    </div>
    <el-input
      v-if="desk.questions && desk.sets.length > 1"
      :model-value="desk.questions.title"
      maxlength="300"
      aria-label="Title of this set"
      @update:model-value="rename"
    />
    <form v-if="doing === 'add'" class="row" aria-label="Another set" @submit.prevent="add">
      <el-input v-model="title" maxlength="300" placeholder="What it is called" aria-label="Title of the new set" />
      <el-button native-type="submit" type="primary" :disabled="!title.trim()">Begin it</el-button>
    </form>
    <form v-else-if="doing === 'copy'" class="row" aria-label="Copy to another lecture" @submit.prevent="copy">
      <el-select v-model="other" filterable placeholder="To which lecture" aria-label="To which lecture">
        <el-option v-for="l in lectures" :key="l.id" :value="l.id" :label="l.says" />
      </el-select>
      <el-button native-type="submit" type="primary" :disabled="!other">Copy it</el-button>
    </form>
    <p v-if="says" class="notice good" role="status">{{ says }}</p>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.sets {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.which,
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.which > :first-child,
.row > :first-child {
  flex: 1;
}
.which .el-button-group {
  display: flex;
  flex: none;
}
.notice {
  margin: 0;
}
</style>
