<script setup lang="ts">
import { Plus, Settings2 } from 'lucide-vue-next'
import type { Course } from '#core/schema/lecture'
import type { CardRow } from '~/db/database'
import { cardsOf } from '~/services/cards'

/** A course of the term, with its lectures by week. Only what changes in this course is read anew. */
const props = defineProps<{ course: Course; weeks: number; thisWeek: number; folder: string }>()
const emit = defineEmits<{ add: [week: number]; settings: [] }>()
const all = useLive(() => cardsOf(props.course.id, props.folder), [() => props.course.id, () => props.folder])
const byWeek = computed(() => {
  const map = new Map<number, CardRow[]>()
  for (const card of all.value ?? []) {
    const there = map.get(card.lecture.week)
    if (there) there.push(card)
    else map.set(card.lecture.week, [card])
  }
  return map
})
</script>

<template>
  <tr>
    <th scope="row" class="course">
      <span class="mono">{{ course.code }}</span><br />{{ course.title }}
      <button type="button" class="settings" :aria-label="`Settings of ${course.code}`" @click="emit('settings')">
        <Settings2 :size="15" aria-hidden="true" />
      </button>
    </th>
    <td v-for="w in weeks" :key="w" :class="{ now: w === thisWeek }">
      <div class="cell">
        <LectureCard v-for="card in byWeek.get(w)" :key="card.lectureId" :card="card" />
        <button
          type="button"
          class="add"
          :aria-label="`New lecture in ${course.code}, week ${w}`"
          @click="emit('add', w)"
        >
          <Plus :size="16" aria-hidden="true" />
        </button>
      </div>
    </td>
  </tr>
</template>

<style scoped>
th,
td {
  border-bottom: 1px solid var(--hairline);
  border-right: 1px solid var(--hairline);
  vertical-align: top;
  text-align: left;
}
tr:last-child > * {
  border-bottom: 0;
}
td:last-child {
  border-right: 0;
}
.now {
  background: #f3f6f3;
}
.course {
  position: sticky;
  left: 0;
  z-index: 1;
  background: var(--paper);
  min-width: 136px;
  max-width: 136px;
  padding: 14px 12px;
  font-weight: 600;
  line-height: 1.3;
}
.course .mono {
  color: var(--quiet);
  font-weight: 400;
}
.settings {
  display: block;
  margin-top: 6px;
  padding: 3px;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--quiet);
  cursor: pointer;
}
.settings:hover {
  color: var(--ink);
  background: var(--snow);
}
.cell {
  position: relative;
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 8px 8px 12px;
  min-width: 110px;
  min-height: 52px;
}
.cell > .card ~ .add {
  position: absolute;
  right: 8px;
  bottom: -1px;
  padding: 0 4px;
  opacity: 0;
}
td:hover .add,
.add:focus-visible {
  opacity: 1 !important;
}
.add {
  align-self: start;
  border: 1px dashed transparent;
  background: none;
  border-radius: 6px;
  padding: 3px 8px;
  cursor: pointer;
  color: var(--quiet);
}
.add:hover,
.add:focus-visible {
  border-color: #b9c3c0;
  color: var(--tarn);
}
</style>
