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
const options = computed(() => {
  const tags: string[] = [...LANGUAGES]
  if (props.modelValue && !tags.includes(props.modelValue)) tags.push(props.modelValue)
  return tags.map((tag) => ({ tag, name: sayLanguage(tag) })).sort((a, b) => a.name.localeCompare(b.name))
})
function choose(typed: string | undefined): void {
  const tag = typed ? readLanguage(typed) : ''
  if (tag === null) ElMessage.warning(`“${typed}” is no language tag. Tags look like “fr” or “pt-BR”.`)
  else emit('update:modelValue', tag)
}
</script>

<template>
  <el-select
    :model-value="modelValue || undefined"
    :aria-label="label"
    :placeholder="none"
    :clearable="none !== undefined"
    filterable
    allow-create
    default-first-option
    @update:model-value="choose"
    ><el-option v-for="o in options" :key="o.tag" :value="o.tag" :label="o.name"
      >{{ o.name }} <span class="mono quiet">{{ o.tag }}</span></el-option
    ></el-select
  >
</template>
