<script setup lang="ts">
import dayjs from 'dayjs'
import isoWeek from 'dayjs/plugin/isoWeek'
import { foldersOf, sayFolder } from '#core/library/folders'
import { sayCount } from '#core/text/words'
import { ListChecks, Plus } from 'lucide-vue-next'
import type { Course } from '#core/schema/lecture'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { db } from '~/db/database'
import { cardsOf, countWaiting, folderKeys } from '~/services/cards'
import { usePicked } from '~/stores/picked'

dayjs.extend(isoWeek)
useHead({ title: 'Term · Thaw' })
const courses = useLive(() => db.courses.toArray())
// What was changed on a card is seen first; these read as much as there are cards.
const folderPairs = useLive(folderKeys, [], 120)
const waiting = useLive(countWaiting, [], 120)
const weeks = computed(() => Math.max(1, ...(courses.value ?? []).map((c) => c.weeks)))
const begins = computed(() => courses.value?.[0]?.startsOn)
const thisWeek = computed(() =>
  begins.value ? dayjs().startOf('isoWeek').diff(dayjs(begins.value).startOf('isoWeek'), 'week') + 1 : 0,
)
const weekDate = (week: number) =>
  begins.value
    ? dayjs(begins.value)
        .add(week - 1, 'week')
        .format('D MMM')
    : ''
const folders = computed(() =>
  (courses.value ?? []).flatMap((course) =>
    foldersOf(folderPairs.value ?? [], course.id).map((folder) => ({ key: `${course.id} ${folder}`, course, folder })),
  ),
)
const ALL = 'all'
const chosen = ref(ALL)
/** The chosen folder, as long as something is in it. */
const only = computed(() => folders.value.find((f) => f.key === chosen.value))
watch(only, (now) => {
  if (!now) chosen.value = ALL
})
const rows = computed(() => (only.value ? [only.value.course] : (courses.value ?? [])))

// Only the courses near what is seen are drawn: a whole curriculum has thousands of cards.
const boardElement = useTemplateRef<HTMLElement>('boardElement')
const virtual = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => boardElement.value,
    estimateSize: () => 240,
    overscan: 3,
    getItemKey: (i: number) => rows.value[i]?.id ?? i,
  })),
)
const drawn = computed(() =>
  virtual.value.getVirtualItems().flatMap(({ index }) => {
    const course = rows.value[index]
    return course ? [{ course, index }] : []
  }),
)
/** Heights of what is not drawn above and below, px. */
const space = computed(() => {
  const items = virtual.value.getVirtualItems()
  return { above: items[0]?.start ?? 0, below: virtual.value.getTotalSize() - (items.at(-1)?.end ?? 0) }
})
const measure = (row: unknown) => {
  const element = (row as { $el?: unknown } | null)?.$el
  if (element instanceof Element) virtual.value.measureElement(element)
}

/** The course whose settings are open. */
const settingsOf = ref('')
const adding = ref<{ courseId: string; week: number; folder: string } | null>(null)
/** Where a folder is shown by itself, a new lecture goes into it, and so is seen. */
function add(course: Course | undefined, week: number): void {
  adding.value = { courseId: course?.id ?? '', week, folder: only.value?.folder ?? '' }
}

const picked = usePicked()
const finishing = ref(false)
const ordering = ref(false)
/** Picks all that is recorded, of the courses and the folder that are shown. */
async function pickAll(): Promise<void> {
  const shown = await Promise.all(rows.value.map((course) => cardsOf(course.id, only.value?.folder ?? '')))
  picked.put(shown.flat().flatMap((card) => (card.duration === null ? [] : [card.lectureId])))
}
onBeforeUnmount(() => picked.end())
</script>

