<script setup lang="ts">
import { usedComments, type AnswerToMark } from '#core/results/marking'
import type { GradingEntry } from '#core/schema/grading'
import { db } from '~/db/database'

/** Points and a comment for one answer. What is begun is kept until it is given. */
const props = defineProps<{ answer: AnswerToMark; entries: readonly GradingEntry[] }>()
const emit = defineEmits<{
  mark: [given: { points: number; rubric: Record<string, number>; comment: string }]
  go: [by: 1 | -1]
}>()

interface Begun {
  points: number | null
  rubric: Record<string, number>
  comment: string
}
const { open, key } = props.answer.question
const rubric = 'rubric' in key ? key.rubric : []
const { mark } = props.answer
const given = reactive<Begun>({
  points: mark?.points ?? null,
  rubric: { ...mark?.rubric },
  comment: mark?.comment ?? '',
})
const draftKey = `marking ${props.answer.id}`
const changed = ref(false)
onMounted(async () => {
  const kept = await db.settings.get(draftKey)
  if (!kept || changed.value) return
  Object.assign(given, JSON.parse(kept.value) as Begun)
  changed.value = true
})
let resting: ReturnType<typeof setTimeout> | undefined
const keepDraft = () => {
  clearTimeout(resting)
  resting = undefined
  return db.settings.put({ key: draftKey, value: JSON.stringify(given) })
}
function change(): void {
  changed.value = true
  clearTimeout(resting)
  resting = setTimeout(() => void keepDraft(), 400)
}
onBeforeUnmount(() => {
  if (resting) void keepDraft()
})

/** By the rubric where there is one: its lines are the points. */
const points = computed(() => {
  if (rubric.length === 0) return given.points
  if (rubric.some((c) => given.rubric[c.id] === undefined)) return null
  return Math.round(100 * rubric.reduce((sum, c) => sum + (given.rubric[c.id] ?? 0), 0)) / 100
})
const setLine = (id: string, value: number | null | undefined) => {
  if (value === null || value === undefined) delete given.rubric[id]
  else given.rubric[id] = value
  change()
}
const setPoints = (value: number | null | undefined) => {
  given.points = value ?? null
  change()
}
/** All points, or none. */
function setAll(share: 0 | 1): void {
  for (const c of rubric) given.rubric[c.id] = share * c.points
  given.points = share * open.points
  change()
}
const used = computed(() =>
  usedComments(props.entries, open.id).filter(
    (c) => c !== given.comment.trim() && c.toLowerCase().includes(given.comment.trim().toLowerCase()),
  ),
)
const commentField = useTemplateRef<{ focus(): void }>('comment')
function take(comment: string): void {
  given.comment = comment
  change()
  // What was pressed is gone then; the keys go on from here.
  commentField.value?.focus()
}
async function keep(): Promise<void> {
  if (points.value === null) return
  clearTimeout(resting)
  resting = undefined
  const ids = new Set(rubric.map((c) => c.id))
  const lines = Object.fromEntries(Object.entries(given.rubric).filter(([id]) => ids.has(id)))
  emit('mark', { points: points.value, rubric: lines, comment: given.comment.trim() })
  changed.value = false
  await db.settings.delete(draftKey)
}
</script>

<template>
  <form
    aria-label="Mark"
    @submit.prevent="keep"
    @keydown.ctrl.enter.prevent="keep"
    @keydown.meta.enter.prevent="keep"
    @keydown.alt.down.prevent="emit('go', 1)"
    @keydown.alt.up.prevent="emit('go', -1)"
  >
    <ul v-if="rubric.length" class="rubric">
      <li v-for="c in rubric" :key="c.id">
        <span :id="`line-${c.id}`">{{ c.text }}</span>
        <el-input-number
          :model-value="given.rubric[c.id]"
          :min="0"
          :max="c.points"
          :step="0.5"
          size="small"
          controls-position="right"
          :aria-label="`Points for: ${c.text}`"
          @update:model-value="setLine(c.id, $event)"
        /><span class="quiet">of {{ c.points }}</span>
      </li>
    </ul>
    <div class="points">
      <template v-if="rubric.length"
        ><strong>{{ points ?? '–' }}</strong> of {{ open.points }} points</template
      >
      <template v-else
        ><el-input-number
          :model-value="given.points ?? undefined"
          :min="0"
          :max="open.points"
          :step="0.5"
          controls-position="right"
          aria-label="Points"
          @update:model-value="setPoints"
        />
        of {{ open.points }} points</template
      >
      <span class="quick"
        ><el-button size="small" @click="setAll(1)">All</el-button
        ><el-button size="small" @click="setAll(0)">None</el-button></span
      >
    </div>
    <label for="mark-comment">Comment for the student</label>
    <el-input
      id="mark-comment"
      ref="comment"
      v-model="given.comment"
      type="textarea"
      :rows="4"
      maxlength="4000"
      @input="change"
    />
    <ul v-if="used.length" class="used" aria-label="Used before">
      <li v-for="c in used.slice(0, 6)" :key="c">
        <button type="button" :aria-label="`Use: ${c}`" @click="take(c)">{{ c }}</button>
      </li>
    </ul>
    <div class="actions">
      <el-button native-type="submit" type="primary" :disabled="points === null"
        >{{ mark && !changed ? 'Marked' : 'Keep' }} and go on</el-button
      >
      <el-button @click="emit('go', 1)">Skip</el-button>
    </div>
    <p class="quiet keys">
      <kbd>Ctrl</kbd> <kbd>Enter</kbd> keeps and goes on; <kbd>Alt</kbd> <kbd>↓</kbd> <kbd>↑</kbd>, or <kbd>J</kbd>
      <kbd>K</kbd>, go to others.
    </p>
  </form>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.rubric,
.used {
  list-style: none;
  margin: 0;
  padding: 0;
}
.rubric li {
  display: grid;
  grid-template-columns: 1fr 92px 44px;
  gap: 8px;
  align-items: center;
  padding: 5px 0;
  border-bottom: 1px solid var(--hairline);
  line-height: 1.35;
}
.rubric .el-input-number {
  width: 92px;
}
.points {
  display: flex;
  align-items: center;
  gap: 8px;
  flex-wrap: wrap;
}
.points strong {
  font-size: 22px;
}
.points .el-input-number {
  width: 110px;
}
.quick {
  margin-left: auto;
}
.used button {
  width: 100%;
  text-align: left;
  border: 0;
  border-bottom: 1px solid var(--hairline);
  background: none;
  padding: 5px 2px;
  cursor: pointer;
  font-size: 15px;
  line-height: 1.35;
}
.used button:hover {
  background: var(--tarn-wash);
}
.keys {
  font-size: 14px;
  margin: 0;
}
</style>
