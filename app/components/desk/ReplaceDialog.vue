<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import type { Wanted } from '#core/captions/replace'
import type { Correction } from '#core/captions/word-list'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { sayInstant } from '#core/time/time-map'
import {
  findInTexts,
  replaceAll,
  sayFound,
  takeBack,
  textsIn,
  type FoundIn,
  type Replaced,
  type Scope,
  type TextsOf,
} from '~/services/replacing'
import { useDesk } from '~/stores/desk'

/** Finds words in captions, shows what replacing would change, and does it where that is wished. */
/** What was corrected just now, to begin with. */
const props = defineProps<{ correction?: Correction }>()
const emit = defineEmits<{ close: [] }>()
const desk = useDesk()
const wanted = reactive<Wanted>({
  ...{ find: props.correction?.heard ?? '', replace: props.correction?.said ?? '' },
  ...{ wholeWords: true, matchCase: false },
})
const reach = ref<'track' | 'lecture' | 'course'>(props.correction && desk.course ? 'course' : 'track')
const left = ref(new Set<string>())
const problem = ref('')
const done = shallowRef<Replaced | null>(null)
const told = ref('')
const busy = ref(false)

const scope = computed<Scope>(() => {
  const { id = '', courseId = '' } = desk.lecture ?? {}
  if (reach.value === 'course') return { courseId }
  return reach.value === 'lecture' ? { lectureId: id } : { lectureId: id, name: desk.track }
})
const scopeKey = computed(() => JSON.stringify(scope.value))
/** The texts of what was chosen, none while they are being read. Replacing looks at each document anew. */
const texts = shallowRef<TextsOf[]>()
let reading = new AbortController()
async function read(): Promise<void> {
  reading.abort()
  const { signal } = (reading = new AbortController())
  texts.value = undefined
  try {
    const found = await textsIn(scope.value, signal)
    if (!signal.aborted) texts.value = found
  } catch (error) {
    problem.value = errorMessage(error)
  }
}
watch(scopeKey, read, { immediate: true })
onScopeDispose(() => reading.abort())
/** What is looked for, once whoever writes it pauses. */
const sought = refDebounced(
  computed(() => ({ ...wanted })),
  120,
)
const all = computed<FoundIn[] | undefined>(() =>
  sought.value.find.trim() ? texts.value && findInTexts(texts.value, sought.value) : [],
)
/** What is shown is of what stands in the fields. */
const isSought = computed(() => JSON.stringify(sought.value) === JSON.stringify(wanted))
watch([() => wanted.find, reach], () => {
  left.value = new Set()
})
const keyOf = (of: FoundIn, cueId: string) => `${of.lectureId} ${of.name} ${cueId}`
const rows = computed(() =>
  (all.value ?? []).flatMap((of) =>
    of.found.map(({ cueId, from, before, after }) => ({
      ...{ key: keyOf(of, cueId), at: sayInstant(of.map, from), before, after },
      where: reach.value === 'track' ? '' : `${of.title}, ${of.says}`,
    })),
  ),
)
const chosen = computed(() =>
  (all.value ?? [])
    .map((of) => ({ ...of, found: of.found.filter((f) => !left.value.has(keyOf(of, f.cueId))) }))
    .filter((of) => of.found.length > 0),
)
const count = computed(() => chosen.value.reduce((sum, of) => sum + of.found.reduce((n, f) => n + f.count, 0), 0))
const primary = useTemplateRef<{ $el: HTMLElement }>('primary')
// What was corrected just now is found at once: one key more replaces it.
const stop = watch(count, async (n) => {
  if (!props.correction || n === 0) return
  stop()
  await nextTick()
  primary.value?.$el.focus()
})
function toggle(key: string): void {
  const next = new Set(left.value)
  if (!next.delete(key)) next.add(key)
  left.value = next
}

async function act(what: () => Promise<void>): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await desk.flush()
    await what()
  } catch (error) {
    problem.value = errorMessage(error)
    const n = done.value?.lectureIds.length ?? 0
    told.value = n > 0 ? `Replaced in ${sayCount(n, 'lecture', 'lectures')} before that.` : ''
  } finally {
    busy.value = false
    await desk.refresh()
    await read()
  }
}
const replace = () =>
  act(async () => {
    const lectures = new Set(chosen.value.map((c) => c.lectureId)).size
    done.value = await replaceAll(chosen.value, { ...sought.value }, (soFar) => {
      done.value = soFar.lectureIds.length > 0 ? soFar : null
      if (lectures > 1) told.value = `Replacing: ${soFar.lectureIds.length} of ${lectures} lectures done.`
    })
    told.value = `Replaced ${sayCount(done.value.count, 'time', 'times')} in ${sayCount(done.value.lectureIds.length, 'lecture', 'lectures')}.`
  })
const back = () =>
  act(async () => {
    if (!done.value) return
    const kept = await takeBack(done.value)
    done.value = null
    told.value = kept
      ? `Taken back, but in ${sayCount(kept, 'track', 'tracks')} something else was done since: go back there.`
      : 'Taken back.'
  })
</script>

<template>
  <el-dialog :model-value="true" title="Find and replace" width="min(680px, 94vw)" top="6vh" @close="emit('close')">
    <form class="form" @submit.prevent>
      <el-input v-model="wanted.find" aria-label="Find" placeholder="Find" maxlength="200" clearable />
      <el-input v-model="wanted.replace" aria-label="Replace by" placeholder="Replace by" maxlength="200" />
      <div>
        <el-checkbox v-model="wanted.wholeWords">Whole words</el-checkbox>
        <el-checkbox v-model="wanted.matchCase">Capitals count</el-checkbox>
      </div>
      <el-radio-group v-model="reach" aria-label="Where">
        <el-radio value="track">This track</el-radio>
        <el-radio value="lecture">All tracks of the lecture</el-radio>
        <el-radio v-if="desk.course" value="course">All of {{ desk.course?.code }}</el-radio>
      </el-radio-group>
    </form>
    <p v-if="wanted.find.trim() && !all" role="status">Reading the captions …</p>
    <p v-else-if="sought.find.trim() && all" role="status">
      {{ all.length ? `Found ${sayFound(all)}.` : 'Not found.' }}
    </p>
    <CueChanges :changes="rows" :left="left" does="Replace" @toggle="toggle" />
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-if="told" class="notice good told" role="status">
      <span>{{ told }}</span><el-button v-if="done" size="small" :disabled="busy" @click="back">Take it back</el-button>
    </p>
    <template #footer>
      <el-button @click="emit('close')">Close</el-button>
      <el-button ref="primary" type="primary" :loading="busy" :disabled="count === 0 || !isSought" @click="replace"
        >Replace {{ sayCount(count, 'time', 'times') }}</el-button
      >
    </template>
  </el-dialog>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.form > :nth-child(n + 3) {
  grid-column: 1 / -1;
}
.told {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
</style>
