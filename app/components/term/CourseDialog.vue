<script setup lang="ts">
import type { Course } from '#core/schema/lecture'
import { db } from '~/db/database'
import { storing } from '~/db/files'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { wordsOf } from '~/services/words'
import { sayMeetings } from '~/utils/term-words'

/** What holds for all lectures of a course. Every change is kept as it is made. */
const props = defineProps<{ courseId: string }>()
const emit = defineEmits<{ close: [] }>()
const course = useLive(() => db.courses.get(props.courseId), [() => props.courseId])
const words = useLive(() => wordsOf(props.courseId), [() => props.courseId])
const term = useLive(() => db.terms.get(course.value?.termId ?? ''), [() => course.value?.termId])
const facts = computed(() =>
  [term.value?.name, course.value?.lecturer, sayMeetings(course.value?.meetings)].filter(Boolean).join(' · '),
)
const editing = ref(false)
const problem = ref('')
async function change(changes: Partial<Course>): Promise<void> {
  try {
    problem.value = ''
    await storing(() => db.courses.update(props.courseId, changes))
  } catch (error) {
    problem.value = errorMessage(error)
  }
}
</script>

<template>
  <el-dialog
    v-if="course"
    :model-value="true"
    :title="`${course.code} ${course.title}`"
    width="min(520px, 94vw)"
    @close="emit('close')"
  >
    <p class="facts">
      <span class="quiet">{{ facts }}</span>
      <el-button size="small" @click="editing = true">Edit the course …</el-button>
    </p>
    <h3>Captions</h3>
    <div class="row">
      <span>What is spoken in its lectures</span
      ><LanguageField
        :model-value="course.language ?? 'en'"
        label="Language of the course"
        @update:model-value="change({ language: $event })"
      />
    </div>
    <el-checkbox
      :model-value="course.draftsOnArrival ?? true"
      @update:model-value="change({ draftsOnArrival: $event === true })"
      >Captions are drafted as soon as a recording has come</el-checkbox
    >
    <p class="quiet">
      From the speech, where the server has a recogniser for the language. Students do not see a draft.
    </p>
    <el-checkbox
      :model-value="course.captionsGoOn ?? false"
      @update:model-value="change({ captionsGoOn: $event === true })"
      >Checked captions go on by themselves</el-checkbox
    >
    <p class="quiet">
      Then students see captions as soon as somebody has marked them as checked, also in lectures that are published
      already.
    </p>
    <p class="words">
      <NuxtLink :to="`/words/${courseId}`">Word list</NuxtLink>
      <span class="quiet"
        >{{ sayCount(words?.length ?? 0, 'word', 'words') }} of the subject that the recogniser listens for</span
      >
    </p>
    <p class="words">
      <NuxtLink :to="`/orders/${courseId}`">Caption orders</NuxtLink>
      <span class="quiet">what a captioning service types, by when, and what it costs</span>
    </p>
    <CourseSiteSection :course="course" />
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <LazyCourseForm v-if="editing" :course="course" :title="`Edit ${course.code}`" @close="editing = false" />
    <template #footer><el-button type="primary" @click="emit('close')">Done</el-button></template>
  </el-dialog>
</template>

<style scoped>
h3 {
  margin: 0 0 8px;
  font-size: 16px;
}
.facts {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  margin: 0 0 12px;
}
.row {
  display: grid;
  grid-template-columns: 1fr 200px;
  gap: 12px;
  align-items: center;
  margin-bottom: 6px;
}
.words {
  display: flex;
  gap: 10px;
  align-items: baseline;
  margin: 14px 0 0;
}
p.quiet {
  margin: 2px 0 0;
}
</style>
