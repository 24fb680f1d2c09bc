<script setup lang="ts">
import { countWeeks, dayIn, weekOf, weeksOf } from '#core/course/term'
import { foldersOf, sayFolder } from '#core/library/folders'
import { sayCount } from '#core/text/words'
import { ListChecks, Plus } from 'lucide-vue-next'
import type { Course } from '#core/schema/lecture'
import type { Term } from '#core/schema/term'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { db } from '~/db/database'
import { storing } from '~/db/files'
import { cardsOf, countWaiting, folderKeys, unplacedCards } from '~/services/cards'
import { newId } from '~/services/ids'
import { allTerms, byCode, newTerm, presentTerm } from '~/services/terms'
import { usePicked } from '~/stores/picked'
import { sayDay, sayDays } from '~/utils/term-words'

useHead({ title: 'Term · Thaw' })
const terms = useLive(async () => (await allTerms()).filter((t) => !t.archived))
const timeZone = new Intl.DateTimeFormat().resolvedOptions().timeZone
/** The term that was chosen last, as every tab shows it. */
const chosenTerm = useLive(async () => (await db.settings.get('term'))?.value ?? '')
const term = computed(
  () =>
    terms.value?.find((t) => t.id === chosenTerm.value) ?? presentTerm(terms.value ?? [], dayIn(timeZone, Date.now())),
)
const chooseTerm = (id: string) => storing(() => db.settings.put({ key: 'term', value: id }))
const courses = useLive(async () => {
  const all = await db.courses.where({ termId: term.value?.id ?? '' }).toArray()
  return all.filter((c) => !c.archived).sort(byCode)
}, [() => term.value?.id])
/** Lectures that are in no course yet. */
const unplaced = useLive(unplacedCards, [], 120)
// What was changed on a card is seen first; these read as much as there are cards.
const folderPairs = useLive(folderKeys, [], 120)
const waiting = useLive(countWaiting, [], 120)
const weeks = computed(() => (term.value ? weeksOf(term.value) : []))
const thisWeek = computed(() => (term.value ? weekOf(term.value, dayIn(term.value.timeZone, Date.now())) : 0))
const folders = computed(() =>
  (courses.value ?? []).flatMap((course) =>
    foldersOf(folderPairs.value ?? [], course.id).map((folder) => ({ key: `${course.id} ${folder}`, course, folder })),
  ),
)
const hasCards = computed(() => folderPairs.value?.some((p) => courses.value?.some((c) => c.id === p.courseId)))
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
function addNow(): void {
  const last = term.value ? countWeeks(term.value) : 1
  add(rows.value[0], Math.min(last, Math.max(1, thisWeek.value)))
}
const beginning = shallowRef<Term | null>(null)
function beginTerm(): void {
  beginning.value = newTerm(dayIn(timeZone, Date.now()))
}
const newCourse = shallowRef<Course | null>(null)
function beginCourse(): void {
  if (term.value) newCourse.value = { id: newId(), code: '', title: '', termId: term.value.id }
}
const importing = ref(false)
/** What was pressed is gone once a term or a course is there: the next step has the focus. */
const goOn = () =>
  focusIfLost(() => document.querySelector<HTMLElement>('.begin .el-button--primary') ?? boardElement.value)
let hasBegun = false
function closeBeginning(): void {
  hasBegun = true
  beginning.value = null
  newCourse.value = null
  importing.value = false
  void goOn()
}
watch([() => term.value?.id, () => courses.value?.length], () => hasBegun && goOn(), { flush: 'post' })

// A long term is opened where it is now.
watch(
  [() => term.value?.id, () => rows.value.length > 0, boardElement],
  ([, isThere, board]) => {
    const now = isThere && board?.querySelector<HTMLElement>('th.now')
    if (board && now && now.offsetLeft + now.offsetWidth > board.clientWidth)
      board.scrollLeft = now.offsetLeft + now.offsetWidth - board.clientWidth + now.offsetWidth
  },
  { flush: 'post' },
)

const picked = usePicked()
const finishing = ref(false)
const ordering = ref(false)
/** Picks all that is recorded, of the courses and the folder that are shown. */
async function pickAll(): Promise<void> {
  const shown = await Promise.all(rows.value.map((course) => cardsOf(course.id, only.value?.folder ?? '')))
  const others = only.value ? [] : (unplaced.value ?? [])
  picked.put([...shown.flat(), ...others].flatMap((card) => (card.duration === null ? [] : [card.lectureId])))
}
onBeforeUnmount(() => picked.end())
</script>

