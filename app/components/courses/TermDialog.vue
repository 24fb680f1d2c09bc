<script setup lang="ts">
import { Plus, Trash2 } from 'lucide-vue-next'
import { countWeeks, isDay, MOST_WEEKS, termProblems, weeksOf } from '#core/course/term'
import type { Term } from '#core/schema/term'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { countBeyondTerm, saveTerm, saveTermCopy } from '~/services/terms'
import { sayDays } from '~/utils/term-words'

/** A term that is made, changed, or copied with its courses. */
const props = defineProps<{ term: Term; title: string; copyOf?: string }>()
const emit = defineEmits<{ close: []; saved: [term: Term] }>()
const { focusFirst } = useFirstField()
const draft = reactive<Term>({ ...props.term, holidays: props.term.holidays.map((h) => ({ ...h })) })
const zones = [...new Set([props.term.timeZone, ...Intl.supportedValuesOf('timeZone'), 'Etc/UTC'])]
  .sort()
  .map((zone) => ({ value: zone, label: zone.replaceAll('_', ' ') }))

const tried = ref(false)
const busy = ref(false)
const failure = ref('')
const problems = computed(() => termProblems(draft))
const hasDays = computed(
  () =>
    isDay(draft.firstDay) && isDay(draft.lastDay) && draft.firstDay <= draft.lastDay && countWeeks(draft) <= MOST_WEEKS,
)
const summary = computed(() => {
  if (!hasDays.value) return ''
  const free = weeksOf({ ...draft, holidays: draft.holidays.filter((h) => isDay(h.from) && isDay(h.to)) }).filter(
    (w) => w.isFree,
  )
  const without = free.length ? `, ${sayCount(free.length, 'of them', 'of them')} without teaching` : ''
  return `${sayCount(countWeeks(draft), 'week', 'weeks')}${without}.`
})
const beyond = useLive(
  async () => (hasDays.value ? countBeyondTerm(draft.id, countWeeks(draft)) : 0),
  [() => [draft.firstDay, draft.lastDay]],
)
function addHoliday(): void {
  draft.holidays.push({ name: '', from: '', to: '' })
}
const span = (index: number): [string, string] | null => {
  const { from = '', to = '' } = draft.holidays[index] ?? {}
  return from && to ? [from, to] : null
}
function setSpan(index: number, days: [string, string] | null): void {
  const holiday = draft.holidays[index]
  if (holiday) Object.assign(holiday, { from: days?.[0] ?? '', to: days?.[1] ?? '' })
}
async function save(): Promise<void> {
  tried.value = true
  if (problems.value.length > 0 || busy.value) return
  busy.value = true
  failure.value = ''
  const holidays = draft.holidays
    .map((h) => ({ ...h, name: h.name.trim() }))
    .sort((a, b) => a.from.localeCompare(b.from))
  const term: Term = { ...toRaw(draft), name: draft.name.trim(), holidays }
  try {
    await (props.copyOf ? saveTermCopy(term, props.copyOf) : saveTerm(term))
    emit('saved', term)
    emit('close')
  } catch (error) {
    failure.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <el-dialog
    :model-value="true"
    :title="title"
    width="min(620px, 96vw)"
    @open-auto-focus="focusFirst"
    @close="emit('close')"
  >
    <form class="grid" @submit.prevent="save">
      <label for="term-name">Name</label
      ><el-input id="term-name" ref="first" v-model="draft.name" maxlength="80" placeholder="such as Autumn 2026" />
      <label for="term-first">First day</label
      ><el-date-picker
        id="term-first"
        v-model="draft.firstDay"
        type="date"
        format="D MMM YYYY"
        value-format="YYYY-MM-DD"
        :clearable="false"
        aria-label="First day"
      />
      <label for="term-last">Last day</label
      ><el-date-picker
        id="term-last"
        v-model="draft.lastDay"
        type="date"
        format="D MMM YYYY"
        value-format="YYYY-MM-DD"
        :clearable="false"
        aria-label="Last day"
      />
      <label for="term-zone">Time zone</label
      ><el-select-v2 id="term-zone" v-model="draft.timeZone" :options="zones" filterable aria-label="Time zone" />
      <span class="label">Holidays</span>
      <div class="holidays">
        <div
          v-for="(holiday, i) in draft.holidays"
          :key="i"
          class="holiday"
          role="group"
          :aria-label="`Holiday ${i + 1}`"
        >
          <el-input v-model="holiday.name" maxlength="80" placeholder="Name" :aria-label="`Name of holiday ${i + 1}`" />
          <el-date-picker
            :model-value="span(i)"
            type="daterange"
            format="D MMM YYYY"
            value-format="YYYY-MM-DD"
            start-placeholder="First day"
            end-placeholder="Last day"
            :clearable="false"
            :default-value="new Date(`${draft.firstDay}T12:00:00`)"
            :aria-label="`Days of holiday ${i + 1}`"
            @update:model-value="setSpan(i, $event as [string, string] | null)"
          />
          <button
            type="button"
            class="icon"
            :aria-label="`Delete holiday ${i + 1}`"
            :title="`Delete ${holiday.name || 'this holiday'}`"
            @click="draft.holidays.splice(i, 1)"
          >
            <Trash2 :size="16" aria-hidden="true" />
          </button>
        </div>
        <el-button size="small" :disabled="draft.holidays.length >= 60" @click="addHoliday"
          ><Plus :size="14" aria-hidden="true" /> Add a holiday</el-button
        >
      </div>
      <button type="submit" class="unseen" tabindex="-1" aria-hidden="true"></button>
    </form>
    <p v-if="hasDays" class="quiet sum">{{ sayDays(draft) }}: {{ summary }}</p>
    <p v-if="beyond && !copyOf" class="notice">
      {{ sayCount(beyond, 'lecture is', 'lectures are') }} in later weeks than this term has, and
      {{ beyond === 1 ? 'moves' : 'move' }} to its last week.
    </p>
    <div v-if="(tried && problems.length) || failure" class="notice bad" role="alert">
      <p v-for="p in tried ? problems : []" :key="p">{{ p }}</p>
      <p v-if="failure">{{ failure }}</p>
    </div>
    <template #footer
      ><el-button @click="emit('close')">Cancel</el-button
      ><el-button type="primary" :loading="busy" @click="save">{{
        copyOf ? 'Copy the term' : 'Save'
      }}</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  gap: 10px;
  align-items: center;
}
label,
.label {
  color: var(--quiet);
  font-size: 14px;
}
.label {
  align-self: start;
  padding-top: 4px;
}
.holidays {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.holiday {
  display: grid;
  grid-template-columns: minmax(90px, 2fr) minmax(0, 3fr) auto;
  gap: 6px;
  align-items: center;
  width: 100%;
}
.holiday :deep(.el-date-editor) {
  width: auto;
  min-width: 0;
}
.icon {
  border: 0;
  background: none;
  padding: 6px;
  color: var(--quiet);
  cursor: pointer;
  border-radius: 4px;
}
.icon:hover {
  background: var(--snow);
  color: var(--ink);
}
.sum {
  margin: 12px 0 0;
}
.notice p {
  margin: 0;
}
@media (max-width: 560px) {
  .grid,
  .holiday {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
