<script setup lang="ts">
import dayjs from 'dayjs'
import { releaseState } from '#core/course/release'
import type { Place } from '#core/schema/publication'
import { countWeeks, meetingsIn } from '#core/course/term'
import { openCourses } from '~/services/terms'

/** Where a lecture stands, from when until when, and what is allowed there. */
const props = defineProps<{
  modelValue: Place
  /** Sets of questions that there are, by the ids that they are published by. */
  sets: { id: string; title: string }[]
}>()
const emit = defineEmits<{ 'update:modelValue': [place: Place]; problem: [sentence: string] }>()
const courses = useLive(() => openCourses(props.modelValue.courseId), [() => props.modelValue.courseId])
const chosen = computed(() => courses.value?.find((c) => c.course.id === props.modelValue.courseId))
const change = (patch: Partial<Place>) => emit('update:modelValue', { ...props.modelValue, ...patch })

/** When the course meets in that week: students often see a lecture from then on. */
const classes = computed(() =>
  chosen.value ? meetingsIn(chosen.value.term, chosen.value.course.meetings ?? [], props.modelValue.week) : [],
)
const sayTime = (instant: string) => dayjs(instant).format('ddd D MMM, HH:mm')
/** The same instant where the term is, if clocks show another time there. */
const sayThere = computed(() => {
  const { timeZone } = chosen.value?.term ?? {}
  if (!timeZone) return ''
  const at = (zone?: string) =>
    new Intl.DateTimeFormat('en-GB', {
      ...{ timeZone: zone, weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' },
    }).format(new Date(props.modelValue.from))
  return at(timeZone) === at() ? '' : `${at(timeZone)} in ${timeZone.replaceAll('_', ' ')}`
})

const problem = computed(() => {
  const { from, until } = props.modelValue
  if (courses.value && !chosen.value)
    return courses.value.length === 0
      ? 'A lecture is released to a course, and there are none yet. Add one under Courses.'
      : 'Choose the course that it is released to.'
  return until !== null && Date.parse(until) <= Date.parse(from) ? 'The release has to end after it begins.' : ''
})
watch(problem, (sentence) => emit('problem', sentence), { immediate: true })
const says = computed(() => {
  const { from, until } = props.modelValue
  const date = (instant: string) => dayjs(instant).format('D MMMM YYYY, HH:mm')
  const state = releaseState(props.modelValue, new Date().toISOString())
  if (state === 'waiting') return `Students see it from ${date(from)} on.`
  if (state === 'over') return 'This window is over: students do not see it.'
  return until === null ? 'Students see it as soon as it is there.' : `Students see it until ${date(until)}.`
})
</script>

<template>
  <div class="grid">
    <label for="place-course">Course</label
    ><el-select
      id="place-course"
      :model-value="chosen ? modelValue.courseId : undefined"
      aria-label="Course"
      :placeholder="courses?.length ? 'Choose a course' : 'There are no courses yet'"
      @update:model-value="change({ courseId: $event })"
      ><el-option v-for="c in courses" :key="c.course.id" :value="c.course.id" :label="c.says"
    /></el-select>
    <label for="place-week">Week</label
    ><el-input-number
      id="place-week"
      :model-value="modelValue.week"
      :min="1"
      :max="chosen ? countWeeks(chosen.term) : 60"
      aria-label="Week"
      @update:model-value="change({ week: $event ?? 1 })"
    />
    <label for="place-from">Visible from</label
    ><el-date-picker
      id="place-from"
      :model-value="new Date(modelValue.from)"
      type="datetime"
      format="D MMM YYYY HH:mm"
      :clearable="false"
      aria-label="Visible from"
      @update:model-value="change({ from: ($event as Date).toISOString() })"
    />
    <p v-if="classes.length || sayThere" class="wide quiet">
      <el-button v-for="c in classes.slice(0, 3)" :key="c.from" size="small" @click="change({ from: c.from })"
        >At the class, {{ sayTime(c.from) }}</el-button
      >
      <span v-if="sayThere" class="there">{{ sayThere }}</span>
    </p>
    <label for="place-until">Until</label
    ><el-date-picker
      id="place-until"
      :model-value="modelValue.until === null ? null : new Date(modelValue.until)"
      type="datetime"
      format="D MMM YYYY HH:mm"
      placeholder="no end"
      aria-label="Until"
      @update:model-value="change({ until: ($event as Date | null)?.toISOString() ?? null })"
    />
    <template v-if="sets.length > 1">
      <span class="asked">Asked there</span
      ><el-checkbox-group
        :model-value="modelValue.sets"
        aria-label="Sets of questions that are asked there"
        @update:model-value="change({ sets: $event as string[] })"
        ><el-checkbox v-for="s in sets" :key="s.id" :value="s.id">{{ s.title }}</el-checkbox></el-checkbox-group
      >
    </template>
    <el-checkbox
      class="wide"
      :model-value="modelValue.options.download"
      @update:model-value="change({ options: { ...modelValue.options, download: Boolean($event) } })"
      >Students may save the video</el-checkbox
    >
    <el-checkbox
      class="wide"
      :model-value="modelValue.options.sumsOnly ?? false"
      @update:model-value="change({ options: { ...modelValue.options, sumsOnly: Boolean($event) } })"
      >Keep only totals of what is watched, not who watched</el-checkbox
    >
    <p v-if="modelValue.options.sumsOnly" class="wide quiet">
      What this place has kept by name is added to the sums, and cannot be told apart again.
    </p>
  </div>
  <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
  <p v-else>{{ says }}</p>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
}
.asked,
.grid > label:not(.wide) {
  color: var(--quiet);
  font-size: 14px;
}
.grid :deep(.el-date-editor) {
  width: 100%;
}
.there {
  display: block;
}
.wide {
  grid-column: 2;
}
p {
  margin: 0;
}
</style>
