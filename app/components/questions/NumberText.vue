<script setup lang="ts">
import { readNumber } from '#core/questions/kinds/number'

/** A number written as people write numbers; what is none is said, and changes nothing. */
const props = withDefaults(defineProps<{ value: number; label: string; least?: number }>(), { least: -1e15 })
const emit = defineEmits<{ change: [value: number] }>()

const text = ref(String(props.value))
watch(
  () => props.value,
  (now) => {
    if (readNumber(text.value) !== now) text.value = String(now)
  },
)
const read = computed(() => {
  const value = readNumber(text.value)
  return value !== null && value >= props.least && value <= 1e15 ? value : null
})
const take = () => {
  if (read.value !== null && read.value !== props.value) emit('change', read.value)
}
</script>

<template>
  <span class="number"
    ><el-input v-model="text" :aria-label="label" :aria-invalid="read === null" @change="take" /><span
      v-if="read === null"
      role="alert"
      >not a number that can be used here</span
    ></span
  >
</template>

<style scoped>
.number {
  display: inline-flex;
  flex-direction: column;
}
[role='alert'] {
  color: var(--ember);
  font-size: 13px;
}
</style>
