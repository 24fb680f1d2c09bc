<script setup lang="ts">
import { ElMessageBox } from 'element-plus'
import { db } from '~/db/database'
import { deleteLecture } from '~/services/lectures'
import { useDesk } from '~/stores/desk'
import { useJobs } from '~/stores/jobs'

const emit = defineEmits<{ close: [] }>()
const desk = useDesk()
const jobs = useJobs()
const courses = useLive(() => db.courses.toArray())
const course = computed(() => courses.value?.find((c) => c.id === desk.lecture?.courseId))

async function remove(): Promise<void> {
  const lecture = desk.lecture
  if (!lecture) return
  const published = desk.parts?.release ? ' What was published stays on the course page.' : ''
  const sure = await ElMessageBox.confirm(`The recording, its edit, captions and questions are deleted from this browser for good.${published}`, `Delete “${lecture.title}”?`, { confirmButtonText: 'Delete it', cancelButtonText: 'Keep it', confirmButtonClass: 'el-button--danger', type: 'warning' }).then(() => true, () => false)
  if (!sure) return
  // Deleted before the page is left: whoever closes the tab on the term has seen it gone.
  await jobs.cancelOf(lecture.id)
  await deleteLecture(lecture.id)
  await navigateTo('/')
}
</script>

<template>
  <el-dialog v-if="desk.lecture" :model-value="true" title="Particulars" width="560px" @close="emit('close')">
    <div class="grid">
      <label for="particulars-title">Title</label><el-input id="particulars-title" :model-value="desk.lecture.title" maxlength="300" @change="desk.describe({ title: String($event).trim() || desk.lecture.title })" />
      <label for="particulars-text">Description</label><el-input id="particulars-text" :model-value="desk.lecture.description" type="textarea" :rows="4" maxlength="5000" placeholder="What students find it by" @update:model-value="desk.describe({ description: $event })" />
      <label for="particulars-keywords">Keywords</label><el-input id="particulars-keywords" :model-value="desk.lecture.keywords ?? ''" maxlength="300" placeholder="separated by commas" @change="desk.describe({ keywords: $event.trim() })" />
      <label for="particulars-course">Course</label><el-select id="particulars-course" :model-value="desk.lecture.courseId" aria-label="Course" @update:model-value="desk.describe({ courseId: $event })"><el-option v-for="c in courses" :key="c.id" :value="c.id" :label="`${c.code} ${c.title}`" /></el-select>
      <label for="particulars-week">Week</label><el-input-number id="particulars-week" :model-value="desk.lecture.week" :min="1" :max="course?.weeks ?? 60" aria-label="Week" @update:model-value="desk.describe({ week: Number($event ?? 1) })" />
    </div>
    <div class="foot"><el-button type="danger" plain @click="remove">Delete this lecture</el-button><el-button type="primary" @click="emit('close')">Done</el-button></div>
  </el-dialog>
</template>

<style scoped>
.grid { display: grid; grid-template-columns: 110px minmax(0, 1fr); gap: 10px; align-items: start; } label { color: var(--quiet); font-size: 14px; padding-top: 7px; }
.foot { display: flex; justify-content: space-between; margin-top: 20px; }
</style>
