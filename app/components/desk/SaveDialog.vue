<script setup lang="ts">
import { errorMessage } from '#core/text/error-message'
import { formatTimecode } from '#core/time/timecode'
import { saveArchive } from '~/services/archive'
import { saveForms, saveResult, saveStill, type SaveOptions } from '~/services/saving'
import { useDesk } from '~/stores/desk'
import { JobCancelled, useJobs } from '~/stores/jobs'

/** Saves the result as files of the person's own. */
const emit = defineEmits<{ close: [] }>()
const desk = useDesk()
const jobs = useJobs()
const format = ref<SaveOptions['format'] | 'archive'>('mp4')
const captions = ref<SaveOptions['captions']>('beside')
const links = ref(true)
const hasCaptions = computed(() => (desk.captions?.cues.length ?? 0) > 0)
const hasLinks = computed(() => (desk.links?.links.length ?? 0) > 0)
const form = computed(() => saveForms.find((f) => f.format === format.value))
const takes = computed(() => form.value?.takesCaptions ?? false)
/** Whether all of the picture is encoded, which takes its time. */
const isBurnt = computed(() => takes.value && hasCaptions.value && captions.value === 'burnt')
const busy = ref(false)
const problem = ref('')

/** Runs a job and says what came of it, also when the dialog is closed meanwhile. */
async function run(job: () => Promise<string>): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    ElMessage.success(await job())
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
const save = () =>
  run(async () => {
    await desk.flush()
    const { parts } = desk
    if (!parts) throw new Error('This lecture is not there any more.')
    if (format.value === 'archive') return `Saved “${await saveArchive(parts.lecture.id, jobs)}”.`
    const wanted = takes.value && hasCaptions.value ? captions.value : 'none'
    const { name, note } = await saveResult(
      parts,
      { format: format.value, captions: wanted, links: Boolean(form.value?.seen) && links.value },
      jobs,
    )
    return [`Saved “${name}”.`, note].filter(Boolean).join(' ')
  })
const savePicture = () =>
  run(async () => {
    await desk.flush()
    const { parts } = desk
    if (!parts) throw new Error('This lecture is not there any more.')
    return `Saved “${await saveStill(parts, desk.time, jobs)}”.`
  })
</script>

<template>
  <el-dialog :model-value="true" title="Save as a file" width="min(520px, 94vw)" @close="emit('close')">
    <p v-if="format === 'archive'" class="quiet">
      The recordings, the edit, captions, questions, revisions and what can be undone, for Thaw in another browser to
      open.
    </p>
    <p v-else class="quiet">
      What is saved is the lecture as it stands here, in one frame. Questions are not asked in a file, and links cannot
      be pressed.
    </p>
    <p>
      <label
        >As
        <el-select v-model="format" aria-label="Form of the file"
          ><el-option v-for="f in saveForms" :key="f.format" :value="f.format" :label="f.name" /><el-option
            value="archive"
            label="The whole lecture, to go on with elsewhere (ZIP)" /></el-select
      ></label>
    </p>
    <el-radio-group v-if="takes && hasCaptions" v-model="captions" aria-label="Captions of the file">
      <el-radio value="beside">Captions and chapters beside it, zipped</el-radio
      ><el-radio value="inside">Captions inside, to be switched on and off</el-radio
      ><el-radio value="burnt">Captions in the picture, always shown</el-radio
      ><el-radio value="none">No captions</el-radio>
    </el-radio-group>
    <el-checkbox v-if="form?.seen && hasLinks" v-model="links">Link cards in the picture</el-checkbox>
    <p v-if="isBurnt" class="quiet">
      The picture is encoded anew wherever there are captions: this takes about half as long as the lecture lasts.
    </p>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-if="busy" class="quiet" role="status">It is being made; how far it is stands under Jobs.</p>
    <template #footer>
      <el-button v-if="desk.map.length > 0" :disabled="busy" @click="savePicture"
        >Save the picture at {{ formatTimecode(desk.time, 1) }}</el-button
      >
      <el-button type="primary" :loading="busy" @click="save">Save</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
label {
  display: flex;
  align-items: center;
  gap: 10px;
}
.el-radio-group {
  display: grid;
  justify-items: start;
}
</style>