<template>
  <div class="page">
    <SetAsideNotice />
    <div class="top">
      <div>
        <h1>
          The term <small v-if="term" class="quiet">{{ term.name }}, {{ sayDays(term) }}</small>
        </h1>
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
          <template v-if="hasCards">Each card says what comes next.</template>
          <template v-else-if="rows.length">To make the first lecture, press + in its week.</template>
        </p>
      </div>
      <span class="grow" />
      <el-select
        v-if="terms && terms.length > 1 && term"
        :model-value="term.id"
        aria-label="Term"
        class="folders"
        size="large"
        @update:model-value="chooseTerm"
      >
        <el-option v-for="t in terms" :key="t.id" :value="t.id" :label="t.name" />
      </el-select>
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
        v-if="rows.length || unplaced?.length"
        size="large"
        :aria-pressed="picked.picking"
        @click="picked.picking ? picked.end() : (picked.picking = true)"
        ><ListChecks :size="18" aria-hidden="true" /> Pick several</el-button
      >
      <el-button type="primary" size="large" @click="addNow"
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
    <div v-if="terms && !term" class="surface begin">
      <h2>Begin with your term</h2>
      <p>
        Say when it is, then add your courses: their lectures stand here by week. You can also make a lecture at once
        and give it a course later.
      </p>
      <el-button type="primary" size="large" @click="beginTerm">Set up a term</el-button>
    </div>
    <div v-else-if="term && courses && !courses.length" class="surface begin">
      <h2>{{ term.name }} has no courses yet</h2>
      <p>Add the first one, or import a table of all of them.</p>
      <el-button type="primary" size="large" @click="beginCourse">Add a course</el-button>
      <el-button size="large" @click="importing = true">Import from CSV</el-button>
    </div>
    <div
      v-show="courses?.length"
      ref="boardElement"
      class="board surface"
      role="region"
      aria-label="Term board"
      tabindex="0"
    >
      <table>
        <thead>
          <tr>
            <th scope="col" class="course"><span class="unseen">Course</span></th>
            <th v-for="w in weeks" :key="w.number" scope="col" :class="{ now: w.number === thisWeek, free: w.isFree }">
              Week {{ w.number }} <span class="quiet">{{ sayDay(w.from) }}</span><span
                v-if="w.number === thisWeek"
                class="here"
                >this week</span
              ><span v-for="name in w.holidays" :key="name" class="holiday">{{ name }}</span>
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
            :weeks="weeks.length"
            :this-week="thisWeek"
            :folder="only?.folder ?? ''"
            @add="add(course, $event)"
            @settings="settingsOf = course.id"
          />
          <tr v-if="space.below > 0" aria-hidden="true" :style="{ height: `${space.below}px` }" />
        </tbody>
      </table>
    </div>
    <section v-if="unplaced?.length && !only" class="unplaced" aria-label="Lectures without a course">
      <h2>Without a course</h2>
      <div class="surface" tabindex="0" role="group" aria-label="Lectures without a course">
        <LectureCard v-for="card in unplaced" :key="card.lectureId" :card="card" />
      </div>
    </section>
    <LazyTermDialog v-if="beginning" :term="beginning" title="New term" @close="closeBeginning" />
    <LazyCourseForm v-if="newCourse" :course="newCourse" title="New course" @close="closeBeginning" />
    <LazyCourseImportDialog v-if="importing && term" :term="term" @close="closeBeginning" />
    <LazyFinishDialog v-if="finishing" :lecture-ids="[...picked.ids]" @close="finishing = false" />
    <LazyOrderDialog v-if="ordering" :lecture-ids="[...picked.ids]" @close="ordering = false" />
    <LazyCourseDialog v-if="settingsOf" :course-id="settingsOf" @close="settingsOf = ''" />
    <LazyNewLectureDialog v-if="adding" :start="adding" @close="adding = null" />
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
h1 small {
  margin-left: 8px;
  font: 400 16px var(--text);
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
.free {
  color: var(--quiet);
}
.holiday {
  margin-left: 8px;
  color: var(--marigold-ink);
  font-weight: 400;
  font-size: 13px;
}
.begin {
  padding: 40px 24px;
  text-align: center;
}
.begin h2 {
  margin: 0 0 6px;
}
.begin p {
  max-width: 52ch;
  margin: 0 auto 18px;
}
.unplaced {
  margin-top: 12px;
}
.unplaced h2 {
  margin: 0 0 6px;
  font-size: 16px;
}
.unplaced > div {
  display: flex;
  gap: 8px;
  padding: 8px;
  overflow-x: auto;
}
.unplaced > div > * {
  flex: none;
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
