<script setup lang="ts">
import { errorMessage } from '#core/text/error-message'
import type { College } from '#core/schema/term'
import { accentProblem, readLogo, saveCollege } from '~/services/college'

/** The college's name, logo and accent colour. */
const props = defineProps<{ college: College }>()
const emit = defineEmits<{ close: [] }>()
const { focusFirst } = useFirstField()
/** Thaw's own. */
const TARN = '#1b4b57'
const draft = reactive<College>({ ...props.college })
const failure = ref('')
const problem = computed(() => (draft.accent ? accentProblem(draft.accent) : ''))

async function choose(files: FileList | null): Promise<void> {
  const [file] = files ?? []
  if (!file) return
  try {
    failure.value = ''
    draft.logo = await readLogo(file)
  } catch (error) {
    failure.value = errorMessage(error)
  }
}
async function save(): Promise<void> {
  if (problem.value) return
  try {
    await saveCollege({ ...toRaw(draft), name: draft.name.trim() })
    emit('close')
  } catch (error) {
    failure.value = errorMessage(error)
  }
}
</script>

<template>
  <el-dialog
    :model-value="true"
    title="Your college"
    width="min(480px, 96vw)"
    append-to-body
    @open-auto-focus="focusFirst"
    @close="emit('close')"
  >
    <form class="grid" @submit.prevent="save">
      <label for="college-name">Name</label
      ><el-input
        id="college-name"
        ref="first"
        v-model="draft.name"
        maxlength="80"
        placeholder="as it stands above every page"
      />
      <span class="label">Logo</span>
      <div class="row">
        <img v-if="draft.logo" :src="draft.logo" alt="The logo" />
        <label class="file"
          ><input
            type="file"
            class="unseen"
            accept="image/png,image/jpeg,image/svg+xml,image/webp"
            aria-label="Choose a logo"
            @change="choose(($event.target as HTMLInputElement).files)"
          />{{ draft.logo ? 'Choose another' : 'Choose a picture' }}</label
        >
        <el-button v-if="draft.logo" text size="small" @click="draft.logo = null">Remove</el-button>
      </div>
      <label for="college-accent">Accent colour</label>
      <div class="row">
        <input
          id="college-accent"
          type="color"
          :value="draft.accent ?? TARN"
          @input="draft.accent = ($event.target as HTMLInputElement).value"
        />
        <span class="sample" :style="{ background: draft.accent ?? TARN }">Publish</span>
        <el-button v-if="draft.accent" text size="small" @click="draft.accent = null">Thaw’s own</el-button>
      </div>
    </form>
    <p v-if="problem || failure" class="notice bad" role="alert">{{ problem || failure }}</p>
    <p class="quiet">Shown to you above every page. What is published to students is not changed.</p>
    <template #footer
      ><el-button @click="emit('close')">Cancel</el-button
      ><el-button type="primary" :disabled="!!problem" @click="save">Save</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  gap: 12px;
  align-items: center;
}
.grid > label,
.label {
  color: var(--quiet);
  font-size: 14px;
}
.row {
  display: flex;
  gap: 12px;
  align-items: center;
}
img {
  max-height: 40px;
  max-width: 160px;
}
.file {
  padding: 5px 12px;
  border: 1px solid var(--el-border-color);
  border-radius: var(--control-radius);
  cursor: pointer;
}
.file:hover {
  background: var(--snow);
}
.file:focus-within {
  outline: 3px solid var(--marigold);
  outline-offset: 2px;
}
.sample {
  color: #fff;
  padding: 6px 14px;
  border-radius: var(--control-radius);
}
input[type='color'] {
  width: 46px;
  height: 32px;
  padding: 2px;
  border: 1px solid var(--el-border-color);
  border-radius: var(--control-radius);
  background: var(--paper);
  cursor: pointer;
}
p.quiet {
  margin: 14px 0 0;
}
</style>
