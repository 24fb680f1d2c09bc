<script setup lang="ts">
import { LANGUAGES, readLanguage, sayLanguage } from '#core/captions/languages'

/** A language, chosen from common ones or typed as a tag of BCP 47. */
const props = defineProps<{
  modelValue: string
  label: string
  /** What stands there while none is chosen; then none can be, too. */
  none?: string
}>()
const emit = defineEmits<{ 'update:modelValue': [tag: string] }>()
const typed = ref('')
const options = computed(() => {
  const tags = new Set<string>(LANGUAGES)
  if (props.modelValue) tags.add(props.modelValue)
  // Any other is there once its tag is typed, if it is one that has a name.
  const own = readLanguage(typed.value)
  if (own && sayLanguage(own) !== own) tags.add(own)
  const wanted = typed.value.trim().toLowerCase()
  // A language comes before what is spoken of it somewhere: who types “French” and Enter means that.
  const base = (tag: string) => sayLanguage(tag.split('-')[0] ?? tag)
  return [...tags]
    .map((tag) => ({ tag, name: sayLanguage(tag), of: base(tag) }))
    .filter(({ tag, name }) => name.toLowerCase().includes(wanted) || tag.toLowerCase().startsWith(wanted))
    .sort((a, b) => a.of.localeCompare(b.of) || a.tag.length - b.tag.length || a.name.localeCompare(b.name))
})
const filter = (letters: string) => {
  typed.value = letters
}
</script>

<template>
  <el-select
    :model-value="modelValue || undefined"
    :aria-label="label"
    :placeholder="none"
    :clearable="none !== undefined"
    filterable
    :filter-method="filter"
    default-first-option
    no-data-text="No language is called so. A tag, such as “pt-BR”, can be typed too."
    @update:model-value="emit('update:modelValue', $event ?? '')"
    ><el-option v-for="o in options" :key="o.tag" :value="o.tag" :label="o.name"
      >{{ o.name }} <span class="mono quiet">{{ o.tag }}</span></el-option
    ></el-select
  >
</template>
