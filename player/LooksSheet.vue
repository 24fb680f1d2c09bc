<script setup lang="ts">
import { useTemplateRef } from 'vue'
import { grounds, places, sizes, type Looks } from './looks'
import { useFocusInside } from './use-focus-inside'

/** Size, ground and place of the captions, seen at once. */
const props = defineProps<{ looks: Looks }>()
const emit = defineEmits<{ close: []; change: [looks: Looks] }>()
const says = {
  ...{ small: 'Small', usual: 'Usual', large: 'Large', largest: 'Largest' },
  ...{ dark: 'Dark', solid: 'Black', light: 'White', none: 'None, with an outline' },
  ...{ 'as the lecture has it': 'As the lecture has it', foot: 'At the foot', top: 'At the top' },
}
const choices = [
  { name: 'size', title: 'Size', options: Object.keys(sizes) },
  { name: 'ground', title: 'Ground', options: Object.keys(grounds) },
  { name: 'place', title: 'Place', options: places },
] as const
const sheet = useTemplateRef<HTMLElement>('sheet')
useFocusInside(sheet)
</script>

<template>
  <div
    ref="sheet"
    class="looks"
    role="dialog"
    aria-modal="true"
    aria-label="How captions look"
    tabindex="-1"
    @keydown.esc="emit('close')"
  >
    <fieldset v-for="{ name, title, options } in choices" :key="name">
      <legend>{{ title }}</legend>
      <label v-for="option in options" :key="option">
        <input
          type="radio"
          :name="name"
          :value="option"
          :checked="props.looks[name] === option"
          @change="emit('change', { ...props.looks, [name]: option })"
        />
        {{ says[option as keyof typeof says] }}
      </label>
    </fieldset>
    <button type="button" class="main" @click="emit('close')">Done</button>
  </div>
</template>

<style scoped>
.looks {
  position: absolute;
  inset: 12px 12px auto auto;
  z-index: 12;
  max-height: calc(100% - 24px);
  overflow: auto;
  padding: 12px 18px 16px;
  border-radius: 10px;
  background: var(--paper);
  color: var(--ink);
  box-shadow: 0 6px 24px rgb(12 20 23 / 30%);
}
fieldset {
  border: 0;
  margin: 0 0 8px;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
}
legend {
  padding: 0;
  font-weight: 700;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
  min-height: 44px;
}
</style>
