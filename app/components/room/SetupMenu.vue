<script setup lang="ts">
import type { Setup } from '#core/schema/setup'
import { newId } from '~/services/ids'
import { deleteSetup, keepSetup, loadSetups, makeUsual } from '~/services/setups'

/** Saved settings: loaded, kept under a name, renamed, deleted, and one of them the room's own. */
const props = defineProps<{ present: () => Pick<Setup, 'inputs' | 'countdown' | 'pausing'>; locked: boolean }>()
const emit = defineEmits<{ load: [Setup] }>()
const kept = useLive(loadSetups)
const chosen = ref('')
const current = computed(() => kept.value?.setups.find((s) => s.id === chosen.value))
const isUsual = computed(() => chosen.value !== '' && kept.value?.usual === chosen.value)

// The room opens with the setup that was made its own.
const stop = watch(kept, (found) => {
  if (!found) return
  const usual = found.setups.find((s) => s.id === found.usual)
  if (usual) choose(usual.id)
  stop()
})
function choose(id: string): void {
  chosen.value = id
  if (current.value) emit('load', current.value)
}
const ask = (title: string, value: string) =>
  ElMessageBox.prompt('A setup of the same name is replaced.', title, {
    inputValue: value,
    confirmButtonText: 'Keep it',
    cancelButtonText: 'Not now',
    inputPattern: /^(?=.*\S).{1,80}$/,
    inputErrorMessage: 'A name of 1 to 80 letters, please.',
  }).then(
    (answer) => (answer as { value: string }).value.trim(),
    () => null,
  )

async function keep(): Promise<void> {
  const name = await ask('Keep these settings as', current.value?.name ?? '')
  if (!name) return
  const setup = await keepSetup({ format: 'thaw-setup', version: 1, id: newId(), name, ...props.present() })
  chosen.value = setup.id
  ElMessage.success(`“${name}” is kept. It can be loaded before any recording.`)
}
async function rename(): Promise<void> {
  const setup = current.value
  const name = setup && (await ask('Rename the setup', setup.name))
  if (!setup || !name || name === setup.name) return
  const renamed = await keepSetup({ ...setup, name })
  if (renamed.id !== setup.id) await deleteSetup(setup.id)
  chosen.value = renamed.id
}
async function drop(): Promise<void> {
  const setup = current.value
  if (
    !setup ||
    !(await ElMessageBox.confirm('The recordings made with it stay as they are.', `Delete “${setup.name}”?`, {
      confirmButtonText: 'Delete it',
      cancelButtonText: 'Keep it',
      type: 'warning',
    }).then(
      () => true,
      () => false,
    ))
  )
    return
  await deleteSetup(setup.id)
  chosen.value = ''
}
function act(what: string): void {
  if (what === 'keep') void keep()
  else if (what === 'rename') void rename()
  else if (what === 'delete') void drop()
  else void makeUsual(isUsual.value ? '' : chosen.value)
}
</script>

<template>
  <div class="setup">
    <el-select
      :model-value="chosen"
      aria-label="Setup"
      :disabled="locked"
      placeholder="No setup"
      @update:model-value="choose"
    >
      <el-option
        v-for="s in kept?.setups"
        :key="s.id"
        :value="s.id"
        :label="s.id === kept?.usual ? `${s.name} (opens with the room)` : s.name"
      />
    </el-select>
    <el-dropdown trigger="click" :disabled="locked" @command="act">
      <el-button :disabled="locked">Setup …</el-button>
      <template #dropdown>
        <el-dropdown-menu>
          <el-dropdown-item command="keep">Keep these settings …</el-dropdown-item>
          <el-dropdown-item command="rename" :disabled="!current">Rename …</el-dropdown-item>
          <el-dropdown-item command="usual" :disabled="!current">{{
            isUsual ? 'Do not open the room with it' : 'Open the room with it'
          }}</el-dropdown-item>
          <el-dropdown-item command="delete" :disabled="!current" divided>Delete …</el-dropdown-item>
        </el-dropdown-menu>
      </template>
    </el-dropdown>
    <p v-for="b in kept?.broken" :key="b" class="notice bad" role="alert">{{ b }}</p>
  </div>
</template>

<style scoped>
.setup {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 8px;
}
.notice {
  grid-column: 1 / -1;
  margin: 0;
}
</style>
