<script setup lang="ts">
import { formatTimecode, parseTimecode } from '#core/time/timecode'

/** A time that is typed: shown as a timecode, given back in seconds when it can be read. */
const props = withDefaults(
  defineProps<{
    modelValue: number
    label: string
    max?: number
    decimals?: number
    /** What is said beneath while the time can be read. */
    beside?: string | undefined
  }>(),
  {
    max: 86_400,
    decimals: 2,
    beside: undefined,
  },
)
const emit = defineEmits<{ 'update:modelValue': [seconds: number] }>()
const text = ref('')
const noteId = useId()
const bad = ref(false)
watch(
  () => props.modelValue,
  (t) => {
    text.value = formatTimecode(t, props.decimals)
    bad.value = false
  },
  { immediate: true },
)

function commit(): void {
  const seconds = parseTimecode(text.value)
  bad.value = seconds === null || seconds > props.max + 0.005
  if (seconds === null || bad.value) return
  text.value = formatTimecode(seconds, props.decimals)
  if (Math.abs(seconds - props.modelValue) > 10 ** -props.decimals / 2) emit('update:modelValue', seconds)
}
</script>

<template>
  <label class="field"
    ><span>{{ label }}</span>
    <input
      v-model="text"
      class="mono"
      :aria-label="label"
      :aria-describedby="noteId"
      :aria-invalid="bad"
      :title="bad ? `Write a time such as 1:23.5, up to ${formatTimecode(max, 1)}` : undefined"
      @change="commit"
      @keydown.enter.prevent="commit"
    />
    <small v-if="bad" :id="noteId" role="alert">such as 1:23.5, up to {{ formatTimecode(max, 1) }}</small>
    <small v-else-if="beside" :id="noteId" class="beside">{{ beside }}</small>
  </label>
</template>

<style scoped>
.field {
  display: inline-flex;
  flex-direction: column;
  font-size: 14px;
  color: var(--quiet);
}
input {
  width: 104px;
  padding: 5px 8px;
  border: 1px solid #b9c3c0;
  border-radius: var(--control-radius);
  background: var(--paper);
  color: var(--ink);
  font-size: 14px;
}
input[aria-invalid='true'] {
  border-color: var(--ember);
}
small {
  color: var(--ember);
  max-width: 120px;
}
small.beside {
  color: var(--quiet);
}
</style>
