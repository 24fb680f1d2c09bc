<script setup lang="ts">
import { Download, FolderOpen, Plus, Trash2 } from 'lucide-vue-next'
import { learnWord, readWordList, writeWordList } from '#core/captions/word-list'
import type { CourseWord } from '#core/schema/words'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { db } from '~/db/database'
import { newId } from '~/services/ids'
import { replaceAll, sayFound, takeBack, type Replaced } from '~/services/replacing'
import { changeWords, misheardIn, wordsOf, type Misheard } from '~/services/words'
import { download, fileName } from '~/utils/download'

/** The word list of a course: what the recogniser is told of, and what it made of the words in captions that are there. */
const courseId = useRoute().params.course as string
const course = useLive(() => db.courses.get(courseId))
const words = useLive(() => wordsOf(courseId))
const wanted = ref('')
const added = ref('')
const problem = ref('')
const told = ref('')
const offers = shallowRef<Misheard[] | null>(null)
const done = shallowRef<Replaced[]>([])
const busy = ref(false)
const input = useTemplateRef<HTMLInputElement>('input')
useHead({ title: () => `Words of ${course.value?.code ?? ''} · Thaw` })

const seen = computed(() => {
  const some = wanted.value.trim().toLowerCase()
  return (words.value ?? [])
    .filter((w) => !some || [w.text, ...w.heard].some((t) => t.toLowerCase().includes(some)))
    .toSorted((a, b) => a.text.localeCompare(b.text))
})