<template>
  <div class="page">
    <SetAsideNotice />
    <div class="top">
      <div>
        <h1>The term</h1>
        <p class="quiet">
          {{
            waiting === undefined
              ? ''
              : waiting === 0
                ? 'Nothing waits for you.'
                : waiting === 1
                  ? 'One recorded lecture waits for you.'
                  : `${waiting} recorded lectures wait for you.`
          }}
          Each card says what comes next.
        </p>
      </div>
      <span class="grow" />
      <el-select v-if="folders.length" v-model="chosen" aria-label="Folder" class="folders" size="large">
        <el-option :value="ALL" label="All folders" />
        <el-option
          v-for="f in folders"
          :key="f.key"
          :value="f.key"
          :label="`${f.course.code} ${sayFolder(f.folder)}`"
        />
      </el-select>
      <el-button
        size="large"
        :aria-pressed="picked.picking"
        @click="picked.picking ? picked.end() : (picked.picking = true)"
        ><ListChecks :size="18" aria-hidden="true" /> Pick several</el-button
      >
      <el-button type="primary" size="large" @click="add(rows[0], Math.min(weeks, Math.max(1, thisWeek)))"
        ><Plus :size="18" aria-hidden="true" /> New lecture</el-button
      >
    </div>
    <div v-if="picked.picking" class="picking surface" role="toolbar" aria-label="What is picked">
      <span role="status">{{
        picked.ids.size === 0
          ? 'Press the lectures that you mean.'
          : sayCount(picked.ids.size, 'lecture is', 'lectures are') + ' picked.'
      }}</span>
      <el-button text @click="pickAll">All that are recorded</el-button>
      <el-button text :disabled="picked.ids.size === 0" @click="picked.put([])">None</el-button>
      <span class="grow" />
      <el-button :disabled="picked.ids.size === 0" @click="ordering = true">Order captions …</el-button>
      <el-button type="primary" :disabled="picked.ids.size === 0" @click="finishing = true"
        >Put on a finish …</el-button
      >
    </div>
    <div ref="boardElement" class="board surface" role="region" aria-label="Term board" tabindex="0">
      <table>
        <thead>
          <tr>
            <th scope="col" class="course"><span class="unseen">Course</span></th>
            <th v-for="w in weeks" :key="w" scope="col" :class="{ now: w === thisWeek }">
              Week {{ w }} <span class="quiet">{{ weekDate(w) }}</span><span v-if="w === thisWeek" class="here"
                >this week</span
              >
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-if="space.above > 0" aria-hidden="true" :style="{ height: `${space.above}px` }" />
          <CourseRow
            v-for="{ course, index } in drawn"
            :key="course.id"
            :ref="measure"
            :data-index="index"
            :course="course"
            :weeks="weeks"
            :this-week="thisWeek"
            :folder="only?.folder ?? ''"
            @add="add(course, $event)"
            @settings="settingsOf = course.id"
          />
          <tr v-if="space.below > 0" aria-hidden="true" :style="{ height: `${space.below}px` }" />
        </tbody>
      </table>
    </div>
    <LazyFinishDialog v-if="finishing" :lecture-ids="[...picked.ids]" @close="finishing = false" />
    <LazyOrderDialog v-if="ordering" :lecture-ids="[...picked.ids]" @close="ordering = false" />
    <LazyCourseDialog v-if="settingsOf" :course-id="settingsOf" @close="settingsOf = ''" />
    <LazyNewLectureDialog v-if="adding && courses" :courses="courses" :start="adding" @close="adding = null" />
  </div>
</template>

<style scoped>
.page {
  display: flex;
  flex-direction: column;
  height: 100%;
  padding: 22px 24px;
}
.top {
  display: flex;
  align-items: start;
  gap: 12px;
  margin-bottom: 12px;
}
.grow {
  flex: 1;
}
@media (max-width: 760px) {
  .page {
    padding: 14px 12px;
  }
  .top,
  .picking {
    flex-wrap: wrap;
  }
  .top > div {
    width: 100%;
  }
  .grow {
    display: none;
  }
}
.picking {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 8px 14px;
  margin-bottom: 10px;
}
.folders {
  width: 210px;
}
.board {
  flex: 1;
  min-height: 300px;
  overflow: auto;
}
table {
  border-collapse: separate;
  border-spacing: 0;
  min-width: 100%;
}
th {
  position: sticky;
  top: 0;
  z-index: 2;
  border-bottom: 1px solid var(--hairline);
  border-right: 1px solid var(--hairline);
  background: var(--paper);
  font-weight: 600;
  font-size: 14px;
  text-align: left;
  padding: 8px 12px;
  white-space: nowrap;
}
th:last-child {
  border-right: 0;
}
.now {
  background: #f3f6f3;
}
.course {
  left: 0;
  z-index: 3;
}
th .quiet {
  font-weight: 400;
}
.here {
  margin-left: 8px;
  background: var(--tarn);
  color: #fff;
  border-radius: 9px;
  padding: 1px 8px;
  font-weight: 500;
  font-size: 13px;
}
</style>
