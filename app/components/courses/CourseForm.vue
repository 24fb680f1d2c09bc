<script setup lang="ts">
import { Plus, Trash2 } from 'lucide-vue-next'
import { countWeeks } from '#core/course/term'
import type { Course } from '#core/schema/lecture'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { db } from '~/db/database'
import { allTerms, countBeyond, courseProblem, saveCourse } from '~/services/terms'

/** A course that is made, changed or copied: what it is called, who gives it, and when it meets. */
const props = defineProps<{ course: Course; title: string; wordsOf?: string }>()
const emit = defineEmits<{ close: [] }>()
const { focusFirst } = useFirstField()
const draft = reactive<Course & { meetings: NonNullable<Course['meetings']> }>({
  ...props.course,
  meetings: (props.course.meetings ?? []).map((m) => ({ ...m })),
})
const terms = useLive(allTerms)
const offered = computed(() => terms.value?.filter((t) => !t.archived || t.id === props.course.termId))
const beyond = useLive(async () => {
  const term = await db.terms.get(draft.termId)
  return term ? countBeyond([props.course], countWeeks(term)) : 0
}, [() => draft.termId])
const weekdays = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const failure = ref('')
const busy = ref(false)

/** A meeting as it is offered: a day after the last one, at the same times. */
function addMeeting(): void {
  const last = draft.meetings.at(-1)
  draft.meetings.push({
    weekday: ((last?.weekday ?? 0) % 7) + 1,
    from: last?.from ?? '10:00',
    to: last?.to ?? '11:30',
  })
}
async function save(): Promise<void> {
  if (busy.value) return
  busy.value = true
  try {
    const { lecturer = '', meetings, language, ...same } = toRaw(draft)
    const course: Course = {
      ...same,
      ...(lecturer.trim() && { lecturer: lecturer.trim() }),
      ...(language && { language }),
      ...(meetings.length > 0 && { meetings: meetings.map((m) => ({ ...toRaw(m) })) }),
    }
    failure.value = await courseProblem(course)
    if (failure.value) return
    await saveCourse(course, props.wordsOf)
    emit('close')
  } catch (error) {
    failure.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <el-dialog
    :model-value="true"
    :title="title"
    width="min(620px, 96vw)"
    append-to-body
    @open-auto-focus="focusFirst"
    @close="emit('close')"
  >
    <form class="grid" @submit.prevent="save">
      <label for="course-code">Code</label
      ><el-input id="course-code" ref="first" v-model="draft.code" maxlength="40" placeholder="such as BIO 101" />
      <label for="course-title">Title</label
      ><el-input id="course-title" v-model="draft.title" maxlength="300" placeholder="such as Cells and Tissues" />
      <label for="course-term">Term</label
      ><el-select id="course-term" v-model="draft.termId" aria-label="Term"
        ><el-option v-for="t in offered" :key="t.id" :value="t.id" :label="t.name"
      /></el-select>
      <label for="course-lecturer">Lecturer</label
      ><el-input id="course-lecturer" v-model="draft.lecturer" maxlength="200" placeholder="Optional" />
      <span class="label">Language</span
      ><LanguageField
        :model-value="draft.language ?? 'en'"
        label="Language that is spoken"
        @update:model-value="draft.language = $event"
      />
      <span class="label top">Meets</span>
      <div class="meetings">
        <div v-for="(m, i) in draft.meetings" :key="i" class="meeting" role="group" :aria-label="`Meeting ${i + 1}`">
          <el-select v-model="m.weekday" :aria-label="`Day of meeting ${i + 1}`"
            ><el-option v-for="(name, d) in weekdays" :key="name" :value="d + 1" :label="name"
          /></el-select>
          <input v-model="m.from" type="time" required :aria-label="`Meeting ${i + 1} from`" />
          <span>–</span>
          <input v-model="m.to" type="time" required :aria-label="`Meeting ${i + 1} to`" />
          <button
            type="button"
            class="icon"
            :aria-label="`Delete meeting ${i + 1}`"
            title="Delete this meeting"
            @click="draft.meetings.splice(i, 1)"
          >
            <Trash2 :size="16" aria-hidden="true" />
          </button>
        </div>
        <el-button size="small" :disabled="draft.meetings.length >= 14" @click="addMeeting"
          ><Plus :size="14" aria-hidden="true" /> Add a day and time</el-button
        >
      </div>
      <button type="submit" class="unseen" tabindex="-1" aria-hidden="true"></button>
    </form>
    <p v-if="beyond" class="notice">
      {{ sayCount(beyond, 'lecture is', 'lectures are') }} in later weeks than that term has, and
      {{ beyond === 1 ? 'moves' : 'move' }} to its last week.
    </p>
    <p v-if="failure" class="notice bad" role="alert">{{ failure }}</p>
    <template #footer
      ><el-button @click="emit('close')">Cancel</el-button
      ><el-button type="primary" :loading="busy" @click="save">Save</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  gap: 10px;
  align-items: center;
}
label,
.label {
  color: var(--quiet);
  font-size: 14px;
}
.top {
  align-self: start;
  padding-top: 4px;
}
.meetings {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.meeting {
  display: flex;
  gap: 6px;
  align-items: center;
}
.meeting .el-select {
  width: 150px;
}
.meeting input {
  font: inherit;
  font-size: 14px;
  padding: 4px 8px;
  border: 1px solid var(--el-border-color);
  border-radius: var(--control-radius);
  color: var(--ink);
  background: var(--paper);
}
.icon {
  border: 0;
  background: none;
  padding: 6px;
  color: var(--quiet);
  cursor: pointer;
  border-radius: 4px;
}
.icon:hover {
  background: var(--snow);
  color: var(--ink);
}
@media (max-width: 560px) {
  .grid {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
