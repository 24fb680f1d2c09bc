<script setup lang="ts">
import { foldersOf, readFolder, sayWhere } from '#core/library/folders'
import { sayLanguage } from '#core/captions/languages'
import { copyrightNotice, licences } from '#core/library/rights'
import type { Lecture, Rights } from '#core/schema/lecture'
import { countWeeks } from '#core/course/term'
import { db } from '~/db/database'
import type { Particulars } from '~/services/lectures'
import { openCourses } from '~/services/terms'

/** What a lecture is and where it goes. Every change is given out as it is made. */
const props = defineProps<{ lecture: Lecture }>()
const emit = defineEmits<{ change: [Partial<Particulars>] }>()
// An input of Element Plus shows only what its model says, so that what is being typed needs one.
const title = ref(props.lecture.title)
const description = ref(props.lecture.description)
const keywords = ref(props.lecture.keywords ?? '')
const lecturer = ref(props.lecture.lecturer ?? '')
watch(
  () => props.lecture.title,
  (t) => {
    title.value = t
  },
)
function rename(): void {
  title.value = title.value.trim() || props.lecture.title
  emit('change', { title: title.value })
}
const rights = reactive<Rights>({
  owner: '',
  year: new Date(props.lecture.createdAt).getFullYear(),
  licence: licences[0],
  attribution: '',
  ...props.lecture.rights,
})
function changeRights(): void {
  rights.year ||= new Date(props.lecture.createdAt).getFullYear()
  emit('change', { rights: { ...rights, owner: rights.owner.trim(), licence: rights.licence.slice(0, 100) } })
}
const courses = useLive(() => openCourses(props.lecture.courseId), [() => props.lecture.courseId])
const chosen = computed(() => courses.value?.find((c) => c.course.id === props.lecture.courseId))
const course = computed(() => chosen.value?.course)
const others = useLive(() => db.lectures.where('id').notEqual(props.lecture.id).toArray())
const folders = computed(() => foldersOf(others.value ?? [], props.lecture.courseId))
const folder = ref(props.lecture.folder ?? '')
watch(
  () => props.lecture.folder,
  (f) => {
    folder.value = f ?? ''
  },
)
function putInto(typed: string): void {
  folder.value = readFolder(typed, folders.value)
  emit('change', { folder: folder.value })
}
/** A week that the new course does not have becomes its last, and a folder that it does not have the course itself. */
function goTo(courseId = ''): void {
  const term = courses.value?.find((c) => c.course.id === courseId)?.term
  const weeks = term ? countWeeks(term) : 60
  emit('change', {
    courseId,
    week: Math.min(weeks, props.lecture.week),
    folder: foldersOf(others.value ?? [], courseId).includes(folder.value) ? folder.value : '',
  })
}
</script>

<template>
  <div class="grid">
    <label for="particulars-title">Title</label
    ><el-input id="particulars-title" v-model="title" maxlength="300" @change="rename" />
    <label for="particulars-text">Description</label
    ><el-input
      id="particulars-text"
      v-model="description"
      type="textarea"
      :rows="2"
      maxlength="5000"
      placeholder="What students find it by"
      @input="emit('change', { description })"
    />
    <span>Language</span
    ><LanguageField
      :model-value="lecture.language ?? ''"
      label="Language that is spoken"
      :none="`As the course: ${sayLanguage(course?.language ?? 'en')}`"
      @update:model-value="emit('change', { language: $event || undefined })"
    />
    <label for="particulars-keywords">Keywords</label
    ><el-input
      id="particulars-keywords"
      v-model="keywords"
      maxlength="300"
      placeholder="separated by commas"
      @change="emit('change', { keywords: keywords.trim() })"
    />
    <label for="particulars-lecturer">Lecturer</label
    ><el-input
      id="particulars-lecturer"
      v-model="lecturer"
      maxlength="200"
      :placeholder="course?.lecturer ?? 'as cards are to name them'"
      @change="emit('change', { lecturer: lecturer.trim() })"
    />
    <label for="particulars-course">Course</label
    ><el-select
      id="particulars-course"
      :model-value="lecture.courseId || undefined"
      aria-label="Course"
      placeholder="In no course yet"
      clearable
      :empty-values="[null, undefined]"
      @update:model-value="goTo"
      ><el-option v-for="c in courses" :key="c.course.id" :value="c.course.id" :label="c.says"
    /></el-select>
    <label v-if="chosen" for="particulars-week">Week</label
    ><el-input-number
      v-if="chosen"
      id="particulars-week"
      :model-value="lecture.week"
      :min="1"
      :max="countWeeks(chosen.term)"
      aria-label="Week"
      @update:model-value="emit('change', { week: Number($event ?? 1) })"
    />
    <label for="particulars-folder">Folder</label
    ><el-input
      id="particulars-folder"
      v-model="folder"
      list="particulars-folders"
      maxlength="300"
      placeholder="none; or a name, or names between slashes"
      @change="putInto"
    />
    <datalist id="particulars-folders"><option v-for="f in folders" :key="f" :value="f" /></datalist>
    <span class="group">Rights</span>
    <details class="fold">
      <summary>
        {{ rights.owner.trim() ? copyrightNotice(rights).split('\n').slice(0, 2).join(' · ') : 'Not said yet' }}
      </summary>
      <div class="rights" role="group" aria-label="Rights">
        <label for="rights-owner">Owner</label
        ><el-input id="rights-owner" v-model="rights.owner" maxlength="200" @change="changeRights" />
        <label for="rights-year">Year</label
        ><el-input-number
          id="rights-year"
          v-model="rights.year"
          :min="1900"
          :max="2200"
          :step="1"
          step-strictly
          aria-label="Year"
          @change="changeRights"
        />
        <label for="rights-licence">Licence</label
        ><el-select
          id="rights-licence"
          v-model="rights.licence"
          filterable
          allow-create
          default-first-option
          aria-label="Licence"
          @change="changeRights"
          ><el-option v-for="l in licences" :key="l" :value="l" :label="l"
        /></el-select>
        <label for="rights-attribution">To be named</label
        ><el-input
          id="rights-attribution"
          v-model="rights.attribution"
          type="textarea"
          :rows="2"
          maxlength="500"
          placeholder="Such as where pictures are from"
          @change="changeRights"
        />
      </div>
    </details>
    <p v-if="course" class="where">“{{ lecture.title }}” goes to {{ sayWhere(course, lecture) }}.</p>
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr);
  gap: 10px;
  align-items: start;
}
label {
  color: var(--quiet);
  font-size: 14px;
  padding-top: 7px;
}
.group {
  color: var(--quiet);
  font-size: 14px;
  padding-top: 7px;
}
.fold {
  padding-top: 7px;
}
.rights {
  display: grid;
  margin-top: 8px;
  grid-template-columns: 90px minmax(0, 1fr);
  gap: 6px;
  border-left: 2px solid var(--hairline);
  padding-left: 12px;
}
.where {
  grid-column: 2;
  margin: 0;
}
/* The browser's own arrow of a list of suggestions hangs below the line of text. */
:deep(input::-webkit-calendar-picker-indicator) {
  position: relative;
  top: -7px;
  opacity: 0.6;
}
</style>
