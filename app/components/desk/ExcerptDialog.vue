<script setup lang="ts">
import { useObjectUrl } from '@vueuse/core'
import { editTimeMap } from '#core/edit/edit'
import { projectChapters } from '#core/marks/chapters'
import { errorMessage } from '#core/text/error-message'
import { toRecorded } from '#core/time/time-map'
import { formatTimecode, sayDuration } from '#core/time/timecode'
import { result } from '#core/time/units'
import { db, type AssetRow } from '~/db/database'
import { documentOf } from '~/services/fingerprint'
import { bringExcerpt } from '~/services/excerpts'
import { loadCheckedParts } from '~/services/lectures'
import { useDesk } from '~/stores/desk'
import { JobCancelled, useJobs } from '~/stores/jobs'

/** Chooses a stretch of another lecture, and gives it out as a video. */
const emit = defineEmits<{ close: []; take: [assets: AssetRow[]] }>()
const desk = useDesk()
const jobs = useJobs()
const lectures = useLive(async () => {
  const courses = new Map((await db.courses.toArray()).map((c) => [c.id, c.code]))
  return (await db.cards.toArray())
    .filter((c) => c.duration !== null && c.lectureId !== desk.lecture?.id)
    .map(({ lectureId, lecture }) => ({
      id: lectureId,
      says: `${courses.get(lecture.courseId) ?? ''} ${lecture.title}`,
    }))
    .sort((a, b) => a.says.localeCompare(b.says))
})
const chosen = ref('')
const problem = ref('')
const busy = ref(false)
const parts = useLive(() => (chosen.value ? loadCheckedParts(chosen.value) : Promise.resolve(null)), [chosen])
const map = computed(() => {
  const edit = parts.value && documentOf(parts.value, 'edit')
  return edit && editTimeMap(edit)
})
const from = ref(0)
const to = ref(0)
watch([chosen, map], ([id, now], [before]) => {
  if (id !== before) from.value = to.value = 0
  if (now && to.value <= from.value) to.value = now.length
})
const length = computed(() => Math.min(to.value, map.value?.length ?? 0) - from.value)
/** The chapters of it, each until the next. */
const chapters = computed(() => {
  const now = map.value
  const list = parts.value && documentOf(parts.value, 'chapters')
  if (!now || !list) return []
  const { visible } = projectChapters(list.chapters, now)
  return visible.map(({ item, at }, i) => ({ title: item.title, from: at, to: visible[i + 1]?.at ?? now.length }))
})
/** The small picture that was made nearest to where the stretch begins. */
const still = useLive(async () => {
  const now = map.value
  const recording = parts.value?.recording
  if (!now || !recording) return null
  const at = toRecorded(now, result(from.value))
  const take = recording.takes.findLast((t) => t.from <= at) ?? recording.takes[0]
  const rows = take ? await db.stills.where('takeId').equals(take.id).toArray() : []
  const near = rows.filter((r) => r.kind === 'thumbnail').sort((a, b) => distance(a.at) - distance(b.at))[0]
  return near?.image ?? null

  function distance(own: number): number {
    return Math.abs(own + (take?.from ?? 0) - at)
  }
}, [map, from])
const picture = useObjectUrl(() => still.value ?? null)

async function take(): Promise<void> {
  const own = desk.lecture?.id
  if (!parts.value || !own) return
  busy.value = true
  problem.value = ''
  try {
    const range = { from: result(from.value), to: result(from.value + length.value) }
    const asset = await bringExcerpt(parts.value, range, own, jobs)
    if (desk.lecture?.id === own) emit('take', [asset])
    emit('close')
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <el-dialog :model-value="true" title="A stretch of another lecture" width="min(560px, 94vw)" @close="emit('close')">
    <p v-if="lectures?.length === 0">No other lecture is recorded yet.</p>
    <template v-else>
      <el-select v-model="chosen" filterable placeholder="Which lecture" aria-label="Lecture" class="wide"
        ><el-option v-for="l in lectures" :key="l.id" :value="l.id" :label="l.says"
      /></el-select>
      <p class="quiet">It is put in as students see it there: cut, and with what lies over it.</p>
      <div v-if="map" class="row">
        <img v-if="picture" :src="picture" alt="Where it begins" />
        <TimeField v-model="from" label="From" :max="map.length" /><TimeField
          v-model="to"
          label="To"
          :max="map.length"
        />
        <span class="quiet">{{ length > 0 ? sayDuration(length) : 'Nothing yet' }}</span>
      </div>
      <ul v-if="chapters.length" aria-label="Its chapters">
        <li v-for="c in chapters" :key="c.from">
          <button type="button" @click="((from = c.from), (to = c.to))">
            <span class="mono">{{ formatTimecode(c.from, 1) }}</span> {{ c.title || 'Chapter' }}
          </button>
        </li>
      </ul>
    </template>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-if="busy" class="quiet" role="status">It is being made; how far it is stands under Jobs.</p>
    <template #footer>
      <el-button type="primary" :loading="busy" :disabled="!map || length < 0.1" @click="take">Put it in</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.wide {
  width: 100%;
}
.row {
  display: flex;
  align-items: end;
  gap: 12px;
}
.row img {
  width: 120px;
  aspect-ratio: 16 / 9;
  object-fit: contain;
  background: #000;
  border-radius: 5px;
}
ul {
  list-style: none;
  margin: 10px 0 0;
  padding: 0;
  max-height: 30vh;
  overflow: auto;
}
li button {
  width: 100%;
  border: 0;
  border-top: 1px solid var(--hairline);
  background: none;
  color: var(--ink);
  padding: 6px 4px;
  text-align: left;
  cursor: pointer;
}
li button:hover {
  background: var(--snow);
}
</style>
