<script setup lang="ts">
import { readCourses, type CourseTable } from '#core/course/course-csv'
import { readLanguage, sayLanguage } from '#core/captions/languages'
import type { Term } from '#core/schema/term'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { db } from '~/db/database'
import { addCourses } from '~/services/terms'
import { sayMeetings } from '~/utils/term-words'

/** Courses of a term from a table: what would be added is seen first, and what cannot be, by its line. */
const props = defineProps<{ term: Term }>()
const emit = defineEmits<{ close: [] }>()
const MOST = 2 << 20
const over = ref(false)
const name = ref('')
const table = shallowRef<CourseTable | null>(null)
const problem = ref('')
const busy = ref(false)

async function read(files: FileList | null | undefined): Promise<void> {
  over.value = false
  const [file] = files ?? []
  if (!file) return
  problem.value = ''
  table.value = null
  name.value = file.name
  try {
    if (file.size > MOST) throw new Error('This file is larger than 2 MB, which is more than any table of courses.')
    const text = new TextDecoder('utf-8', { fatal: true })
    const known = await db.courses.where({ termId: props.term.id }).toArray()
    const bytes = await file.arrayBuffer()
    table.value = readCourses(
      readText(text, bytes),
      known.map((c) => c.code),
      (tag) => readLanguage(tag) !== null,
    )
  } catch (error) {
    problem.value = errorMessage(error)
  }
}
/** Text of a spreadsheet: UTF-8, or what Windows wrote before it. */
function readText(utf8: TextDecoder, bytes: ArrayBuffer): string {
  try {
    return utf8.decode(bytes)
  } catch {
    // That is how a decoder says that it is another encoding.
    return new TextDecoder('windows-1252').decode(bytes)
  }
}
async function add(): Promise<void> {
  if (!table.value || busy.value) return
  busy.value = true
  try {
    await addCourses(
      props.term.id,
      table.value.courses.map((c) => ({ ...c, language: readLanguage(c.language) ?? '' })),
    )
    ElMessage.success(`${sayCount(table.value.courses.length, 'course', 'courses')} added to ${props.term.name}.`)
    emit('close')
  } catch (error) {
    problem.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <el-dialog
    :model-value="true"
    :title="`Import courses to ${term.name}`"
    width="min(760px, 96vw)"
    @close="emit('close')"
  >
    <label
      class="drop"
      :class="{ over }"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="read($event.dataTransfer?.files)"
      ><input
        type="file"
        class="unseen"
        accept=".csv,.tsv,.txt,text/csv"
        aria-label="Table of courses"
        @change="read(($event.target as HTMLInputElement).files)"
      /><strong>{{ name || 'Drop a CSV file here, or choose one' }}</strong
      ><span class="quiet"
        >Its first line names the columns: Code, Title and, if you have them, Lecturer, Language (en, de …) and Meets
        (Mon 10:15-12:00; Thu 14:00-15:30).</span
      ></label
    >
    <p v-if="problem" class="notice bad" role="alert">{{ problem }} Nothing was added.</p>
    <template v-if="table">
      <div v-if="table.problems.length" class="notice bad" role="alert">
        <p>
          {{ sayCount(table.problems.length, 'line', 'lines') }} cannot be imported{{
            table.courses.length ? '; the others can' : ''
          }}:
        </p>
        <ul>
          <li v-for="p in table.problems.slice(0, 50)" :key="p.line">Line {{ p.line }}: {{ p.says }}</li>
        </ul>
        <p v-if="table.problems.length > 50">… and {{ table.problems.length - 50 }} more.</p>
      </div>
      <div v-if="table.courses.length" class="preview" tabindex="0" role="region" aria-label="Courses to be added">
        <table>
          <thead>
            <tr>
              <th scope="col">Code</th>
              <th scope="col">Title</th>
              <th scope="col">Lecturer</th>
              <th scope="col">Language</th>
              <th scope="col">Meets</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in table.courses" :key="c.code">
              <td class="mono">{{ c.code }}</td>
              <td>{{ c.title }}</td>
              <td>{{ c.lecturer }}</td>
              <td>{{ sayLanguage(c.language || 'en') }}</td>
              <td>{{ sayMeetings(c.meetings) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
    <template #footer
      ><el-button @click="emit('close')">Cancel</el-button
      ><el-button type="primary" :loading="busy" :disabled="!table?.courses.length" @click="add">{{
        table?.courses.length ? `Add ${sayCount(table.courses.length, 'course', 'courses')}` : 'Add courses'
      }}</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.drop {
  display: grid;
  gap: 4px;
  justify-items: center;
  text-align: center;
  padding: 18px 16px;
  border: 1px dashed #b9c3c0;
  border-radius: var(--surface-radius);
  cursor: pointer;
}
.drop:hover,
.drop.over {
  border-color: var(--tarn);
  background: var(--tarn-wash);
}
.drop:focus-within {
  outline: 3px solid var(--marigold);
  outline-offset: 2px;
}
.notice p {
  margin: 0;
}
.notice ul {
  margin: 4px 0 0;
  padding-left: 18px;
  max-height: 130px;
  overflow: auto;
}
.preview {
  max-height: 240px;
  overflow: auto;
  margin-top: 12px;
  border: 1px solid var(--hairline);
  border-radius: var(--surface-radius);
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14px;
}
th,
td {
  text-align: left;
  padding: 5px 10px;
  border-bottom: 1px solid var(--hairline);
  overflow-wrap: anywhere;
}
th {
  position: sticky;
  top: 0;
  background: var(--paper);
  color: var(--quiet);
  font-weight: 500;
}
</style>
