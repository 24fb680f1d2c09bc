<script setup lang="ts">
import { errorMessage } from '#core/text/error-message'
import { copyLecture, deleteLecture } from '~/services/lectures'
import { useDesk } from '~/stores/desk'
import { useJobs } from '~/stores/jobs'

const emit = defineEmits<{ close: [] }>()
const desk = useDesk()
const jobs = useJobs()
async function copy(): Promise<void> {
  const lecture = desk.lecture
  if (!lecture) return
  try {
    await desk.flush()
    const id = await copyLecture(lecture.id, `Copy of ${lecture.title}`.slice(0, 300))
    emit('close')
    await navigateTo(`/lecture/${id}`)
    ElMessage.success('This is the copy. It shares the recording; everything else is its own.')
  } catch (error) {
    ElMessage({ type: 'error', duration: 0, showClose: true, message: errorMessage(error) })
  }
}
async function remove(): Promise<void> {
  const lecture = desk.lecture
  if (!lecture) return
  const published = desk.parts?.release ? ' What was published stays on the course page.' : ''
  const sure = await ElMessageBox.confirm(
    `The recording, its edit, captions and questions are deleted from this browser for good.${published}`,
    `Delete “${lecture.title}”?`,
    {
      confirmButtonText: 'Delete it',
      cancelButtonText: 'Keep it',
      confirmButtonClass: 'el-button--danger',
      type: 'warning',
    },
  ).then(
    () => true,
    () => false,
  )
  if (!sure) return
  // Deleted before the page is left: whoever closes the tab on the term has seen it gone.
  await jobs.cancelOf(lecture.id)
  await deleteLecture(lecture.id)
  await navigateTo('/')
}
</script>

<template>
  <el-dialog v-if="desk.lecture" :model-value="true" title="Particulars" width="560px" @close="emit('close')">
    <ParticularsForm :lecture="desk.lecture" @change="desk.describe($event)" />
    <FeedFiles v-if="desk.recording" :title="desk.lecture.title" :takes="desk.takes" class="files" />
    <template #footer>
      <div class="foot">
        <el-button type="danger" plain @click="remove">Delete this lecture</el-button
        ><el-button @click="copy">Copy this lecture</el-button
        ><el-button type="primary" @click="emit('close')">Done</el-button>
      </div>
    </template>
  </el-dialog>
</template>

<style scoped>
.files {
  margin-top: 18px;
}
.foot {
  flex-wrap: wrap;
  row-gap: 8px;
  display: flex;
  justify-content: space-between;
}
</style>