async function attempt(work: () => Promise<void>): Promise<void> {
  problem.value = told.value = ''
  busy.value = true
  try {
    await work()
  } catch (error) {
    problem.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
const change = (next: (all: readonly CourseWord[]) => readonly CourseWord[]) =>
  attempt(() => changeWords(courseId, next))

async function add(): Promise<void> {
  const text = added.value.replace(/\s+/g, ' ').trim().slice(0, 100)
  if (!text) return
  await change((all) => learnWord(all, text, [], newId))
  added.value = ''
}
function rename({ id }: CourseWord, text: string): void {
  const next = text.replace(/\s+/g, ' ').trim().slice(0, 100)
  if (next) void change((all) => all.map((w) => (w.id === id ? { ...w, text: next } : w)))
}
function rehear({ id }: CourseWord, text: string): void {
  const heard = [...new Set(text.split(';').map((t) => t.trim().slice(0, 100)))].filter(Boolean).slice(0, 20)
  void change((all) => all.map((w) => (w.id === id ? { ...w, heard } : w)))
}
async function open(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const [file] = field.files ?? []
  if (file)
    await attempt(async () => {
      const { words: read, problems } = readWordList(await file.text())
      await changeWords(courseId, (all) => read.reduce((list, w) => learnWord(list, w.text, w.heard, newId), [...all]))
      told.value = `Took ${sayCount(read.length, 'word', 'words')} from “${file.name}”.`
      problem.value = problems.slice(0, 5).join(' ')
    })
  field.value = ''
}
const save = () =>
  download(
    `${fileName(`Words of ${course.value?.code ?? 'the course'}`)}.csv`,
    'text/csv',
    writeWordList(words.value ?? []),
  )

const look = () =>
  attempt(async () => {
    done.value = []
    offers.value = await misheardIn(courseId, words.value ?? [])
  })
const replace = (some: readonly Misheard[]) =>
  attempt(async () => {
    for (const { found, wanted } of some) done.value = [...done.value, await replaceAll(found, wanted)]
    const count = done.value.reduce((sum, d) => sum + d.count, 0)
    offers.value = await misheardIn(courseId, words.value ?? [])
    told.value = `Replaced ${sayCount(count, 'time', 'times')}.`
  })
const back = () =>
  attempt(async () => {
    let kept = 0
    for (const one of done.value.toReversed()) kept += await takeBack(one)
    done.value = []
    offers.value = await misheardIn(courseId, words.value ?? [])
    told.value = kept ? 'Taken back, but where something else was done since: go back there.' : 'Taken back.'
  })
</script>

<template>
  <div class="page">
    <div class="top">
      <div>
        <h1>Words of {{ course?.code }}</h1>
        <p class="quiet">
          Words of the subject, as they are written. The recogniser listens for them in every further draft of
          {{ course?.title }}.
        </p>
      </div>
      <el-button size="large" @click="input?.click()"
        ><FolderOpen :size="17" aria-hidden="true" /> Open a CSV file …</el-button
      >
      <input ref="input" type="file" accept=".csv,text/csv" hidden aria-label="CSV file with words" @change="open" />
      <el-button size="large" :disabled="!words?.length" @click="save"
        ><Download :size="17" aria-hidden="true" /> Save as CSV</el-button
      >
    </div>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-if="told" class="notice good told" role="status">
      <span>{{ told }}</span><el-button v-if="done.length" size="small" :disabled="busy" @click="back"
        >Take it back</el-button
      >
    </p>
    <div class="both">
      <section class="surface" aria-label="Word list">
        <form class="add" @submit.prevent="add">
          <el-input v-model="added" aria-label="Add a word" placeholder="Add a word" maxlength="100" />
          <el-button type="primary" native-type="submit" :disabled="!added.trim()"
            ><Plus :size="16" aria-hidden="true" /> Add</el-button
          >
          <el-input v-model="wanted" aria-label="Search the list" placeholder="Search" clearable />
        </form>
        <p v-if="words?.length === 0" class="quiet">
          None yet. Add words here, open a file, or keep them as you correct captions.
        </p>
        <table v-else>
          <thead>
            <tr>
              <th scope="col">Word</th>
              <th scope="col">Heard as</th>
              <td></td>
            </tr>
          </thead>
          <tbody>
            <tr v-for="w in seen" :key="w.id">
              <td>
                <el-input
                  :model-value="w.text"
                  :aria-label="`Word ${w.text}`"
                  maxlength="100"
                  @change="rename(w, String($event))"
                />
              </td>
              <td>
                <el-input
                  :model-value="w.heard.join('; ')"
                  :aria-label="`What ${w.text} is heard as`"
                  placeholder="nothing else"
                  @change="rehear(w, String($event))"
                />
              </td>
              <td>
                <el-button
                  text
                  :aria-label="`Delete ${w.text}`"
                  @click="change((all) => all.filter((o) => o.id !== w.id))"
                  ><Trash2 :size="16" aria-hidden="true"
                /></el-button>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="words?.length" class="quiet">{{ seen.length }} of {{ sayCount(words.length, 'word', 'words') }}</p>
      </section>
      <section class="surface" aria-labelledby="misheard">
        <h2 id="misheard">Heard wrongly</h2>
        <p class="quiet">Looks in the captions of all lectures for what words of the list were heard as before.</p>
        <el-button :loading="busy" :disabled="!words?.some((w) => w.heard.length)" @click="look"
          >Look for them</el-button
        >
        <template v-if="offers">
          <p v-if="!offers.length" role="status">None is left.</p>
          <ul v-else aria-label="What could be replaced">
            <li v-for="o in offers" :key="`${o.wanted.find} ${o.wanted.replace}`">
              <div>
                “{{ o.wanted.find }}” by <strong>“{{ o.wanted.replace }}”</strong>
                <span class="quiet"
                  >{{ sayFound(o.found)
                  }}{{ o.sure === null ? '' : `, heard with ${Math.round(100 * o.sure)} %` }}</span
                >
                <details>
                  <summary>Where</summary>
                  <p v-for="f in o.found" :key="f.lectureId + f.name" class="quiet">
                    {{ f.title }}: {{ f.found.map((r) => `“${r.after}”`).join(' ') }}
                  </p>
                </details>
              </div>
              <el-button size="small" :disabled="busy" :aria-label="`Replace “${o.wanted.find}”`" @click="replace([o])"
                >Replace</el-button
              >
            </li>
          </ul>
          <el-button v-if="offers.length > 1" type="primary" :disabled="busy" @click="replace(offers)"
            >Replace all</el-button
          >
        </template>
      </section>
    </div>
  </div>
</template>

<style scoped>
.page {
  padding: 22px 24px;
  max-width: 1240px;
}
.top {
  display: flex;
  gap: 12px;
  align-items: flex-start;
  margin-bottom: 16px;
}
.top > div {
  flex: 1;
  min-width: 0;
}
.top h1,
.top p {
  margin: 0;
}
.top .el-button {
  margin: 0;
}
.both {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 16px;
  align-items: start;
}
.surface {
  padding: 16px;
}
.add {
  display: grid;
  grid-template-columns: 1fr auto 1fr;
  gap: 8px;
  align-items: center;
  margin-bottom: 12px;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-size: 14px;
  padding: 4px 6px;
}
td {
  padding: 3px 6px 3px 0;
}
td:last-child {
  width: 40px;
}
h2 {
  margin: 0 0 6px;
  font-size: 19px;
}
ul {
  list-style: none;
  margin: 12px 0;
  padding: 0;
}
li {
  display: flex;
  gap: 10px;
  justify-content: space-between;
  align-items: flex-start;
  padding: 8px 0;
  border-top: 1px solid var(--hairline);
}
li .quiet {
  display: block;
}
.told {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  align-items: center;
}
@media (max-width: 900px) {
  .both {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
