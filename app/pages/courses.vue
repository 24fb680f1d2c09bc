<script setup lang="ts">
import { Archive, Copy, Ellipsis, FileUp, Pencil, Plus, Settings2, Trash2 } from 'lucide-vue-next'
import { writeCourses } from '#core/course/course-csv'
import { sayLanguage } from '#core/captions/languages'
import { countWeeks, dayIn } from '#core/course/term'
import type { Course } from '#core/schema/lecture'
import type { Term } from '#core/schema/term'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { db } from '~/db/database'
import { newId } from '~/services/ids'
import {
  allTerms,
  archiveCourse,
  archiveTerm,
  byCode,
  deleteCourse,
  deleteTerm,
  newTerm,
  sayCourseDependants,
  sayTermDependants,
  termLike,
} from '~/services/terms'
import { download, fileName } from '~/utils/download'
import { sayDays, sayMeetings } from '~/utils/term-words'

/** All terms with their courses. */
useHead({ title: 'Courses · Thaw' })
const terms = useLive(allTerms)
const courses = useLive(async () => (await db.courses.toArray()).sort(byCode))
const counts = useLive(
  async () => {
    const count = new Map<string, number>()
    await db.cards.orderBy('courseId').eachKey((id) => void count.set(String(id), (count.get(String(id)) ?? 0) + 1))
    return count
  },
  [],
  120,
)
const withArchived = ref(false)
const archived = computed(
  () => (terms.value?.filter((t) => t.archived).length ?? 0) + (courses.value?.filter((c) => c.archived).length ?? 0),
)
// The latest first: what is taught now, and what comes.
const shown = computed(() => [...(terms.value ?? [])].filter((t) => withArchived.value || !t.archived).reverse())
const coursesOf = (term: Term) =>
  courses.value?.filter((c) => c.termId === term.id && (withArchived.value || !c.archived)) ?? []

const termDialog = shallowRef<{ term: Term; title: string; copyOf?: string } | null>(null)
const courseForm = shallowRef<{ course: Course; title: string; wordsOf?: string } | null>(null)
const settingsOf = ref('')
const importTo = shallowRef<Term | null>(null)

function beginTerm(): void {
  const { timeZone } = new Intl.DateTimeFormat().resolvedOptions()
  const term = newTerm(dayIn(timeZone, Date.now()), terms.value?.filter((t) => !t.archived).at(-1))
  termDialog.value = { term, title: 'New term' }
}
const beginCourse = (term: Term) => {
  courseForm.value = { course: { id: newId(), code: '', title: '', termId: term.id }, title: 'New course' }
}
async function attempt(act: () => Promise<void>): Promise<void> {
  try {
    await act()
  } catch (error) {
    ElMessage({ type: 'error', duration: 0, showClose: true, message: errorMessage(error) })
  }
}
async function isSure(what: string, title: string, yes: string): Promise<boolean> {
  const answer = await ElMessageBox.confirm(what, title, {
    ...{ confirmButtonText: yes, cancelButtonText: 'Keep', type: 'warning' },
  }).catch(() => 'keep')
  return answer === 'confirm'
}
const onTerm = (term: Term, act: string) =>
  attempt(async () => {
    if (act === 'edit') termDialog.value = { term, title: `Edit ${term.name}` }
    else if (act === 'copy') termDialog.value = { term: termLike(term), title: `Copy ${term.name}`, copyOf: term.id }
    else if (act === 'csv') saveTable(term)
    else if (act === 'archive') {
      await archiveTerm(term.id, !term.archived)
      if (!term.archived)
        ElMessage.success(`${term.name} is archived. Its courses and lectures are kept, out of the way.`)
    } else if (await isSure(await sayTermDependants(term.id), `Delete the term ${term.name}?`, 'Delete the term'))
      await deleteTerm(term.id)
  })
