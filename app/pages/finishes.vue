<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { FolderOpen, Plus } from 'lucide-vue-next'
import { newFinish } from '#core/edit/finish'
import type { Finish } from '#core/schema/finish'
import { errorMessage } from '#core/text/error-message'
import { deleteFinish, finishes, openFinish, saveFinish, storeFinish } from '~/services/finishes'
import { newId } from '~/services/ids'
import { JobCancelled, useJobs } from '~/stores/jobs'

/** Finishes: what many lectures have alike, made here and put on them from the term or the desk. */
useHead({ title: 'Finishes · Thaw' })
const jobs = useJobs()
const all = useLive(finishes)
const chosen = ref('')
const problem = ref('')
const input = useTemplateRef<HTMLInputElement>('input')
/** The one that is being changed, as it is here; what it is stored from. */
const own = shallowRef<Finish | null>(null)
/** What is written is stored at once; what is written meanwhile, right after. */
let unsaved = false
let writing: Promise<void> | null = null
async function write(): Promise<void> {
  while (unsaved && own.value) {
    unsaved = false
    await attempt(storeFinish(own.value))
  }
  writing = null
}
function change(next: Finish): void {
  own.value = next
  unsaved = true
  writing ??= write()
}
// What was chosen may not be read yet; what another tab changes is taken over, unless something is being written here.
watch(
  [all, chosen],
  ([found]) => {
    const of = (id: string | undefined) => found?.find((f) => f.id === id)
    const next = of(chosen.value) ?? of(own.value?.id) ?? found?.[0] ?? null
    if (next?.id !== own.value?.id || (!unsaved && !writing)) own.value = next
  },
  { immediate: true },
)
const flush = () => writing ?? Promise.resolve()
onBeforeRouteLeave(() => flush())
// A page that is loaded anew at once would cut the write off.
useEventListener('beforeunload', (event) => {
  if (unsaved || writing) event.preventDefault()
})

async function attempt<T>(work: Promise<T>): Promise<T | undefined> {
  problem.value = ''
  try {
    return await work
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
    return undefined
  }
}
async function choose(id: string): Promise<void> {
  await flush()
  chosen.value = id
}
async function add(): Promise<void> {
  const finish = newFinish(newId(), `Finish ${(all.value?.length ?? 0) + 1}`)
  await flush()
  await attempt(storeFinish(finish))
  chosen.value = finish.id
}
async function open(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const [file] = field.files ?? []
  const id = file && (await attempt(openFinish(file, jobs)))
  field.value = ''
  if (id) await choose(id)
}
async function save(): Promise<void> {
  await flush()
  const name = own.value && (await attempt(saveFinish(own.value)))
  if (name) ElMessage.success(`Saved “${name}”.`)
}
async function remove(finish: Finish): Promise<void> {
  const sure = await ElMessageBox.confirm('What it was put on stays as it is.', `Delete “${finish.name}”?`, {
    confirmButtonText: 'Delete it',
    cancelButtonText: 'Keep it',
  }).catch(() => null)
  if (!sure) return
  unsaved = false
  own.value = null
  await attempt(deleteFinish(finish.id))
}
</script>

<template>
  <div class="page">
    <div class="top">
      <div>
        <h1>Finishes</h1>
        <p class="quiet">
          Cards, a mark, sound, trims and chapters that many lectures have alike. Put one on from the term, or from a
          lecture’s desk.
        </p>
      </div>
      <span class="grow" />
      <el-button size="large" @click="input?.click()"
        ><FolderOpen :size="17" aria-hidden="true" /> Open a saved one …</el-button
      >
      <input ref="input" type="file" accept=".json,.zip" hidden aria-label="Saved finish" @change="open" />
      <el-button type="primary" size="large" @click="add"><Plus :size="18" aria-hidden="true" /> New finish</el-button>
    </div>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-if="all?.length === 0" class="surface none">
      None yet. A finish saves the tidying that is the same every week: make one, try it on a lecture, then put it on
      all of them at once.
    </p>
    <div v-else-if="own" class="both">
      <nav class="surface" aria-label="Finishes that are kept">
        <button
          v-for="f in all"
          :key="f.id"
          type="button"
          :aria-current="f.id === own.id ? 'true' : undefined"
          @click="choose(f.id)"
        >
          {{ (f.id === own.id ? own.name : f.name) || 'Without a name' }}
        </button>
      </nav>
      <div class="surface sheet">
        <FinishForm :key="own.id" :model-value="own" @update:model-value="change" />
        <div class="foot">
          <el-button type="danger" plain @click="remove(own)">Delete</el-button>
          <el-button @click="save">Save as a file</el-button>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.page {
  padding: 22px 24px;
  max-width: 1240px;
}
.top {
  display: flex;
  flex-wrap: wrap;
  align-items: start;
  gap: 12px;
  margin-bottom: 12px;
}
.top h1,
.top p {
  margin: 0;
}
.grow {
  flex: 1;
}
.none {
  padding: 22px;
}
.both {
  display: grid;
  grid-template-columns: 210px minmax(0, 1fr);
  gap: 16px;
  align-items: start;
}
nav {
  display: flex;
  flex-direction: column;
  padding: 8px;
}
nav button {
  border: 0;
  background: none;
  text-align: left;
  padding: 7px 10px;
  border-radius: var(--control-radius);
  color: var(--ink);
  cursor: pointer;
  overflow-wrap: anywhere;
}
nav button:hover {
  background: var(--snow);
}
nav [aria-current] {
  background: var(--tarn-wash);
  color: var(--tarn-deep);
  font-weight: 600;
}
.sheet {
  padding: 18px 20px;
}
.foot {
  display: flex;
  justify-content: space-between;
  border-top: 1px solid var(--hairline);
  margin-top: 16px;
  padding-top: 14px;
}
@media (max-width: 859px) {
  .both {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
