<script setup lang="ts">
/** A colour, chosen from the browser's own palette. */
defineProps<{ label: string; modelValue: string }>()
const emit = defineEmits<{ 'update:modelValue': [colour: string] }>()
</script>

<template>
  <label
    >{{ label }}
    <input
      type="color"
      :value="modelValue"
      @input="emit('update:modelValue', ($event.target as HTMLInputElement).value)"
      @keydown.stop
    />
  </label>
</template>

<style scoped>
label {
  display: inline-grid;
  gap: 2px;
  font-size: 13px;
  color: var(--quiet);
}
input {
  width: 46px;
  height: 28px;
  padding: 2px;
  border: 1px solid #b9c3c0;
  border-radius: var(--control-radius);
  background: var(--paper);
  cursor: pointer;
}
</style>
