<script setup lang="ts">
import dayjs from 'dayjs'
import {
  createColumnHelper,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useVueTable,
  type SortingState,
} from '@tanstack/vue-table'
import { personKey, sayStudent } from '#core/course/people'
import type { StudentRow } from '~/utils/student-rows'

/** Everybody, to be sorted by any column and filtered by what is written. */
const props = defineProps<{ rows: readonly StudentRow[]; pageOf: (student: StudentRow['student']) => string }>()

const filter = ref('')
const sorting = ref<SortingState>([{ id: 'student', desc: false }])
const has = (name: 'partly' | 'unmarked' | 'excused') => props.rows.some((r) => r[name] > 0)
const column = createColumnHelper<StudentRow>()
const columns = computed(() => [
  column.accessor((r) => sayStudent(r.student), { id: 'student', header: 'Student', sortingFn: 'text' }),
  column.accessor('right', { header: 'Right' }),
  ...(has('partly') ? [column.accessor('partly', { header: 'Partly' })] : []),
  column.accessor('wrong', { header: 'Wrong' }),
  ...(has('unmarked') ? [column.accessor('unmarked', { header: 'Not marked' })] : []),
  column.accessor('unanswered', { header: 'Unanswered' }),
  ...(has('excused') ? [column.accessor('excused', { header: 'Excused' })] : []),
  column.accessor('points', { header: 'Points' }),
  column.accessor('possible', { header: 'Possible' }),
  column.accessor('percent', { header: 'Per cent' }),
  ...(props.rows.some((r) => r.attempts > 1) ? [column.accessor('attempts', { header: 'Attempts' })] : []),
  ...(props.rows.some((r) => r.watched !== null)
    ? [column.accessor((r) => r.watched ?? -1, { id: 'watched', header: 'Watched' })]
    : []),
  column.accessor((r) => r.lastSeenAt ?? '', { id: 'seen', header: 'Last seen', sortingFn: 'basic' }),
])
const table = useVueTable({
  get data() {
    return props.rows as StudentRow[]
  },
  get columns() {
    return columns.value
  },
  getRowId: (row) => personKey(row.student),
  state: {
    get sorting() {
      return sorting.value
    },
    get globalFilter() {
      return filter.value
    },
  },
  onSortingChange: (next) => (sorting.value = typeof next === 'function' ? next(sorting.value) : next),
  globalFilterFn: (row, _, text: string) =>
    `${sayStudent(row.original.student)} ${row.original.student.subject}`
      .toLocaleLowerCase()
      .includes(text.trim().toLocaleLowerCase()),
  enableSortingRemoval: false,
  getCoreRowModel: getCoreRowModel(),
  getSortedRowModel: getSortedRowModel(),
  getFilteredRowModel: getFilteredRowModel(),
})
const says = { asc: 'ascending', desc: 'descending' } as const
function sayCell(row: StudentRow, id: string, value: unknown): string {
  if (id === 'seen') return row.lastSeenAt ? dayjs(row.lastSeenAt).format('D MMM YYYY, HH:mm') : '–'
  if (id === 'watched') return row.watched === null ? '–' : `${Math.round(100 * row.watched)} %`
  return String(value)
}
const shown = computed(() => table.getRowModel().rows)
/** Of a large class the rows that fit the window are drawn first. */
const drawn = ref(40)
onMounted(() => requestIdleCallback(() => (drawn.value = Infinity), { timeout: 500 }))
</script>

<template>
  <section class="surface" aria-labelledby="students-heading">
    <div class="head">
      <h2 id="students-heading">Students</h2>
      <el-input v-model="filter" class="filter" clearable placeholder="Find a student" aria-label="Find a student" />
      <span class="quiet" role="status">{{ filter.trim() ? `${shown.length} of ${rows.length}` : '' }}</span>
    </div>
    <div class="scroll">
      <table>
        <thead>
          <tr>
            <th
              v-for="h in table.getFlatHeaders()"
              :key="h.id"
              scope="col"
              :aria-sort="h.column.getIsSorted() ? says[h.column.getIsSorted() as 'asc' | 'desc'] : 'none'"
            >
              <button type="button" @click="h.column.toggleSorting()">
                {{ h.column.columnDef.header
                }}<span class="arrow" aria-hidden="true">{{
                  h.column.getIsSorted() === 'asc' ? '↑' : h.column.getIsSorted() === 'desc' ? '↓' : ''
                }}</span>
              </button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in shown.slice(0, drawn)" :key="row.id">
            <template v-for="cell in row.getVisibleCells()" :key="cell.id">
              <th v-if="cell.column.id === 'student'" scope="row">
                <NuxtLink :to="pageOf(row.original.student)" no-prefetch>{{ cell.getValue() }}</NuxtLink>
              </th>
              <td v-else>{{ sayCell(row.original, cell.column.id, cell.getValue()) }}</td>
            </template>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="!shown.length && rows.length" class="quiet none">Nobody is called that.</p>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 12px 18px;
}
.filter {
  width: 220px;
  margin-left: auto;
}
.scroll {
  max-height: 70vh;
  overflow: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 15px;
  font-variant-numeric: tabular-nums;
}
th,
td {
  padding: 4px 10px;
  text-align: right;
  font-weight: 400;
  border-bottom: 1px solid var(--hairline);
  white-space: nowrap;
}
th:first-child,
td:first-child {
  text-align: left;
  padding-left: 18px;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
}
thead button {
  border: 0;
  background: none;
  padding: 4px 0;
  color: var(--quiet);
  font-weight: 600;
  cursor: pointer;
}
.arrow {
  display: inline-block;
  width: 1em;
}
.none {
  padding: 8px 18px;
}
@media print {
  .filter {
    display: none;
  }
  .scroll {
    max-height: none;
    overflow: visible;
  }
  table {
    font-size: 11px;
  }
  th,
  td {
    padding-inline: 3px;
  }
}
</style>
