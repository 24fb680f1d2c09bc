<script setup lang="ts">
import { Captions, CircleDot, HelpCircle, Scissors, Send } from 'lucide-vue-next'
import { marks, type Mark, type Readiness } from '#core/library/readiness'

defineProps<{ readiness: Readiness }>()
const icons: Record<Mark, typeof Send> = {
  recorded: CircleDot,
  tidied: Scissors,
  captioned: Captions,
  asked: HelpCircle,
  released: Send,
}
</script>

<template>
  <ul class="marks" aria-label="Readiness">
    <li v-for="m in marks" :key="m" :class="readiness.marks[m].state" :title="readiness.marks[m].says">
      <component :is="icons[m]" :size="15" aria-hidden="true" />
      <span class="unseen">{{ readiness.marks[m].says }}</span>
    </li>
  </ul>
</template>

<style scoped>
.marks {
  display: flex;
  gap: 4px;
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  width: 26px;
  height: 22px;
  display: grid;
  place-items: center;
  border-radius: 11px;
  border: 1px dashed #b9c3c0;
  color: #6d7b7f;
}
li.begun {
  border: 1px solid var(--marigold);
  background: var(--marigold-wash);
  color: var(--marigold-ink);
}
li.done {
  border: 1px solid var(--moss);
  background: var(--moss);
  color: #fff;
}
</style>