const onCourse = (course: Course, act: string) =>
  attempt(async () => {
    if (act === 'edit') courseForm.value = { course, title: `Edit ${course.code}` }
    else if (act === 'settings') settingsOf.value = course.id
    else if (act === 'copy') {
      const { archived: _, ...same } = course
      const copy = { ...same, id: newId(), code: `${course.code} (copy)`.slice(0, 40) }
      courseForm.value = { course: copy, title: `Copy ${course.code}`, wordsOf: course.id }
    } else if (act === 'archive') {
      await archiveCourse(course.id, !course.archived)
      if (!course.archived) ElMessage.success(`${course.code} is archived. Its lectures are kept, out of the way.`)
    } else if (await isSure(await sayCourseDependants(course), `Delete ${course.code}?`, 'Delete the course'))
      await deleteCourse(course.id)
  })

function saveTable(term: Term): void {
  const lines = coursesOf(term).map(({ code, title, lecturer = '', language = '', meetings = [] }) => ({
    ...{ code, title, lecturer, language, meetings },
  }))
  download(`${fileName(term.name)}-courses.csv`, 'text/csv', writeCourses(lines))
}
const sayTerm = (term: Term) =>
  [
    sayDays(term),
    sayCount(countWeeks(term), 'week', 'weeks'),
    term.timeZone.replaceAll('_', ' '),
    term.holidays.length > 0 && sayCount(term.holidays.length, 'holiday', 'holidays'),
  ]
    .filter(Boolean)
    .join(' · ')
</script>

