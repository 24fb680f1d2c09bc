<script setup lang="ts">
import dayjs from 'dayjs'
import { Archive, Film, Video } from 'lucide-vue-next'
import { sayWhere } from '#core/library/folders'
import { countWeeks } from '#core/course/term'
import { errorMessage } from '#core/text/error-message'
import { createLecture, deleteLecture } from '~/services/lectures'
import { openCourses } from '~/services/terms'
import { openArchive } from '~/services/archive'
import { bringIn } from '~/services/importing'
import { JobCancelled, useJobs } from '~/stores/jobs'

const props = defineProps<{ start: { courseId: string; week: number; folder: string } }>()
const emit = defineEmits<{ close: [] }>()
const jobs = useJobs()
const title = ref('')
const { focusFirst } = useFirstField()
/** None while it is in no course yet. */
const courseId = ref<string | undefined>(props.start.courseId || undefined)
const courses = useLive(() => openCourses(props.start.courseId))
const week = ref(props.start.week)
const over = ref(false)
const busy = ref('')
const problem = ref('')
/** The one it was begun in, as long as it stays in its course. */
const folder = computed(() => (courseId.value === props.start.courseId ? props.start.folder : ''))
const chosen = computed(() => courses.value?.find((c) => c.course.id === courseId.value))
const where = computed(() =>
  chosen.value
    ? `“${finalTitle.value}” goes to ${sayWhere(chosen.value.course, { week: week.value, folder: folder.value })}.`
    : `“${finalTitle.value}” goes to no course yet. You can give it one later, under Particulars.`,
)
const finalTitle = computed(() => title.value.trim() || `Lecture of ${dayjs().format('D MMMM YYYY, HH:mm')}`)

async function record(): Promise<void> {
  const id = await createLecture(courseId.value ?? '', week.value, finalTitle.value, folder.value)
  emit('close')
  await navigateTo(`/record?lecture=${id}`)
}

/** While one comes in no other is chosen; a field that were disabled for that would lose the focus. */
function mayChoose(event: Event): void {
  if (busy.value) event.preventDefault()
  // The same file may be chosen again, mended.
  else (event.target as HTMLInputElement).value = ''
}

async function take(files: FileList | null | undefined): Promise<void> {
  over.value = false
  problem.value = ''
  const [file] = files ?? []
  if (!file || busy.value) return
  busy.value = file.name
  const id = await createLecture(
    courseId.value ?? '',
    week.value,
    title.value.trim() || file.name.replace(/\.[^.]+$/, ''),
    folder.value,
  )
  try {
    const note = await bringIn(file, id, jobs)
    if (note) ElMessage({ type: 'warning', duration: 8000, showClose: true, message: note })
    emit('close')
    await navigateTo(`/lecture/${id}?step=tidied`)
  } catch (error) {
    await deleteLecture(id)
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  } finally {
    busy.value = ''
  }
}

async function open(files: FileList | null): Promise<void> {
  problem.value = ''
  const [file] = files ?? []
  if (!file || busy.value) return
  busy.value = file.name
  try {
    const { lectureId, note } = await openArchive(file, jobs)
    if (note) ElMessage({ type: 'warning', duration: 8000, showClose: true, message: note })
    emit('close')
    await navigateTo(`/lecture/${lectureId}?step=tidied`)
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  } finally {
    busy.value = ''
  }
}
</script>

<template>
  <el-dialog :model-value="true" title="New lecture" width="620px" @open-auto-focus="focusFirst" @close="emit('close')">
    <div class="grid">
      <div class="wide">
        <label for="new-title">Title</label
        ><el-input
          id="new-title"
          ref="first"
          v-model="title"
          maxlength="300"
          placeholder="left empty, the date and time"
        />
      </div>
      <div>
        <label for="new-course">Course</label
        ><el-select id="new-course" v-model="courseId" aria-label="Course" placeholder="No course yet" clearable
          ><el-option v-for="c in courses" :key="c.course.id" :value="c.course.id" :label="c.says"
        /></el-select>
      </div>
      <div v-if="chosen">
        <label for="new-week">Week</label
        ><el-input-number id="new-week" v-model="week" :min="1" :max="countWeeks(chosen.term)" />
      </div>
    </div>
    <p class="where">{{ where }}</p>
    <div class="ways">
      <button type="button" class="way" :disabled="!!busy" @click="record">
        <Video :size="26" aria-hidden="true" /><strong>Record</strong
        ><span class="quiet">Camera, screen or the hall</span>
      </button>
      <label
        class="way"
        :class="{ over, busy }"
        @dragover.prevent="over = true"
        @dragleave="over = false"
        @drop.prevent="take($event.dataTransfer?.files)"
      >
        <input
          type="file"
          class="unseen"
          accept="video/*,audio/*,.mkv"
          :aria-disabled="!!busy"
          @click="mayChoose"
          @change="take(($event.target as HTMLInputElement).files)"
        />
        <Film :size="26" aria-hidden="true" /><strong>Bring in a file</strong
        ><span class="quiet">{{ busy ? `Bringing in ${busy} …` : 'Drop a video here, or choose one' }}</span>
      </label>
      <label class="way" :class="{ busy }">
        <input
          type="file"
          class="unseen"
          accept=".zip"
          :aria-disabled="!!busy"
          @click="mayChoose"
          @change="open(($event.target as HTMLInputElement).files)"
        />
        <Archive :size="26" aria-hidden="true" /><strong>Open a saved one</strong
        ><span class="quiet">Saved whole in another browser</span>
      </label>
    </div>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }} Nothing was changed.</p>
  </el-dialog>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 170px;
  gap: 12px;
}
.wide {
  grid-column: 1 / -1;
}
label {
  display: block;
  color: var(--quiet);
  font-size: 14px;
  margin-bottom: 3px;
}
.where {
  margin: 14px 0;
}
.ways {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 12px;
}
.way {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 2px;
  padding: 22px 12px;
  background: var(--paper);
  border: 1px solid #b9c3c0;
  border-radius: var(--surface-radius);
  cursor: pointer;
  text-align: center;
  color: var(--ink);
  font-size: 16px;
  margin: 0;
}
.way:hover,
.way.over,
.way:focus-within {
  border-color: var(--tarn);
  background: var(--tarn-wash);
}
.way:focus-within {
  outline: 3px solid var(--marigold);
  outline-offset: 2px;
}
.way .quiet {
  font-size: 14px;
}
.notice {
  margin-top: 14px;
}
</style>
