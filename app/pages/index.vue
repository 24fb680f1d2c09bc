<script setup lang="ts">
import { addWeeks, differenceInCalendarWeeks, format, parseISO } from 'date-fns'
import { foldersOf, isInside, sayFolder } from '#core/library/folders'
import { Plus } from 'lucide-vue-next'
import type { Course } from '#core/schema/lecture'
import { db } from '~/db/database'
import { loadBoard, type BoardCard } from '~/services/lectures'

useHead({ title: 'Term · Thaw' })
const courses = useLive(() => db.courses.toArray())
const board = useLive(loadBoard)
const weeks = computed(() => Math.max(1, ...(courses.value ?? []).map((c) => c.weeks)))
const begins = computed(() => courses.value?.[0]?.startsOn)
const thisWeek = computed(() => (begins.value ? differenceInCalendarWeeks(new Date(), parseISO(begins.value), { weekStartsOn: 1 }) + 1 : 0))
const weekDate = (week: number) => (begins.value ? format(addWeeks(parseISO(begins.value), week - 1), 'd MMM') : '')
const folders = computed(() => (courses.value ?? []).flatMap((course) => foldersOf((board.value ?? []).map((c) => c.lecture), course.id).map((folder) => ({ key: `${course.id} ${folder}`, course, folder }))))
const ALL = 'all'
const chosen = ref(ALL)
/** The chosen folder, as long as something is in it. */
const only = computed(() => folders.value.find((f) => f.key === chosen.value))
watch(only, (now) => { if (!now) chosen.value = ALL })
const rows = computed(() => (only.value ? [only.value.course] : (courses.value ?? [])))
const cards = computed(() => {
  const map = new Map<string, BoardCard[]>()
  for (const card of board.value ?? []) {
    if (only.value && !isInside(card.lecture.folder ?? '', only.value.folder)) continue
    const key = `${card.lecture.courseId} ${card.lecture.week}`
    map.set(key, [...(map.get(key) ?? []), card])
  }
  return map
})
const todo = computed(() => (board.value ?? []).filter((c) => c.duration !== null && c.readiness.next).length)
const adding = ref<{ courseId: string; week: number; folder: string } | null>(null)
/** Where a folder is shown by itself, a new lecture goes into it, and so is seen. */
function add(course: Course | undefined, week: number): void {
  adding.value = { courseId: course?.id ?? '', week, folder: only.value?.folder ?? '' }
}
</script>

<template>
  <div class="page">
    <div class="top">
      <div>
        <h1>The term</h1>
        <p class="quiet">{{ todo === 0 ? 'Nothing waits for you.' : todo === 1 ? 'One recorded lecture waits for you.' : `${todo} recorded lectures wait for you.` }} Each card says what comes next.</p>
      </div>
      <span class="grow" />
      <el-select v-if="folders.length" v-model="chosen" aria-label="Folder" class="folders" size="large">
        <el-option :value="ALL" label="All folders" />
        <el-option v-for="f in folders" :key="f.key" :value="f.key" :label="`${f.course.code} ${sayFolder(f.folder)}`" />
      </el-select>
      <el-button type="primary" size="large" @click="add(rows[0], Math.min(weeks, Math.max(1, thisWeek)))"><Plus :size="18" aria-hidden="true" /> New lecture</el-button>
    </div>
    <div class="board surface" role="region" aria-label="Term board" tabindex="0">
      <table>
        <thead>
          <tr>
            <th scope="col" class="course"><span class="unseen">Course</span></th>
            <th v-for="w in weeks" :key="w" scope="col" :class="{ now: w === thisWeek }">Week {{ w }} <span class="quiet">{{ weekDate(w) }}</span><span v-if="w === thisWeek" class="here">this week</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="course in rows" :key="course.id">
            <th scope="row" class="course"><span class="mono">{{ course.code }}</span><br />{{ course.title }}</th>
            <td v-for="w in weeks" :key="w" :class="{ now: w === thisWeek }">
              <div class="cell">
                <LectureCard v-for="card in cards.get(`${course.id} ${w}`)" :key="card.lecture.id" :card="card" />
                <button v-if="w <= course.weeks" type="button" class="add" :aria-label="`New lecture in ${course.code}, week ${w}`" @click="add(course, w)"><Plus :size="16" aria-hidden="true" /></button>
              </div>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <NewLectureDialog v-if="adding && courses" :courses="courses" :start="adding" @close="adding = null" />
  </div>
</template>

<style scoped>
.page { padding: 22px 24px 32px; }
.top { display: flex; align-items: start; gap: 12px; margin-bottom: 12px; } .grow { flex: 1; } .folders { width: 210px; }
.board { overflow: auto; }
table { border-collapse: collapse; min-width: 100%; }
th, td { border-bottom: 1px solid var(--hairline); border-right: 1px solid var(--hairline); vertical-align: top; text-align: left; }
tr:last-child > * { border-bottom: 0; } th:last-child, td:last-child { border-right: 0; }
thead th { font-weight: 600; font-size: 14px; padding: 8px 12px; white-space: nowrap; }
thead th .quiet { font-weight: 400; }
.now { background: #f3f6f3; } .here { margin-left: 8px; background: var(--tarn); color: #fff; border-radius: 9px; padding: 1px 8px; font-weight: 500; font-size: 13px; }
.course { position: sticky; left: 0; background: var(--paper); z-index: 1; min-width: 136px; max-width: 136px; padding: 14px 12px; font-weight: 600; line-height: 1.3; }
.course .mono { color: var(--quiet); font-weight: 400; }
.cell { position: relative; display: flex; flex-direction: column; gap: 8px; padding: 8px 8px 12px; min-width: 110px; min-height: 52px; }
.cell > .card ~ .add { position: absolute; right: 8px; bottom: -1px; padding: 0 4px; opacity: 0; } td:hover .add, .add:focus-visible { opacity: 1 !important; }
.add { align-self: start; border: 1px dashed transparent; background: none; border-radius: 6px; padding: 3px 8px; cursor: pointer; color: var(--quiet); }
.add:hover, .add:focus-visible { border-color: #b9c3c0; color: var(--tarn); }
</style>