<template>
  <div class="page">
    <div class="top">
      <h1>Terms and courses</h1>
      <span class="grow" />
      <el-checkbox v-if="archived" v-model="withArchived">Show archived ({{ archived }})</el-checkbox>
      <el-button type="primary" size="large" @click="beginTerm"
        ><Plus :size="18" aria-hidden="true" /> New term</el-button
      >
    </div>
    <p v-if="terms && !shown.length" class="surface none">
      {{
        archived
          ? 'All your terms are archived. Show them, or begin a new term.'
          : 'There are no terms yet. Begin with a new term: its name, and its first and last day. Then add its courses.'
      }}
    </p>
    <section v-for="term in shown" :key="term.id" class="surface term" :aria-label="term.name">
      <header>
        <div>
          <h2>
            {{ term.name }} <el-tag v-if="term.archived" type="info" size="small" disable-transitions>Archived</el-tag>
          </h2>
          <p class="quiet">{{ sayTerm(term) }}</p>
        </div>
        <span class="grow" />
        <el-button @click="beginCourse(term)"><Plus :size="16" aria-hidden="true" /> Add a course</el-button>
        <el-button @click="importTo = term"><FileUp :size="16" aria-hidden="true" /> Import from CSV</el-button>
        <el-dropdown trigger="click" @command="onTerm(term, $event)">
          <el-button :aria-label="`More for ${term.name}`" :title="`More for ${term.name}`"
            ><Ellipsis :size="16" aria-hidden="true"
          /></el-button>
          <template #dropdown
            ><el-dropdown-menu
              ><el-dropdown-item command="edit"><Pencil :size="15" aria-hidden="true" /> Edit …</el-dropdown-item
              ><el-dropdown-item command="copy"><Copy :size="15" aria-hidden="true" /> Copy …</el-dropdown-item
              ><el-dropdown-item command="csv" :disabled="!coursesOf(term).length"
                ><FileUp :size="15" aria-hidden="true" /> Save courses as CSV</el-dropdown-item
              ><el-dropdown-item command="archive"
                ><Archive :size="15" aria-hidden="true" />
                {{ term.archived ? 'Take out of the archive' : 'Archive' }}</el-dropdown-item
              ><el-dropdown-item command="delete" divided
                ><Trash2 :size="15" aria-hidden="true" /> Delete …</el-dropdown-item
              ></el-dropdown-menu
            ></template
          >
        </el-dropdown>
      </header>
      <p v-if="!coursesOf(term).length" class="quiet none">No courses yet. Add one, or import a table of them.</p>
      <div v-else class="scroll">
        <table>
          <thead>
            <tr>
              <th scope="col">Code</th>
              <th scope="col">Title</th>
              <th scope="col">Lecturer</th>
              <th scope="col">Language</th>
              <th scope="col">Meets</th>
              <th scope="col" class="number">Lectures</th>
              <th scope="col"><span class="unseen">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in coursesOf(term)" :key="c.id">
              <th scope="row" class="mono">{{ c.code }}</th>
              <td>
                {{ c.title }} <el-tag v-if="c.archived" type="info" size="small" disable-transitions>Archived</el-tag>
              </td>
              <td>{{ c.lecturer }}</td>
              <td>{{ sayLanguage(c.language ?? 'en') }}</td>
              <td>{{ sayMeetings(c.meetings) }}</td>
              <td class="number">{{ counts?.get(c.id) ?? 0 }}</td>
              <td class="acts">
                <el-button
                  text
                  size="small"
                  :aria-label="`Edit ${c.code}`"
                  :title="`Edit ${c.code}`"
                  @click="onCourse(c, 'edit')"
                  ><Pencil :size="15" aria-hidden="true"
                /></el-button>
                <el-dropdown trigger="click" @command="onCourse(c, $event)">
                  <el-button text size="small" :aria-label="`More for ${c.code}`" :title="`More for ${c.code}`"
                    ><Ellipsis :size="15" aria-hidden="true"
                  /></el-button>
                  <template #dropdown
                    ><el-dropdown-menu
                      ><el-dropdown-item command="settings"
                        ><Settings2 :size="15" aria-hidden="true" /> Captions and course site …</el-dropdown-item
                      ><el-dropdown-item command="copy"><Copy :size="15" aria-hidden="true" /> Copy …</el-dropdown-item
                      ><el-dropdown-item command="archive"
                        ><Archive :size="15" aria-hidden="true" />
                        {{ c.archived ? 'Take out of the archive' : 'Archive' }}</el-dropdown-item
                      ><el-dropdown-item command="delete" divided
                        ><Trash2 :size="15" aria-hidden="true" /> Delete …</el-dropdown-item
                      ></el-dropdown-menu
                    ></template
                  >
                </el-dropdown>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
    <LazyTermDialog v-if="termDialog" v-bind="termDialog" @close="termDialog = null" />
    <LazyCourseForm v-if="courseForm" v-bind="courseForm" @close="courseForm = null" />
    <LazyCourseDialog v-if="settingsOf" :course-id="settingsOf" @close="settingsOf = ''" />
    <LazyCourseImportDialog v-if="importTo" :term="importTo" @close="importTo = null" />
  </div>
</template>

<style scoped>
.page {
  padding: 22px 24px;
  max-width: 1180px;
  margin: 0 auto;
}
.top,
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
}
.top {
  margin-bottom: 14px;
}
h1,
h2 {
  margin: 0;
}
h2 {
  font-size: 19px;
}
header p {
  margin: 2px 0 0;
}
.grow {
  flex: 1;
}
.term {
  padding: 14px 18px;
  margin-bottom: 16px;
}
.none {
  padding: 14px 0 4px;
  margin: 0;
}
.surface.none {
  padding: 28px;
  text-align: center;
}
.scroll {
  /* What stands apart in it, as words for screen readers do, scrolls with it. */
  position: relative;
  overflow-x: auto;
  margin-top: 10px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 15px;
}
th,
td {
  text-align: left;
  padding: 6px 12px 6px 0;
  border-top: 1px solid var(--hairline);
}
thead th {
  border-top: 0;
  color: var(--quiet);
  font-weight: 500;
  font-size: 14px;
  white-space: nowrap;
}
tbody th {
  font-weight: 500;
  white-space: nowrap;
}
.number {
  text-align: right;
}
.acts {
  text-align: right;
  white-space: nowrap;
  padding-right: 0;
}
.acts :deep(.el-button + .el-dropdown) {
  margin-left: 2px;
}
</style>
